import { toast } from 'sonner';
import { LAST_TICK } from '#api/index.ts';
import {
  metreTicks,
  shiftChanges,
  shiftedTick,
  shiftMoments,
  shiftSpans,
  type Shifted,
  type TimeShift,
} from '#core/music/index.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { cueOf, metreOf } from '../../state/cue.ts';
import type { Edit } from '../../state/diff.ts';
import { edit, listOf, useDocuments, type Item } from '../../state/documents.ts';

export const MOST_BARS = 999;

/** The bar at the playhead, from 1. */
export function barAtPlayhead(): number {
  return metreOf(useDocuments.getState().records).toBarBeat(usePerformance.getState().restTick).bar;
}

/** Puts empty bars before the one at the playhead, of the metre that holds up to there; everything behind moves along. */
export function insertBars(count: number): void {
  const { records } = useDocuments.getState();
  const bar = barAtPlayhead();
  const metre = metreOf(records);
  const at = metre.barStart(bar);
  shiftCue({ at, ticks: count * metreTicks(metre.at(Math.max(0, at - 1))).bar }, `Insert ${bars(count)}`);
}

/** Takes out the bar at the playhead and those after it, with what begins there; everything behind moves along. */
export function removeBars(count: number): void {
  const { records } = useDocuments.getState();
  const bar = barAtPlayhead();
  const metre = metreOf(records);
  const at = metre.barStart(bar);
  shiftCue({ at, ticks: at - metre.barStart(bar + count) }, `Remove ${bars(count)}`);
}

const bars = (count: number) => (count === 1 ? 'a bar' : `${count} bars`);

/** Everything of the open cue that stands in time, moved as one step. */
function shiftCue(shift: TimeShift, label: string): void {
  const { records, cueId } = useDocuments.getState();
  const cue = cueOf(records, cueId);
  if (!cue) return;
  const spans = [...listOf(records, 'note'), ...listOf(records, 'mark')];
  const last = spans.reduce((most, { endTick }) => Math.max(most, endTick), cue.endTick);
  if (last + shift.ticks > LAST_TICK) {
    toast.error('The cue would become too long. Insert fewer bars.');
    return;
  }
  // A place that is taken out is where the rest closes up.
  const moved = (tick: number) => shiftedTick(tick, shift) ?? shift.at;
  const held = <T extends { id: string; tick: number }>(list: readonly T[]) =>
    shift.ticks > 0 ? shiftMoments(list, shift) : shiftChanges(list, shift);
  edit(label, [
    {
      kind: 'cue',
      id: cue.id,
      op: 'update',
      fields: {
        endTick: moved(cue.endTick),
        ...(cue.loopEndTick > shift.at && {
          loopStartTick: moved(cue.loopStartTick),
          loopEndTick: moved(cue.loopEndTick),
        }),
      },
    },
    ...editsOf('tempo', shiftChanges(listOf(records, 'tempo'), shift)),
    ...editsOf('metre', shiftChanges(listOf(records, 'metre'), shift)),
    ...editsOf('signature', shiftChanges(listOf(records, 'signature'), shift)),
    ...editsOf('marker', shiftMoments(listOf(records, 'marker'), shift)),
    ...takesMoved(listOf(records, 'take'), moved),
    ...editsOf('note', shiftSpans(listOf(records, 'note'), shift, false)),
    ...editsOf('mark', shiftSpans(listOf(records, 'mark'), shift, true)),
    ...grouped(listOf(records, 'point'), ({ partId, controller }) => `${partId} ${controller}`).flatMap(
      (list) => editsOf('point', held(list)),
    ),
    ...grouped(
      listOf(records, 'levelPoint'),
      ({ trackId, positionId }) => `${trackId} ${positionId}`,
    ).flatMap((list) => editsOf('levelPoint', held(list))),
  ]);
}

function editsOf(kind: Edit['kind'], { update, remove }: Shifted<object>): Edit[] {
  return [
    ...update.map(({ id, ...fields }): Edit => ({ kind, id, op: 'update', fields })),
    ...remove.map((id): Edit => ({ kind, id, op: 'remove' })),
  ];
}

/** Points curve by curve. */
function grouped<T>(list: readonly T[], nameOf: (one: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const one of list) {
    const group = groups.get(nameOf(one));
    if (group) group.push(one);
    else groups.set(nameOf(one), [one]);
  }
  return [...groups.values()];
}

/** Takes stay where what they were played to goes; one of which nothing is left goes as well. */
function takesMoved(takes: readonly Item<'take'>[], moved: (tick: number) => number): Edit[] {
  return takes.flatMap(({ id, fromTick, toTick }): Edit[] => {
    const fields = { fromTick: moved(fromTick), toTick: moved(toTick) };
    if (fields.toTick <= fields.fromTick) return [{ kind: 'take', id, op: 'remove' }];
    if (fields.fromTick === fromTick && fields.toTick === toTick) return [];
    return [{ kind: 'take', id, op: 'update', fields }];
  });
}

import { toast } from 'sonner';
import { create } from 'zustand';
import { LAST_TICK } from '#api/index.ts';
import {
  clearedChanges,
  clearedTempos,
  copiedChanges,
  copiedTempos,
  curveOf,
  curveWithin,
  withPlayed,
  type ComingIn,
  type CurveSpan,
  type KeyChange,
  type MetreChange,
  type Part,
  type Played,
  type TempoChange,
} from '#core/music/index.ts';
import { cueOf, orderedTracks, partOf } from '../../state/cue.ts';
import type { Edit } from '../../state/diff.ts';
import { edit, listOf, useDocuments } from '../../state/documents.ts';
import { newRecordId, partEdits, reachEdits } from '../../state/part-edits.ts';

/** Most repeats of a span at once. */
export const MOST_REPEATS = 64;

/** Whether tempos, metres, keys and markers go along with a span that is copied, moved or repeated. */
export const useSpanChoice = create<{ takesTime: boolean }>(() => ({ takesTime: false }));

/** The loop as a span of the cue; undefined without one. */
export function loopSpan(): CurveSpan | undefined {
  const { records, cueId } = useDocuments.getState();
  const cue = cueOf(records, cueId);
  return cue && cue.loopEndTick > cue.loopStartTick
    ? { fromTick: cue.loopStartTick, toTick: cue.loopEndTick }
    : undefined;
}

/** Copies what all tracks have in a span to another place, over what is there. */
export function copySpan(span: CurveSpan, toTick: number): void {
  put('Copy the span', span, [toTick]);
}

/** Puts copies of a span behind it, one after the other, over what is there. */
export function repeatSpan(span: CurveSpan, times: number): void {
  const length = span.toTick - span.fromTick;
  put(
    times === 1 ? 'Repeat the span' : `Repeat the span ${times} times`,
    span,
    Array.from({ length: times }, (_, i) => span.toTick + i * length),
  );
}

/** Takes what all tracks have in a span out, and leaves the time. */
export function clearSpan(span: CurveSpan): void {
  const edits = eachPart((part, into) => cleared(part, span, into));
  if (edits.length > 0) edit('Clear the span', edits);
}

/** Moves what all tracks have in a span to another place. @returns false where it would come upon itself */
export function moveSpan(span: CurveSpan, toTick: number): boolean {
  if (toTick < span.toTick && toTick + span.toTick - span.fromTick > span.fromTick) return false;
  put('Move the span', span, [toTick], true);
  return true;
}

function put(label: string, span: CurveSpan, places: readonly number[], leaves = false): void {
  const length = span.toTick - span.fromTick;
  const last = Math.max(...places) + length;
  if (last > LAST_TICK) {
    toast.error('The cue would become too long.');
    return;
  }
  const edits = eachPart((part, into) => {
    const own = within(part, span);
    return places.reduce(
      (next, place) =>
        withPlayed(next, shifted(own, place - span.fromTick), {
          ...into,
          replaces: { fromTick: place, toTick: place + length },
        }),
      leaves ? cleared(part, span, into) : part,
    );
  });
  const time = useSpanChoice.getState().takesTime ? timeEdits(span, places, leaves) : [];
  edit(label, [...edits, ...time, ...reachEdits(last)]);
}

const STANDARD_METRE = { numerator: 4, denominator: 4 };
const NO_SIGNS = { fifths: 0 };

/** Tempos, metres, keys and markers of a span at other places too. */
function timeEdits(span: CurveSpan, places: readonly number[], leaves: boolean): Edit[] {
  const { records } = useDocuments.getState();
  const each = <T>(
    list: readonly T[],
    copy: (list: readonly T[], place: number) => T[],
    clear: (list: readonly T[]) => T[],
  ) => places.reduce((next, place) => copy(next, place), leaves ? clear(list) : [...list]);
  const holding = <T extends { tick: number }>(list: readonly T[], without: Omit<T, 'tick'>) =>
    each<T>(
      list,
      (next, place) => copiedChanges(next, span, place, without, list),
      (next) => clearedChanges(next, span, without),
    );
  const tempos = listOf(records, 'tempo');
  const metres: readonly MetreChange[] = listOf(records, 'metre');
  const keys: readonly KeyChange[] = listOf(records, 'signature');
  const markers: readonly Marker[] = listOf(records, 'marker');
  const inside = ({ tick }: Marker) => tick >= span.fromTick && tick < span.toTick;
  return [
    ...changeEdits(
      'tempo',
      tempos,
      each<TempoChange>(
        tempos,
        (next, place) => copiedTempos(next, span, place, tempos),
        (next) => clearedTempos(next, span),
      ).map((one) => ({ ...one, ramp: one.ramp ?? false })),
    ),
    ...changeEdits('metre', metres, holding(metres, STANDARD_METRE)),
    ...changeEdits('signature', keys, holding(keys, NO_SIGNS)),
    // Markers of the place stay: they are somebody's words.
    ...changeEdits('marker', markers, [
      ...(leaves ? markers.filter((one) => !inside(one)) : markers),
      ...places.flatMap((place) =>
        markers.filter(inside).map(({ tick, text }) => ({ tick: tick - span.fromTick + place, text })),
      ),
    ]),
  ];
}

interface Marker {
  tick: number;
  text: string;
}

/** Edits by which changes become others: those without an id are new. */
function changeEdits(kind: Edit['kind'], before: readonly object[], after: readonly object[]): Edit[] {
  const idOf = (one: object) => (one as { id?: string }).id;
  const old = new Map(before.map((one) => [idOf(one), one]));
  const kept = new Set(after.map(idOf));
  return [
    ...before.flatMap((one): Edit[] => {
      const id = idOf(one);
      return id === undefined || kept.has(id) ? [] : [{ kind, id, op: 'remove' }];
    }),
    ...after.flatMap((one): Edit[] => {
      const { id, version: _version, ...fields } = one as { id?: string; version?: number };
      if (id === undefined) return [{ kind, id: newRecordId(), op: 'add', fields }];
      return one === old.get(id) ? [] : [{ kind, id, op: 'update', fields }];
    }),
  ];
}

/** Edits of all tracks that have a part in the open cue. */
function eachPart(change: (part: Part, into: ComingIn) => Part): Edit[] {
  const { records } = useDocuments.getState();
  return orderedTracks(records).flatMap((track) => {
    const { id, part } = partOf(records, track.id);
    if (id === undefined) return [];
    return partEdits(part, change(part, { unmarked: track.articulation, newId: newRecordId }), id);
  });
}

/** A part without notes and marks in a span; its curves go straight there from the beginning to the end of it. */
function cleared(part: Part, span: CurveSpan, into: ComingIn): Part {
  const ridden = controllersOf(part).flatMap((controller) => {
    const line = curveWithin(curveOf(part.points, controller), span);
    return line.length > 2 ? [{ controller, points: [line[0], line[line.length - 1]] }] : [];
  });
  return withPlayed(part, { notes: [], stretches: [], ridden }, { ...into, replaces: span });
}

/** What a part has in a span: notes that begin in it, cut at its end, and marks and curves over it. */
function within(part: Part, { fromTick, toTick }: CurveSpan): Played {
  return {
    notes: part.notes
      .filter(({ startTick }) => startTick >= fromTick && startTick < toTick)
      .map(({ startTick, endTick, key, velocity, syllable }) => ({
        startTick,
        endTick: Math.min(endTick, toTick),
        key,
        velocity,
        ...(syllable ? { syllable } : {}),
      })),
    stretches: part.marks
      .filter(({ startTick, endTick }) => startTick < toTick && endTick > fromTick)
      .map(({ startTick, endTick, articulation }) => ({
        startTick: Math.max(startTick, fromTick),
        endTick: Math.min(endTick, toTick),
        articulation,
      })),
    ridden: controllersOf(part).flatMap((controller) => {
      const points = curveWithin(curveOf(part.points, controller), { fromTick, toTick: toTick - 1 });
      return points.length > 0 ? [{ controller, points }] : [];
    }),
  };
}

const controllersOf = ({ points }: Part) => [...new Set(points.map(({ controller }) => controller))];

function shifted({ notes, stretches, ridden }: Played, ticks: number): Played {
  const moved = <T extends { startTick: number; endTick: number }>(one: T): T => ({
    ...one,
    startTick: one.startTick + ticks,
    endTick: one.endTick + ticks,
  });
  return {
    notes: notes.map(moved),
    stretches: stretches.map(moved),
    ridden: ridden.map(({ controller, points }) => ({
      controller,
      points: points.map(({ tick, value }) => ({ tick: tick + ticks, value })),
    })),
  };
}

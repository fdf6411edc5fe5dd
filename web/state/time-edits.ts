import { naturalId } from '#api/index.ts';
import {
  BPM,
  changeAt,
  fitFrom,
  fittedBpm,
  STANDARD_BPM,
  writeTime,
  type TempoMap,
} from '#core/music/index.ts';
import { clamp, TICKS_PER_QUARTER } from '#core/units/index.ts';
import type { Edit } from './diff.ts';
import { metreOf, tempoOf } from './cue.ts';
import { edit, listOf, useDocuments, type Item } from './documents.ts';

/** Sets the tempo that holds at a tick; where it is on its way to another, it goes through the new one from then on. */
export function setTempo(tick: number, bpm: number): void {
  const { records, cueId } = useDocuments.getState();
  const value = clamp(bpm, BPM.low, BPM.high);
  const tempo = changeAt(listOf(records, 'tempo'), tick);
  if (tempo && tick > tempo.tick && isOnItsWay(tempo))
    edit('Tempo', [
      { kind: 'tempo', id: crypto.randomUUID(), op: 'add', fields: { tick, bpm: value, ramp: true } },
    ]);
  else if (tempo)
    edit('Tempo', [{ kind: 'tempo', id: tempo.id, op: 'update', fields: { bpm: value } }], 'tempo');
  else if (cueId)
    edit('Tempo', [
      {
        kind: 'tempo',
        id: naturalId('tempo', cueId, 0),
        op: 'add',
        fields: { tick: 0, bpm: value, ramp: false },
      },
    ]);
}

/** True where a tempo moves, since it does and there is one to move to. */
export function isOnItsWay({ ramp, tick }: Item<'tempo'>): boolean {
  return ramp && listOf(useDocuments.getState().records, 'tempo').some((one) => one.tick > tick);
}

/** Lets a tempo move evenly to the next one, or hold. */
export function setRamp({ id }: Item<'tempo'>, ramp: boolean): void {
  edit(ramp ? 'Move to the next tempo' : 'Hold the tempo', [
    { kind: 'tempo', id, op: 'update', fields: { ramp } },
  ]);
}

/**
 * Edits by which a place falls on a time: the tempo from the marker or change before it is made even and as fast as that takes; what
 * comes after keeps its tempo. A sentence where that cannot be.
 */
export function tempoFit(toTick: number, seconds: number): Edit[] | string {
  const { records } = useDocuments.getState();
  const tempos = listOf(records, 'tempo');
  const map = tempoOf(records);
  const fitted = fitFrom(tempos, listOf(records, 'marker'), toTick);
  // A tempo that is on its way to one here arrives there all the same: the even one begins a tick later.
  const arrives = tempos.some(({ tick }) => tick === fitted) && leadsTo(tempos, fitted);
  const fromTick = arrives ? fitted + 1 : fitted;
  const bpm = fittedBpm(map, { fromTick, toTick, seconds });
  if (toTick === 0) return 'The cue begins at 0:00.';
  if (bpm === undefined || bpm > BPM.high || bpm < BPM.low) return whyNot(map, fromTick, toTick);
  const put = (tick: number, fields: { bpm: number; ramp: boolean }): Edit => {
    const there = tempos.find((one) => one.tick === tick);
    return there
      ? { kind: 'tempo', id: there.id, op: 'update', fields }
      : { kind: 'tempo', id: crypto.randomUUID(), op: 'add', fields: { tick, ...fields } };
  };
  const then = changeAt(tempos, toTick);
  return [
    put(fromTick, { bpm, ramp: false }),
    // What follows goes on as it would have.
    ...(then?.tick === toTick
      ? []
      : [put(toTick, { bpm: map.bpmAt(toTick), ramp: then !== undefined && isOnItsWay(then) })]),
  ];
}

/** Whether the tempo before a tick is on its way to it. */
const leadsTo = (tempos: readonly Item<'tempo'>[], tick: number) =>
  tick > 0 && (changeAt(tempos, tick - 1)?.ramp ?? false);

/** Lets a place fall on a time, where it can. */
export function fitTempo(toTick: number, seconds: number): void {
  const fit = tempoFit(toTick, seconds);
  if (typeof fit !== 'string') edit('Fit the tempo', fit);
}

function whyNot(map: TempoMap, fromTick: number, toTick: number): string {
  const from = map.toSeconds(fromTick);
  const beats = (toTick - fromTick) / TICKS_PER_QUARTER;
  const [soonest, latest] = [BPM.high, BPM.low].map((bpm) => writeTime(from + (60 * beats) / bpm));
  return `It can fall between ${soonest} and ${latest}: the tempo before it would leave ${BPM.low} … ${BPM.high}.`;
}

/** Sets the metre that holds at a tick. */
export function setMetre(tick: number, numerator: number, denominator: number): void {
  const { records, cueId } = useDocuments.getState();
  const metre = changeAt(listOf(records, 'metre'), tick);
  const fields = { numerator, denominator };
  if (metre) edit('Metre', [{ kind: 'metre', id: metre.id, op: 'update', fields }]);
  else if (cueId)
    edit('Metre', [
      { kind: 'metre', id: naturalId('metre', cueId, 0), op: 'add', fields: { tick: 0, ...fields } },
    ]);
}

/** Adds a change of tempo at a tick, as fast as it is there. @returns false where there is one already */
export function addTempo(tick: number): boolean {
  const { records } = useDocuments.getState();
  const list = listOf(records, 'tempo');
  if (list.some((one) => one.tick === tick)) return false;
  const bpm = Math.round(tempoOf(records).bpmAt(tick) * 1000) / 1000;
  // On its way to another tempo, it goes on there.
  const before = changeAt(list, tick);
  const ramp = before !== undefined && isOnItsWay(before);
  const add = (at: number) =>
    ({ kind: 'tempo', id: crypto.randomUUID(), op: 'add', fields: { tick: at, bpm, ramp } }) as const;
  // Before the first change its tempo already holds: what is added before it must not change that.
  edit('Add a tempo', list.length === 0 && tick > 0 ? [add(0), add(tick)] : [add(tick)]);
  return true;
}

/** Adds a change of metre at the bar of a tick, as it is there. @returns false where there is one already */
export function addMetre(tick: number): boolean {
  const { records } = useDocuments.getState();
  const metre = metreOf(records);
  const at = metre.barStart(metre.toBarBeat(tick).bar);
  const list = listOf(records, 'metre');
  if (list.some((one) => one.tick === at)) return false;
  const { numerator, denominator } = metre.at(at);
  edit('Add a metre', [
    { kind: 'metre', id: crypto.randomUUID(), op: 'add', fields: { tick: at, numerator, denominator } },
  ]);
  return true;
}

/** A place of the tempo as it is drawn: straight from one to the next. */
export interface TempoPoint {
  tick: number;
  bpm: number;
}

/** Tempos as they are drawn: one that holds stands again right before the next. */
export function tempoLine(tempos: readonly Item<'tempo'>[]): TempoPoint[] {
  const list = [...tempos].sort((a, b) => a.tick - b.tick);
  return list.flatMap(({ tick, bpm, ramp }, i) => {
    const next = list.at(i + 1);
    return ramp || !next || next.tick - tick < 2
      ? [{ tick, bpm }]
      : [
          { tick, bpm },
          { tick: next.tick - 1, bpm },
        ];
  });
}

/** Draws the tempo from the first to the last of some places, from each evenly to the next; behind the last it holds until a change. */
export function drawTempo(line: readonly TempoPoint[]): void {
  const [first] = line;
  const last = line.at(-1);
  if (!first || !last) return;
  const tempos = listOf(useDocuments.getState().records, 'tempo');
  const inside = tempos.filter(({ tick }) => tick >= first.tick && tick <= last.tick);
  const before = tempos.filter(({ tick }) => tick < first.tick);
  // Where nothing was set, what held there holds until what is drawn.
  const start: Edit[] =
    before.length === 0 && first.tick > 0
      ? [
          {
            kind: 'tempo',
            id: crypto.randomUUID(),
            op: 'add',
            fields: { tick: 0, bpm: STANDARD_BPM, ramp: false },
          },
        ]
      : [];
  // A place that stands already is kept as the same change.
  const there = new Map(inside.map((one) => [one.tick, one.id]));
  const drawn = new Set(line.map(({ tick }) => tick));
  edit('Draw the tempo', [
    ...start,
    ...inside
      .filter(({ tick }) => !drawn.has(tick))
      .map(({ id }): Edit => ({ kind: 'tempo', id, op: 'remove' })),
    ...line.map(({ tick, bpm }): Edit => {
      const fields = { bpm: drawnBpm(bpm), ramp: tick !== last.tick };
      const id = there.get(tick);
      return id === undefined
        ? { kind: 'tempo', id: crypto.randomUUID(), op: 'add', fields: { tick, ...fields } }
        : { kind: 'tempo', id, op: 'update', fields };
    }),
  ]);
}

const drawnBpm = (bpm: number) => clamp(Math.round(bpm * 10) / 10, BPM.low, BPM.high);

/** Sets the tempo of a place, which gets a change of its own where it has none. */
export function setTempoAt(tick: number, bpm: number): void {
  addTempo(tick);
  const change = listOf(useDocuments.getState().records, 'tempo').find((one) => one.tick === tick);
  if (change)
    edit('Tempo', [{ kind: 'tempo', id: change.id, op: 'update', fields: { bpm: drawnBpm(bpm) } }], 'tempo');
}

/** Takes the change of tempo at a place out, but for the first. */
export function removeTempoAt(tick: number): void {
  const change = listOf(useDocuments.getState().records, 'tempo').find((one) => one.tick === tick);
  if (change && tick > 0) removeChange('tempo', change);
}

/** Sets the key signature of the bar of a tick. */
export function setSignature(tick: number, fifths: number): void {
  const { records } = useDocuments.getState();
  const metre = metreOf(records);
  const at = metre.barStart(metre.toBarBeat(tick).bar);
  const there = listOf(records, 'signature').find((one) => one.tick === at);
  edit('Key signature', [
    there
      ? { kind: 'signature', id: there.id, op: 'update', fields: { fifths } }
      : { kind: 'signature', id: crypto.randomUUID(), op: 'add', fields: { tick: at, fifths } },
  ]);
}

/** What changes over a cue, and how it is called. */
export type ChangeKind = 'tempo' | 'metre' | 'signature';
const CALLED: Readonly<Record<ChangeKind, string>> = {
  tempo: 'tempo',
  metre: 'metre',
  signature: 'key signature',
};

/** Moves a change of tempo, metre or key. @returns false where another stands there */
export function moveChange(kind: ChangeKind, id: string, tick: number): boolean {
  const { records } = useDocuments.getState();
  if (listOf(records, kind).some((one) => one.id !== id && one.tick === tick)) return false;
  edit(`Move the ${CALLED[kind]}`, [{ kind, id, op: 'update', fields: { tick } }]);
  return true;
}

/** Takes a change of tempo, metre or key out: what held before it goes on. */
export function removeChange(kind: ChangeKind, { id }: { id: string }): void {
  edit(`Remove the ${CALLED[kind]}`, [{ kind, id, op: 'remove' }]);
}

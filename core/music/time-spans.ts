import type { CurveSpan } from './curve-changes.ts';
import { STANDARD_BPM, TempoMap, type TempoChange } from './tempo-map.ts';

/** Changes that hold from where they stand: metres, key signatures, tempos. What is put somewhere holds there alone. */
interface Holding {
  tick: number;
}

/** The change that holds at a tick: the last at or before it; undefined before the first. */
export function changeAt<T extends Holding>(list: readonly T[], tick: number): T | undefined {
  return list.reduce<T | undefined>(
    (last, one) => (one.tick <= tick && (!last || one.tick >= last.tick) ? one : last),
    undefined,
  );
}

/**
 * Changes with those of a span at another place too, in place of what is there; behind it, what held there holds again.
 * @param without what holds before the first change @param source where the span is taken from, unless it is the list itself
 * @returns a new list in which what stays is the same object
 */
export function copiedChanges<T extends Holding>(
  list: readonly T[],
  { fromTick, toTick }: CurveSpan,
  place: number,
  without: Omit<T, 'tick'>,
  source: readonly T[] = list,
): T[] {
  const moved = place - fromTick;
  const own = source
    .filter(({ tick }) => tick > fromTick && tick < toTick)
    .map((one) => fresh(one, one.tick + moved));
  const first = fresh(changeAt(source, fromTick) ?? ({ ...without, tick: 0 } as T), place);
  return put(list, [first, ...own], { fromTick: place, toTick: toTick + moved }, without);
}

/** Changes without those of a span: what held before it goes on, and behind it holds what held there. The very first stays. */
export function clearedChanges<T extends Holding>(
  list: readonly T[],
  span: CurveSpan,
  without: Omit<T, 'tick'>,
): T[] {
  const kept = list.filter(({ tick }) => tick === 0 && span.fromTick === 0);
  return put(list, kept, span, without);
}

function put<T extends Holding>(
  list: readonly T[],
  own: readonly T[],
  { fromTick, toTick }: CurveSpan,
  without: Omit<T, 'tick'>,
): T[] {
  const stays = list.filter(({ tick }) => tick < fromTick || tick >= toTick);
  const behind = list.some(({ tick }) => tick === toTick)
    ? []
    : [fresh(changeAt(list, toTick) ?? ({ ...without, tick: 0 } as T), toTick)];
  return [...stays, ...own, ...behind].sort((a, b) => a.tick - b.tick);
}

/** The same change somewhere else; without the id it had. */
function fresh<T extends Holding>(one: T, tick: number): T {
  const { id: _id, ...fields } = one as T & { id?: string };
  return { ...fields, tick } as T;
}

/**
 * Tempos with those of a span at another place too. One that is on its way at an end of either stands there with what it has come to, and
 * where it led on from there it is held a tick before: what comes next is another tempo. @param from where the span is taken from
 */
export function copiedTempos(
  list: readonly TempoChange[],
  span: CurveSpan,
  place: number,
  from = list,
): TempoChange[] {
  const end = place + span.toTick - span.fromTick;
  const source = endedTempos(cutTempos(heldLast(from), [span.fromTick, span.toTick]), span.toTick);
  const base = endedTempos(cutTempos(heldLast(list), [place, end]), place);
  return copiedChanges<TempoChange>(base, span, place, STANDARD, source);
}

/** Tempos without those of a span, as `clearedChanges`. */
export function clearedTempos(list: readonly TempoChange[], span: CurveSpan): TempoChange[] {
  const base = endedTempos(cutTempos(heldLast(list), [span.fromTick, span.toTick]), span.fromTick);
  return clearedChanges<TempoChange>(base, span, STANDARD);
}

const STANDARD = { bpm: STANDARD_BPM, ramp: false };

/** Tempos of which the last holds, as it does without one to move to: another may come behind it. */
function heldLast(list: readonly TempoChange[]): TempoChange[] {
  return list.map((one) => (one.ramp && !leadsOn(list, one) ? { ...one, ramp: false } : one));
}

/** Tempos with places of their own where one is on its way. */
function cutTempos(list: readonly TempoChange[], ticks: readonly number[]): TempoChange[] {
  const map = new TempoMap(list);
  const cuts = ticks.filter((tick) => {
    const held = changeAt(list, tick);
    return held !== undefined && held.tick !== tick && leadsOn(list, held);
  });
  return [...list, ...cuts.map((tick): TempoChange => ({ tick, bpm: map.bpmAt(tick), ramp: true }))].sort(
    (a, b) => a.tick - b.tick,
  );
}

/** Tempos of which one that moves to a place comes there a tick before, and holds. */
function endedTempos(list: readonly TempoChange[], tick: number): TempoChange[] {
  const held = tick > 0 ? changeAt(list, tick - 1) : undefined;
  const goal = list.find((one) => one.tick === tick);
  if (!held || !goal || !leadsOn(list, held)) return [...list];
  if (held.tick === tick - 1) return list.map((one) => (one === held ? { ...one, ramp: false } : one));
  return [...list, { tick: tick - 1, bpm: goal.bpm, ramp: false }].sort((a, b) => a.tick - b.tick);
}

const leadsOn = (list: readonly TempoChange[], { ramp, tick }: TempoChange) =>
  ramp === true && list.some((one) => one.tick > tick);

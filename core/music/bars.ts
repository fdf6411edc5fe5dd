/** Time put in at a tick, or taken out from there on. */
export interface TimeShift {
  at: number;
  /** Ticks put in; below 0 so many are taken out. */
  ticks: number;
}

interface Moment {
  id: string;
  tick: number;
}
interface Span {
  id: string;
  startTick: number;
  endTick: number;
}

/** What becomes of things in time: those that move, and those that go. */
export interface Shifted<Fields> {
  update: ({ id: string } & Fields)[];
  remove: string[];
}

/** The first tick after what is taken out; `at` itself where time is put in. */
const endOf = ({ at, ticks }: TimeShift) => at - Math.min(0, ticks);

/** Where a tick goes; undefined when it is taken out. What stands where time is put in moves behind it. */
export function shiftedTick(tick: number, shift: TimeShift): number | undefined {
  if (tick < shift.at) return tick;
  return tick < endOf(shift) ? undefined : tick + shift.ticks;
}

/** Moments that stand for themselves, such as markers. */
export function shiftMoments(list: readonly Moment[], shift: TimeShift): Shifted<{ tick: number }> {
  return shifted(list, ({ tick }) => {
    const to = shiftedTick(tick, shift);
    return to === undefined ? undefined : { tick: to };
  });
}

/**
 * Moments from which something holds, such as tempos: what begins where time is put in moves along, but for the very first. Of those
 * taken out the last goes on to hold behind them, unless another begins there.
 */
export function shiftChanges(list: readonly Moment[], shift: TimeShift): Shifted<{ tick: number }> {
  const { at, ticks } = shift;
  const end = endOf(shift);
  const inside = list.filter(({ tick }) => tick >= at && tick < end).sort((a, b) => a.tick - b.tick);
  const holds = list.some(({ tick }) => tick === end) ? undefined : inside.at(-1)?.id;
  return shifted(list, ({ id, tick }) => {
    if (ticks > 0 && at === 0 && tick === 0) return { tick };
    if (id === holds) return { tick: at };
    const to = shiftedTick(tick, shift);
    return to === undefined ? undefined : { tick: to };
  });
}

/**
 * Spans: one across the place becomes longer or shorter. @param cuts whether one that begins in what is taken out keeps what lies
 * behind it, as marks do; notes go
 */
export function shiftSpans(
  list: readonly Span[],
  shift: TimeShift,
  cuts: boolean,
): Shifted<{ startTick: number; endTick: number }> {
  const { at, ticks } = shift;
  const end = endOf(shift);
  return shifted(list, ({ startTick, endTick }) => {
    const start = shiftedTick(startTick, shift) ?? (cuts && endTick > end ? at : undefined);
    if (start === undefined) return undefined;
    // An end stands before what begins there.
    if (endTick <= at) return { startTick: start, endTick };
    return { startTick: start, endTick: endTick >= end ? endTick + ticks : at };
  });
}

function shifted<T extends { id: string }, Fields extends object>(
  list: readonly T[],
  of: (one: T) => Fields | undefined,
): Shifted<Fields> {
  const out: Shifted<Fields> = { update: [], remove: [] };
  for (const one of list) {
    const fields = of(one);
    if (fields === undefined) out.remove.push(one.id);
    else if (Object.entries(fields).some(([name, value]) => one[name as keyof T] !== value))
      out.update.push({ id: one.id, ...fields });
  }
  return out;
}

import { curveOf, curveValue } from './curve.ts';
import { CONTROLLER, type CurvePoint } from './part.ts';

/** Dynamics as musicians write them, soft to loud: each a sixth of the controller's range. */
export const DYNAMICS = ['pp', 'p', 'mp', 'mf', 'f', 'ff'] as const;

/** A dynamics controller value 0…127 as musicians write it. */
export function dynamicsName(value: number): string {
  return DYNAMICS[Math.min(DYNAMICS.length - 1, Math.floor((value / 128) * DYNAMICS.length))];
}

/** A way from one dynamic to another, as a hairpin is written. */
export interface Hairpin {
  startTick: number;
  endTick: number;
  opens: boolean;
}

export interface WrittenDynamics {
  marks: { tick: number; name: string }[];
  hairpins: Hairpin[];
}

/** A hairpin is at least an eighth long and goes at least three quarters of a dynamic, to another one. */
const SHORTEST_TICKS = 480;
const LEAST_STEPS = 16;

/**
 * Dynamics of a curve as they are written under notes: hairpins where it goes up or down long and far enough, names where the notes begin,
 * where a hairpin begins or ends in another dynamic, and where it has come to another one at the beginning of a note.
 * @param starts ticks at which notes begin, ascending
 */
export function writtenDynamics(points: readonly CurvePoint[], starts: readonly number[]): WrittenDynamics {
  const curve = curveOf(points, CONTROLLER.dynamics);
  if (curve.length === 0 || starts.length === 0) return { marks: [], hairpins: [] };
  const last = starts[starts.length - 1];
  const hairpins = hairpinsOf(curve).filter(
    ({ endTick, startTick }) => endTick > starts[0] && startTick < last,
  );
  const ends = hairpins.flatMap(({ startTick, endTick }) => [startTick, endTick]);
  const marks: WrittenDynamics['marks'] = [];
  for (const tick of [...new Set([...starts, ...ends])].sort((a, b) => a - b)) {
    if (hairpins.some(({ startTick, endTick }) => tick > startTick && tick < endTick)) continue;
    const name = dynamicsName(curveValue(curve, tick, curve[0].value));
    if (name !== marks.at(-1)?.name) marks.push({ tick, name });
  }
  return { marks, hairpins };
}

function hairpinsOf(curve: readonly CurvePoint[]): Hairpin[] {
  const runs: { from: CurvePoint; to: CurvePoint }[] = [];
  for (let i = 1; i < curve.length; i++) {
    const [from, to] = [curve[i - 1], curve[i]];
    const way = Math.sign(to.value - from.value);
    const before = runs.at(-1);
    // What jumps is no way from one to another.
    if (way === 0 || to.tick - from.tick <= 1) continue;
    if (before?.to === from && Math.sign(before.to.value - before.from.value) === way) before.to = to;
    else runs.push({ from, to });
  }
  return runs.flatMap(({ from, to }) =>
    to.tick - from.tick >= SHORTEST_TICKS &&
    Math.abs(to.value - from.value) >= LEAST_STEPS &&
    dynamicsName(to.value) !== dynamicsName(from.value)
      ? [{ startTick: from.tick, endTick: to.tick, opens: to.value > from.value }]
      : [],
  );
}

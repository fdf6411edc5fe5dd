import type { CurvePoint } from './part.ts';

/** Points of one controller in time order; equal ticks keep their order. Allocates. */
export function curveOf(points: readonly CurvePoint[], controller: number): CurvePoint[] {
  return points.filter((point) => point.controller === controller).sort((a, b) => a.tick - b.tick);
}

/**
 * Value of a curve at a tick: at rest before its first point, straight between points, level after the last.
 * @param curve points of one controller in time order
 * @param rest value before the first point, and when there are none
 */
export function curveValue(curve: readonly CurvePoint[], tick: number, rest: number): number {
  if (curve.length === 0 || tick < curve[0].tick) return rest;
  let low = 0;
  let high = curve.length - 1;
  if (tick >= curve[high].tick) return curve[high].value;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (curve[middle].tick <= tick) low = middle;
    else high = middle;
  }
  const a = curve[low];
  const b = curve[high];
  return a.value + ((b.value - a.value) * (tick - a.tick)) / (b.tick - a.tick);
}

/**
 * Fewest points of a drawn line that stay within a tolerance of it (Ramer, Douglas & Peucker 1973,
 * with the vertical distance). The first and last point stay.
 * @param line points with ascending ticks
 * @param tolerance greatest difference in controller steps
 */
export function thinCurve<P extends { tick: number; value: number }>(
  line: readonly P[],
  tolerance: number,
): P[] {
  if (line.length <= 2) return [...line];
  const keep = new Uint8Array(line.length);
  keep[0] = keep[line.length - 1] = 1;
  const stack: [number, number][] = [[0, line.length - 1]];
  for (let span = stack.pop(); span; span = stack.pop()) {
    const [from, to] = span;
    const a = line[from];
    const b = line[to];
    const slope = (b.value - a.value) / Math.max(1e-9, b.tick - a.tick);
    let worst = 0;
    let worstAt = -1;
    for (let i = from + 1; i < to; i++) {
      const distance = Math.abs(line[i].value - (a.value + slope * (line[i].tick - a.tick)));
      if (distance > worst) [worst, worstAt] = [distance, i];
    }
    if (worst > tolerance) {
      keep[worstAt] = 1;
      stack.push([from, worstAt], [worstAt, to]);
    }
  }
  return line.filter((_, i) => keep[i] === 1);
}

/**
 * A line through values that were sent in whole steps, with few points of its own: from where it stands it goes on straight as long as
 * it passes everything within a tolerance (swing filter, H. Elmeleegy et al. 2009). The points are not those of the line, but none lies
 * above its highest or below its lowest one.
 * @param line points with ascending ticks @param tolerance greatest difference at any of them
 */
export function fittedLine(
  line: readonly { tick: number; value: number }[],
  tolerance: number,
): { tick: number; value: number }[] {
  if (line.length === 0) return [];
  let from = { tick: line[0].tick, value: line[0].value };
  const lowest = line.reduce((all, { value }) => Math.min(all, value), Infinity);
  const highest = line.reduce((all, { value }) => Math.max(all, value), -Infinity);
  const fitted = [from];
  // Slopes that pass everything since, and those of them that keep to what was sent at its highest and lowest.
  let [least, most] = [-Infinity, Infinity];
  let [under, over] = [-Infinity, Infinity];
  const reached = ({ tick }: { tick: number }) => {
    const slope = Math.abs(least) === Infinity ? 0 : Math.min(over, Math.max(under, (least + most) / 2));
    // What is left to clamp is what floating point adds.
    return { tick, value: Math.min(highest, Math.max(lowest, from.value + slope * (tick - from.tick))) };
  };
  for (let i = 1; i < line.length; i++) {
    const { tick, value } = line[i];
    const bound = (level: number) => (level - from.value) / Math.max(1e-9, tick - from.tick);
    const [down, up] = [Math.max(lowest, value - tolerance), Math.min(highest, value + tolerance)];
    if (bound(down) > over || bound(up) < under) {
      from = reached(line[i - 1]);
      fitted.push(from);
      [least, most] = [-Infinity, Infinity];
      [under, over] = [-Infinity, Infinity];
    }
    least = Math.max(least, bound(value - tolerance));
    most = Math.min(most, bound(value + tolerance));
    under = Math.max(under, bound(down));
    over = Math.min(over, bound(up));
  }
  if (line.length > 1) fitted.push(reached(line[line.length - 1]));
  return fitted;
}

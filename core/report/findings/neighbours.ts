import { medianOf } from '../readings.ts';

/** Standard deviations in a median absolute deviation of normal numbers. */
const DEVIATION = 1.48;
/** Nearest others that tell what is usual, also at the ends of a range, so that one that is off does not drag its neighbour along. */
const AROUND = 4;

/** Slope of values that most pairs agree on (H. Theil 1950, P. K. Sen 1968), per unit of x. */
function slopeOf(points: readonly { x: number; y: number }[]): number {
  const slopes: number[] = [];
  points.forEach((a, i) => {
    for (const b of points.slice(0, i)) if (a.x !== b.x) slopes.push((a.y - b.y) / (a.x - b.x));
  });
  return medianOf(slopes);
}

/** How far each point lies off the middle of its nearest neighbours, the slope of all of them aside. Fewer than three have none. */
export function offNeighbours(points: readonly { x: number; y: number }[]): number[] {
  if (points.length < 3) return points.map(() => 0);
  const slope = slopeOf(points);
  const level = points.map(({ x, y }) => y - slope * x);
  return level.map((value, i) => {
    const around = level
      .map((other, k) => ({ other, far: Math.abs(k - i) }))
      .filter(({ far }) => far > 0)
      .sort((a, b) => a.far - b.far)
      .slice(0, AROUND);
    return value - medianOf(around.map(({ other }) => other));
  });
}

/** Deviation of most values about their middle: what is usual among them. */
export function usualSpread(values: readonly number[]): number {
  const middle = medianOf(values);
  return DEVIATION * medianOf(values.map((value) => Math.abs(value - middle)));
}

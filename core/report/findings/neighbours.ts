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

/**
 * How far each point lies off the middle of its nearest neighbours, the slope of all of them aside. Fewer than three have none.
 * At the ends, where neighbours lie on one side alone, a course that bends there is none: what goes on as the two before it is not off.
 */
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
    const off = value - medianOf(around.map(({ other }) => other));
    const bent = i === 0 || i === level.length - 1 ? offCourse(points, i) : off;
    return Math.abs(bent) < Math.abs(off) ? bent : off;
  });
}

/** How far an end lies off the line through the two points beside it. */
function offCourse(points: readonly { x: number; y: number }[], end: number): number {
  const inwards = end === 0 ? 1 : -1;
  const [own, next, after] = [points[end], points[end + inwards], points[end + 2 * inwards]];
  if (next.x === after.x) return own.y - next.y;
  return own.y - next.y - ((next.y - after.y) / (next.x - after.x)) * (own.x - next.x);
}

/**
 * How many deviations are as rare as `normal` of them where the deviation itself is known by a few values only: Student's
 * distribution by its expansion (R. A. Fisher and E. A. Cornish 1960). @param freedom values less one, at least 1
 */
export function ofFew(normal: number, freedom: number): number {
  const [z, n] = [normal, freedom];
  return (
    z +
    (z ** 3 + z) / (4 * n) +
    (5 * z ** 5 + 16 * z ** 3 + 3 * z) / (96 * n ** 2) +
    (3 * z ** 7 + 19 * z ** 5 + 17 * z ** 3 - 15 * z) / (384 * n ** 3)
  );
}

/** Deviation of most values about their middle: what is usual among them. */
export function usualSpread(values: readonly number[]): number {
  const middle = medianOf(values);
  return DEVIATION * medianOf(values.map((value) => Math.abs(value - middle)));
}

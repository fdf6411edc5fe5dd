import { solved } from '../dsp/index.ts';

/** The second line is at least so many steps long, or half of what is there, and falls by so much, dB. */
const SHORTEST_LINE = 16;
const LEAST_FALL_DB = 4;
/** The first line falls so much more steeply than the second. */
const STEEPER = 1.3;

/** Straight lines through levels of several positions: how a sound is let go, how its room dies away, and what comes then. */
export interface ThreeLines {
  /** Steps at which the first and the second line end. */
  ended: number;
  until: number;
  /** Sum of squares that is left. */
  cost: number;
  /** Of the three lines, dB per step, middle of the positions. */
  slopes: [number, number, number];
  /** Where the line at the end of the sound begins, by position, dB. */
  bases: number[];
}

/**
 * The lines that fit best (least squares), joined at their ends, the second falling and the first more steeply.
 * @param levels of each position, in dB, all equally many
 * @param start step from which on they are looked at
 * @param latest step at which the first line ends at the latest; 0 for none
 */
export function threeLines(
  levels: readonly Float64Array[],
  start: number,
  latest: number,
): ThreeLines | undefined {
  const count = levels[0].length;
  const sums = levels.map(sumsFrom);
  const shortest = Math.max(4, Math.min(SHORTEST_LINE, count >> 1));
  let best: ThreeLines | undefined;
  for (let ended = Math.min(1, latest); ended <= Math.min(latest, count - shortest); ended++)
    for (let until = Math.max(start, ended) + shortest; until <= count; until++) {
      const found = fitted(sums, count, start, ended, until);
      const [first, second] = found.slopes;
      const falls = second * (until - ended) < -LEAST_FALL_DB && (ended === 0 || first < STEEPER * second);
      if (falls && (!best || found.cost < best.cost)) best = found;
    }
  return best;
}

/** Sums of levels from each step on: of them, of them times their step, of their squares. */
interface Sums {
  y: Float64Array;
  ny: Float64Array;
  yy: Float64Array;
}

function sumsFrom(levels: Float64Array): Sums {
  const [y, ny, yy] = [0, 1, 2].map(() => new Float64Array(levels.length + 1));
  for (let n = levels.length - 1; n >= 0; n--) {
    y[n] = y[n + 1] + levels[n];
    ny[n] = ny[n + 1] + n * levels[n];
    yy[n] = yy[n + 1] + levels[n] ** 2;
  }
  return { y, ny, yy };
}

/** Fits 1, n, (n − ended)₊ and (n − until)₊ to all levels from a start on, as far as these lie within them. */
function fitted(
  sums: readonly Sums[],
  count: number,
  start: number,
  ended: number,
  until: number,
): ThreeLines {
  const knees = [0, ...(ended > 0 ? [ended] : []), ...(until < count ? [until] : [])];
  const firstOf = (knee: number) => Math.max(knee, start);
  // Σ (n − p)(n − q) over what both have.
  const both = (p: number, q: number) => {
    const [from, to] = [Math.max(firstOf(p), firstOf(q)), count - 1];
    const many = to - from + 1;
    const squares = (n: number) => (n * (n + 1) * (2 * n + 1)) / 6;
    return squares(to) - squares(from - 1) - ((p + q) * (from + to) * many) / 2 + p * q * many;
  };
  const single = (p: number) => {
    const [from, to] = [firstOf(p), count - 1];
    return ((from + to - 2 * p) * (to - from + 1)) / 2;
  };
  const gram = [
    [count - start, ...knees.map(single)],
    ...knees.map((p) => [single(p), ...knees.map((q) => both(p, q))]),
  ];
  const fit: ThreeLines = { ended, until, cost: 0, slopes: [0, 0, 0], bases: [] };
  for (const { y, ny, yy } of sums) {
    const right = [y[start], ...knees.map((p) => ny[firstOf(p)] - p * y[firstOf(p)])];
    const found = solved(gram.map((row, i) => [...row, right[i]]));
    fit.cost += yy[start] - found.reduce((sum, value, i) => sum + value * right[i], 0);
    const own = [found[1]];
    own.push(own[0] + (ended > 0 ? found[2] : 0));
    own.push(own[1] + (until < count ? found[found.length - 1] : 0));
    own.forEach((slope, k) => (fit.slopes[k] += slope / sums.length));
    fit.bases.push(found[0]);
  }
  return fit;
}

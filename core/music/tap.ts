/** Taps that tell a tempo, at least: three beats. */
const FEWEST = 4;
/** More than these are of another mind by now. */
const MOST = 12;
/** After a rest this long a new count begins, milliseconds: slower than 20 beats a minute. */
const REST_MS = 3000;

/**
 * Beats a minute of the last taps, by the middle one of their distances: one that was missed or doubled changes nothing.
 * @param times of taps in milliseconds, ascending
 * @returns undefined while there are too few since the last rest
 */
export function tappedBpm(times: readonly number[]): number | undefined {
  let first = Math.max(0, times.length - MOST);
  for (let i = first + 1; i < times.length; i++) if (times[i] - times[i - 1] > REST_MS) first = i;
  const last = times.slice(first);
  if (last.length < FEWEST) return undefined;
  const gap = middleOf(last.slice(1).map((time, i) => time - last[i]));
  return gap > 0 ? 60_000 / gap : undefined;
}

/** The middle one of some numbers, at least one; between the two in the middle of an even count. */
function middleOf(numbers: readonly number[]): number {
  const sorted = [...numbers].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
}

/** Taps to clicks that tell how late somebody is, at least. */
export const FEWEST_TO_CLICKS = 6;

/**
 * How much later than even clicks taps come, by the middle one: those that were missed or doubled change nothing.
 * @param times of taps in seconds; a click is at 0 and every `every` seconds
 * @returns the lateness, early ones below 0, and by how much half of the taps differ from it at most; undefined for too few taps
 */
export function tappedLate(
  times: readonly number[],
  every: number,
): { late: number; spread: number } | undefined {
  if (times.length < FEWEST_TO_CLICKS) return undefined;
  const offsets = times.map((time) => time - Math.round(time / every) * every);
  const late = middleOf(offsets);
  return { late, spread: middleOf(offsets.map((one) => Math.abs(one - late))) };
}

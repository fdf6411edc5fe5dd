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
  const gaps = last.slice(1).map((time, i) => time - last[i]);
  gaps.sort((a, b) => a - b);
  const middle = gaps.length >> 1;
  const gap = gaps.length % 2 === 1 ? gaps[middle] : (gaps[middle - 1] + gaps[middle]) / 2;
  return gap > 0 ? 60_000 / gap : undefined;
}

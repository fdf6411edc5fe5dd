/** Keys from low to high, both inclusive, that somebody plays. */
export interface KeyRange {
  low: number;
  high: number;
  name: string;
}

/** All keys within any of some ranges, and those within a guard distance of one. */
export function keysPlayed(ranges: readonly KeyRange[], guardKeys = 0): Set<number> {
  const keys = new Set<number>();
  for (const { low, high } of ranges)
    for (let key = Math.max(0, low - guardKeys); key <= Math.min(127, high + guardKeys); key++) keys.add(key);
  return keys;
}

/** Nearest key to `near` that is in neither set; below is preferred to above. */
export function freeKey(
  near: number,
  played: ReadonlySet<number>,
  used: ReadonlySet<number>,
): number | undefined {
  const free = (key: number) => key >= 0 && key <= 127 && !used.has(key) && !played.has(key);
  for (let distance = 0; distance < 128; distance++) {
    if (free(near - distance)) return near - distance;
    if (free(near + distance)) return near + distance;
  }
  return undefined;
}

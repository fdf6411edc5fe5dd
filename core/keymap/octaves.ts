import { keysPlayed, type KeyRange } from './keys.ts';
import { usedKeys } from './clashes.ts';
import type { Keymap } from './keymap.ts';

const OCTAVES = [12, -12, 24, -24] as const;

/**
 * By how many keys the switches in a file lie off those of a keymap: files made by a list of keys that counts octaves from
 * another middle C are off by one or two octaves.
 * @param keys of all notes of the file; those within a playing range are not looked at
 * @returns keys to be added to the file's switches, 0 when they fit or nothing fits better
 */
export function octaveOff(keys: Iterable<number>, keymap: Keymap, ranges: readonly KeyRange[]): number {
  const played = keysPlayed(ranges);
  const switches = usedKeys(keymap);
  const outside = [...keys].filter((key) => !played.has(key));
  if (outside.length === 0 || ranges.length === 0) return 0;
  const hits = (shift: number) => outside.filter((key) => switches.has(key + shift)).length;
  if (hits(0) > 0) return 0;
  let best = 0;
  for (const shift of OCTAVES) if (hits(shift) > hits(best)) best = shift;
  // Most of what lies outside the range must then be a switch: stray notes alone are no reason.
  return hits(best) * 2 > outside.length ? best : 0;
}

/** A key of a file, moved where it is a switch of a file that is off. */
export function movedSwitch(key: number, shift: number, ranges: readonly KeyRange[]): number {
  const inside = ranges.some(({ low, high }) => key >= low && key <= high);
  return inside ? key : Math.min(127, Math.max(0, key + shift));
}

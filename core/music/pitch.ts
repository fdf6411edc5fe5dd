import type { MidiNote } from '../units/index.ts';

const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'];
const STEPS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/** Octave number given to key 60: 4 is Farlo's own, 3 is what some programs write. */
export type MiddleC = 3 | 4;

/** Name of a key, for example `pitchName(60)` → `C4`, `pitchName(60, 3)` → `C3`. */
export function pitchName(key: number, middleC: MiddleC = 4): string {
  const octave = Math.floor(key / 12) - 5 + middleC;
  return `${NAMES[((key % 12) + 12) % 12]}${octave}`;
}

/** Key of a name such as `F#3`, `Bb-1` (with the given middle C); undefined when it is no pitch or out of 0…127. */
export function parsePitch(name: string, middleC: MiddleC = 4): MidiNote | undefined {
  const match = /^([A-Ga-g])([#b♯♭]?)(-?\d+)$/.exec(name.trim());
  if (!match) return undefined;
  const shift = match[2] === '#' || match[2] === '♯' ? 1 : match[2] === '' ? 0 : -1;
  const key = STEPS[match[1].toUpperCase()] + shift + (Number(match[3]) + 5 - middleC) * 12;
  return key >= 0 && key <= 127 ? (key as MidiNote) : undefined;
}

/** True for the five raised keys of the octave. */
export function isBlackKey(key: number): boolean {
  return [1, 3, 6, 8, 10].includes(((key % 12) + 12) % 12);
}

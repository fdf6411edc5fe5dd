import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  isBlackKey,
  isInScale,
  parsePitch,
  pitchName,
  SCALE_NAMES,
  stepInScale,
  type Scale,
} from './index.ts';

const C_MAJOR: Scale = { root: 0, name: 'major' };
const key = (name: string) => parsePitch(name) ?? -1;
const moved = (scale: Scale, names: string, steps: number) =>
  names
    .split(' ')
    .map((name) => pitchName(stepInScale(scale, key(name), steps)))
    .join(' ');

describe('a step of a scale', () => {
  it('goes to the next key of it, over the octave as well', () => {
    expect(moved(C_MAJOR, 'C4 E4 G4 B4', 1)).toBe('D4 F4 A4 C5');
    expect(moved(C_MAJOR, 'C4 F4', -1)).toBe('B3 E4');
    expect(moved(C_MAJOR, 'C4 E4', 7)).toBe('C5 E5');
    expect(moved(C_MAJOR, 'C4', -8)).toBe('B2');
  });
  it('follows the root and the kind of scale', () => {
    // D minor: D E F G A A# C.
    expect(moved({ root: 2, name: 'minor' }, 'D4 F4 A4', 1)).toBe('E4 G4 A#4');
    expect(moved({ root: 9, name: 'harmonic minor' }, 'F4 G#4', 1)).toBe('G#4 A4');
    expect(moved({ root: 0, name: 'whole tones' }, 'A#4', 1)).toBe('C5');
    expect(moved({ root: 11, name: 'major' }, 'A#3 B3', 1)).toBe('B3 C#4');
  });
  it('of a key beside the scale keeps its distance to the step below', () => {
    expect(moved(C_MAJOR, 'F#4', 1)).toBe('G#4');
    expect(moved(C_MAJOR, 'F#4', -1)).toBe('F4');
  });
  it('there and back comes to the same key, for all keys of any scale', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 127 }),
        fc.integer({ min: -20, max: 20 }),
        fc.integer({ min: 0, max: 11 }),
        fc.constantFrom(...SCALE_NAMES),
        (any, steps, root, name) => {
          const scale = { root, name };
          fc.pre(isInScale(scale, any));
          const there = stepInScale(scale, any, steps);
          expect(isInScale(scale, there)).toBe(true);
          expect(stepInScale(scale, there, -steps)).toBe(any);
          if (steps !== 0) expect(Math.sign(there - any)).toBe(Math.sign(steps));
        },
      ),
    );
  });
});

describe('the keys of a scale', () => {
  it('are the white ones in C major', () => {
    for (let any = 0; any < 128; any++) expect(isInScale(C_MAJOR, any)).toBe(!isBlackKey(any));
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fifthsAt, keyName, spelled, transposedFifths } from './index.ts';

const written = (key: number, fifths: number) => {
  const { step, alter, octave } = spelled(key, fifths);
  return `${step}${alter < 0 ? 'b'.repeat(-alter) : '#'.repeat(alter)}${octave}`;
};
const scale = (root: number) => [0, 2, 4, 5, 7, 9, 11].map((step) => root + step);

describe('how a key is spelled', () => {
  it.each([
    [0, 60, 'C4 D4 E4 F4 G4 A4 B4'],
    [2, 62, 'D4 E4 F#4 G4 A4 B4 C#5'],
    [-3, 63, 'Eb4 F4 G4 Ab4 Bb4 C5 D5'],
    [7, 61, 'C#4 D#4 E#4 F#4 G#4 A#4 B#4'],
    [-7, 59, 'Cb4 Db4 Eb4 Fb4 Gb4 Ab4 Bb4'],
  ])('in a scale of %s signs', (fifths, root, expected) => {
    expect(
      scale(root)
        .map((key) => written(key, fifths))
        .join(' '),
    ).toBe(expected);
  });
  it('beside the scale: three flats and two sharps more than the signature has', () => {
    expect([61, 63, 66, 68, 70].map((key) => written(key, 0))).toEqual(['C#4', 'Eb4', 'F#4', 'G#4', 'Bb4']);
    // The raised seventh and sixth of C minor.
    expect([71, 69].map((key) => written(key, -3))).toEqual(['B4', 'A4']);
  });
  it('sounds as the key it was', () => {
    const semitone: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
    fc.assert(
      fc.property(fc.nat(127), fc.integer({ min: -7, max: 7 }), (key, fifths) => {
        const { step, alter, octave } = spelled(key, fifths);
        expect(12 * (octave + 1) + semitone[step] + alter).toBe(key);
        expect(Math.abs(alter)).toBeLessThanOrEqual(2);
      }),
    );
  });
});

describe('key signatures', () => {
  it('hold from where they stand; none before the first', () => {
    const keys = [
      { tick: 960, fifths: 2 },
      { tick: 100, fifths: -1 },
    ];
    expect([0, 99, 100, 959, 960, 5000].map((tick) => fifthsAt(keys, tick))).toEqual([0, 0, -1, -1, 2, 2]);
  });
  it.each([
    // B flat clarinet, horn in F, E flat alto, an octave.
    [0, 2, 2],
    [0, 7, 1],
    [-3, 9, 0],
    [5, 12, 5],
    [7, 0, 7],
    [-4, 2, -2],
    [5, 2, -5],
    [-7, 7, -6],
    [0, 6, 6],
    [3, -2, 1],
  ])('of %s signs written %s semitones higher have %s', (fifths, semitones, expected) => {
    expect(transposedFifths(fifths, semitones)).toBe(expected);
  });
  it('have names', () => {
    expect([keyName(0), keyName(-3), keyName(7), keyName(-7)]).toEqual([
      'C · a',
      'E♭ · c',
      'C♯ · a♯',
      'C♭ · a♭',
    ]);
  });
});

import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { letGoOf, type Apart, type Arrival } from './index.ts';

const RATE = 48_000;
const ONSET = 0.2 * RATE;
const STOP = 1.2 * RATE;
const late = (id: string, delaySeconds: number, certainty: number): Arrival => ({
  id,
  delaySeconds,
  certainty,
  isInverted: false,
});

/** Noise of a level over time, in frames, heard later by some positions. */
function heard(levelAt: (frame: number) => number, delays: Readonly<Record<string, number>>): Apart {
  const random = new Random('note');
  const sound = Float32Array.from({ length: 3 * RATE }, (_, i) => levelAt(i) * random.between(-1, 1));
  return Object.entries(delays).map(([id, frames]) => {
    const side = sound.map((_, i) => sound[i - frames] ?? 0);
    return { id, left: side, right: side };
  });
}
/** Held from onset to stop, then fading by so much power in five milliseconds until it is cut. */
const note =
  (restSeconds: number, rest = 0.9) =>
  (i: number) =>
    i < ONSET ? 0 : i < STOP ? 0.3 : i < STOP + restSeconds * RATE ? 0.3 * rest : 0.3 * 0.05;
const secondsAfter = (frame: number | undefined) => ((frame ?? NaN) - STOP) / RATE;

describe('when a note has really ended', () => {
  it.each([0, 0.05, 0.12, 0.3])('is told where players go on for %s s', (rest) => {
    const found = letGoOf(heard(note(rest), { near: 0 }), ONSET, STOP, []);
    expect(secondsAfter(found?.letGo)).toBeGreaterThanOrEqual(rest - 0.006);
    expect(secondsAfter(found?.letGo)).toBeLessThanOrEqual(rest + 0.011);
  });
  it('is where less than two fifths of its power are left', () => {
    // A power of 0.49 still counts as the note, one of 0.25 does not.
    expect(secondsAfter(letGoOf(heard(note(0.1, 0.7), { near: 0 }), ONSET, STOP, [])?.letGo)).toBeGreaterThan(
      0.09,
    );
    expect(secondsAfter(letGoOf(heard(note(0.1, 0.5), { near: 0 }), ONSET, STOP, [])?.letGo)).toBeLessThan(
      0.011,
    );
  });
  it('is looked for no longer than players can take', () => {
    const found = letGoOf(heard(note(1, 1), { near: 0 }), ONSET, STOP, []);
    expect(secondsAfter(found?.letGo)).toBeCloseTo(0.35, 2);
  });
  it('is told by the position that hears it first, by sure arrivals', () => {
    const apart = heard(note(0.1), { far: 2400, near: 0 });
    const arrivals = [late('far', 0.05, 0.8), late('near', 0, 0.8)];
    const found = letGoOf(apart, ONSET, STOP, arrivals);
    expect(found?.late).toEqual({ far: 2400, near: 0 });
    expect(secondsAfter(found?.letGo)).toBeCloseTo(0.1, 1);
    expect(found?.apart).toBe(apart);
  });
  it('goes by when the note rises where arrivals are unsure or unknown', () => {
    const apart = heard(note(0.1), { near: 0, far: 1920 });
    for (const arrivals of [[], [late('far', 0.9, 0.1)], [late('near', 0.5, 0.149)]]) {
      const found = letGoOf(apart, ONSET, STOP, arrivals);
      expect(found?.late?.near).toBe(0);
      // 40 ms, told in steps of five.
      expect(Math.abs((found?.late?.far ?? 0) - 1920)).toBeLessThanOrEqual(480);
    }
    // Sure is what reaches the least certainty.
    expect(letGoOf(apart, ONSET, STOP, [late('far', 0.01, 0.15)])?.late?.far).toBe(480);
  });
  it('is not known of silence', () => {
    expect(letGoOf([], ONSET, STOP, [])).toBeUndefined();
    expect(
      letGoOf(
        heard(() => 0, { near: 0 }),
        ONSET,
        STOP,
        [],
      ),
    ).toBeUndefined();
    // Over before the hand lets go.
    expect(
      letGoOf(
        heard((i) => (i < ONSET + 4800 ? 0.3 : 0), { near: 0 }),
        ONSET,
        STOP,
        [],
      ),
    ).toBeUndefined();
  });
});

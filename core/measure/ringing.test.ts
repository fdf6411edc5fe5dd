import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { likeness, noiseFloorDb, ringsIn, type Tail } from './index.ts';

const RATE = 48_000;
const T60 = 1;
const KEYS = [50, 53, 56, 59, 62, 65];
const hertzOf = (key: number) => 440 * 2 ** ((key - 69) / 12);
const fall = (seconds: number, t60: number) => 10 ** ((-3 * seconds) / t60);

/** The room after a note: noise that falls, the note's partials in it, and what rings. */
function tail(key: number, ring?: { hertz: number; t60: number; level: number }): Tail {
  const frames = 1.3 * RATE;
  const channels = [0, 1].map((c) =>
    whiteNoise(frames, key * 7 + c).map((value, i) => {
      const t = i / RATE;
      let sum = 0.05 * value * fall(t, T60);
      for (let n = 1; n <= 6; n++)
        sum += (0.2 / n) * Math.sin(2 * Math.PI * n * hertzOf(key) * t + n * key) * fall(t, T60);
      return ring ? sum + ring.level * Math.sin(2 * Math.PI * ring.hertz * t + key) * fall(t, ring.t60) : sum;
    }),
  );
  return { key, channels, rate: RATE, from: 0 };
}

describe('what rings on', () => {
  it.each([233, 610, 1480])('at %s Hz after all notes is told with its frequency', (hertz) => {
    const found = ringsIn(
      KEYS.map((key) => tail(key, { hertz, t60: 3 * T60, level: 0.004 })),
      T60,
    );
    expect(found).toHaveLength(1);
    expect(Math.abs(found[0].hertz - hertz)).toBeLessThan(6);
    expect(found[0].excessDb).toBeGreaterThan(9);
  });
  it('is nothing where only notes and their room die away', () => {
    expect(
      ringsIn(
        KEYS.map((key) => tail(key)),
        T60,
      ),
    ).toEqual([]);
  });
  it('is nothing that one note alone has, or that dies away with the rest', () => {
    const one = KEYS.map((key, i) => tail(key, i === 2 ? { hertz: 610, t60: 3, level: 0.02 } : undefined));
    expect(ringsIn(one, T60)).toEqual([]);
    const quick = KEYS.map((key) => tail(key, { hertz: 610, t60: T60, level: 0.1 }));
    expect(ringsIn(quick, T60)).toEqual([]);
  });
  it('is not told by fewer than four notes, or by tails that are cut off', () => {
    const ring = { hertz: 610, t60: 3, level: 0.004 };
    expect(
      ringsIn(
        [50, 53, 56, 59].map((key) => tail(key, ring)),
        T60,
      ),
    ).toHaveLength(1);
    expect(
      ringsIn(
        [50, 53, 56, 56].map((key) => tail(key, ring)),
        T60,
      ),
    ).toEqual([]);
    const cut = KEYS.map((key) => {
      const one = tail(key, ring);
      return { ...one, channels: one.channels.map((channel) => channel.subarray(0, 0.5 * RATE)) };
    });
    expect(ringsIn(cut, T60)).toEqual([]);
  });
});

describe('hiss', () => {
  const hiss = (frames: number, db: number, seed: number) =>
    whiteNoise(frames, seed).map((value) => value * Math.sqrt(3) * 10 ** (db / 20));
  const struck = (at: number) =>
    Float32Array.from({ length: RATE }, (_, i) => {
      const t = i / RATE - at;
      return t < 0 ? 0 : 0.3 * Math.sin(2 * Math.PI * 440 * t) * fall(t, 0.3);
    });
  const mixed = (a: Float32Array, b: Float32Array) => a.map((value, i) => value + b[i]);
  const level = (value: Float32Array) =>
    10 * Math.log10(value.reduce((sum, one) => sum + one * one, 0) / value.length);

  it('is found at the end of a recording that begins at once', () => {
    const own = hiss(RATE, -62, 5);
    expect(Math.abs((noiseFloorDb([mixed(struck(0), own)], RATE, 0) ?? 0) - level(own))).toBeLessThan(1);
  });
  it('is the quieter of both places', () => {
    const own = hiss(RATE, -62, 6);
    const louder = own.map((value, i) => (i > 0.5 * RATE ? 4 * value : value));
    const heard = noiseFloorDb([mixed(struck(0.1), louder)], RATE, 0.1 * RATE) ?? 0;
    expect(Math.abs(heard - level(own))).toBeLessThan(1.5);
  });
  it('is nothing where a recording ends in a tone, or while it still dies away', () => {
    const held = Float32Array.from({ length: RATE }, (_, i) => 0.01 * Math.sin(0.05 * i));
    expect(noiseFloorDb([held], RATE, 0)).toBeUndefined();
    const dying = hiss(RATE, -40, 7).map((value, i) => value * fall(i / RATE, 0.7));
    expect(noiseFloorDb([dying], RATE, 0)).toBeUndefined();
  });
});

describe('the likeness of a recording to itself, moved in pitch', () => {
  /** A bright sound with hiss, as a function of time, read at any pace. */
  const partials = [...Array(14).keys()].map((n) => 300 * (n + 1));
  const sound = (pace: number, seed: number) => {
    const breath = whiteNoise(2 * RATE, seed);
    return Float32Array.from({ length: 0.6 * RATE }, (_, i) => {
      const t = (i * pace) / RATE;
      const at = i * pace;
      const low = Math.floor(at / 8);
      const part = at / 8 - low;
      // Hiss up to 3 kHz, straight between points eight frames apart.
      const noise = breath[low] + part * (breath[low + 1] - breath[low]);
      return partials.reduce(
        (sum, hz, n) => sum + Math.sin(2 * Math.PI * hz * t + seed * n) / 14,
        0.1 * noise,
      );
    });
  };
  it.each([3, -4])('by %s semitones is all but one; two of its kind are less', (semitones) => {
    const ratio = 2 ** (semitones / 12);
    const [own, moved, other] = [sound(1, 3), sound(ratio, 3), sound(ratio, 4)];
    expect(likeness(moved, 500, own, Math.round(500 * ratio), RATE, ratio)).toBeGreaterThan(0.999);
    expect(likeness(other, 500, own, Math.round(500 * ratio), RATE, ratio)).toBeLessThan(0.99);
  });
});

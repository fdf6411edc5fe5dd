import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { ringsIn, type Tail } from './index.ts';

const RATE = 48_000;
const T60 = 1;
const KEYS = [50, 53, 56, 59, 62, 65];
const hertzOf = (key: number) => 440 * 2 ** ((key - 69) / 12);
const fall = (seconds: number, t60: number) => 10 ** ((-3 * seconds) / t60);

const FRAMES = 1.3 * RATE;
const plain = new Map<number, Float32Array[]>();

/** The room after a note: noise that falls, and the note's partials in it. */
function plainTail(key: number): Float32Array[] {
  let channels = plain.get(key);
  if (!channels) {
    const note = Float32Array.from({ length: FRAMES }, (_, i) => {
      let sum = 0;
      for (let n = 1; n <= 6; n++)
        sum += (0.2 / n) * Math.sin((2 * Math.PI * n * hertzOf(key) * i) / RATE + n * key);
      return sum;
    });
    channels = [0, 1].map((c) =>
      whiteNoise(FRAMES, key * 7 + c).map((value, i) => (0.05 * value + note[i]) * fall(i / RATE, T60)),
    );
    plain.set(key, channels);
  }
  return channels;
}

/** The same with something that rings. */
function tail(key: number, ring?: { hertz: number; t60: number; level: number }): Tail {
  let channels = plainTail(key);
  if (ring) {
    const rings = Float32Array.from(
      { length: FRAMES },
      (_, i) => ring.level * Math.sin((2 * Math.PI * ring.hertz * i) / RATE + key) * fall(i / RATE, ring.t60),
    );
    channels = channels.map((channel) => channel.map((value, i) => value + rings[i]));
  }
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
  it('is told with the strongest first, in tails that begin later and at another rate', () => {
    const rings = [
      { hertz: 350, t60: 3, level: 0.003 },
      { hertz: 1480, t60: 3, level: 0.012 },
    ];
    const both = KEYS.map((key) => {
      const [a, b] = rings.map((ring) => tail(key, ring).channels);
      const channels = plainTail(key).map((channel, c) => {
        const later = new Float32Array(FRAMES + 9600).fill(1);
        later.set(
          channel.map((value, i) => a[c][i] + b[c][i] - value),
          9600,
        );
        return later;
      });
      return { key, channels, rate: RATE, from: 9600 };
    });
    const found = ringsIn(both, T60);
    expect(found.map(({ hertz }) => Math.abs(hertz - 1480) < 6)).toEqual([true, false]);
    expect(Math.abs(found[1].hertz - 350)).toBeLessThan(6);
    expect(found[0].excessDb).toBeGreaterThan(found[1].excessDb);
    // The same waves read at half the rate are an octave lower, and take twice as long.
    const slow = ringsIn(
      both.map((one) => ({ ...one, rate: RATE / 2 })),
      2 * T60,
    );
    expect(Math.abs((slow[0]?.hertz ?? 0) - 740)).toBeLessThan(4);
  });
  it('needs 24 dB of the room’s decay and a look of 8,192 frames behind it', () => {
    const tails = KEYS.slice(0, 4).map((key) => tail(key, { hertz: 610, t60: 3, level: 0.004 }));
    const cutAt = (frames: number) =>
      ringsIn(
        tails.map((one) => ({
          ...one,
          channels: one.channels.map((channel) => channel.subarray(0, frames)),
        })),
        T60,
      ).length;
    // 30 ms, two fifths of a decay of 60 dB, and the look.
    const needed = 0.43 * RATE + 8192;
    expect([cutAt(needed + 2), cutAt(needed - 2)]).toEqual([1, 0]);
  });
});

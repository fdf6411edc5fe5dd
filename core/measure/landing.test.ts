import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { landingSeconds } from './index.ts';

const RATE = 48_000;
const hertz = (key: number) => 440 * 2 ** ((key - 69) / 12);

interface Move {
  seconds?: number;
  /** Time of the glide, around the landing. */
  glide?: number;
  /** Level of the new tone against the old. */
  level?: number;
  /** Share of the level that is left in the middle of the change. */
  dip?: number;
  /** Share of the partials' level by their number. */
  partial?: (n: number, fresh: boolean) => number;
  noise?: number;
  players?: number;
}

/** A line of two tones, glided from one to the other around `at` seconds, by one player or several a little apart. */
function moved(from: number, to: number, at: number, move: Move = {}): Float32Array {
  const { seconds = 0.6, glide = 0.01, level = 1, dip = 1, noise = 0, players = 1 } = move;
  const partial = move.partial ?? ((n: number) => 1 / n);
  const out = new Float32Array(Math.round(seconds * RATE));
  const random = new Random(`${from} ${to} ${at} ${players}`);
  for (let player = 0; player < players; player++) {
    const tune = players === 1 ? 1 : 2 ** ((random.next() - 0.5) / 100);
    let phase = random.next() * 7;
    for (let i = 0; i < out.length; i++) {
      const t = i / RATE;
      const share = Math.min(1, Math.max(0, (t - at) / glide + 0.5));
      phase += (2 * Math.PI * tune * hertz(from + (to - from) * share)) / RATE;
      const fresh = share > 0.5;
      const loud = (1 - share + level * share) * (1 - (1 - dip) * Math.exp(-(((t - at) / 0.02) ** 2)));
      for (let n = 1; n <= 8; n++)
        out[i] += (0.2 / players) * loud * partial(n, fresh) * Math.sin(n * (phase + player));
    }
  }
  if (noise > 0) for (let i = 0; i < out.length; i++) out[i] += noise * (random.next() * 2 - 1);
  return out;
}

const found = (from: number, to: number, signal: Float32Array, begin = 0.03, end = 0.6) =>
  landingSeconds(signal, RATE, hertz(from), hertz(to), begin * RATE, end * RATE);
/** Milliseconds by which a landing is told late. */
const late = (from: number, to: number, at: number, move: Move = {}) =>
  ((found(from, to, moved(from, to, at, move)) ?? 9) - at) * 1000;

const INTERVALS = [1, -1, 2, -2, 3, -5, 7, -7, 11, -11, 12, -12];

describe('landing', () => {
  it.each(INTERVALS)('of a move by %i is told within 6 ms, wherever it lies', (interval) => {
    for (const at of [0.12, 0.2, 0.33])
      expect(Math.abs(late(69, 69 + interval, at)), `${at}`).toBeLessThan(6);
  });
  it.each(INTERVALS)('by %i is told whichever tone is louder', (interval) => {
    for (const level of [0.3, 3])
      expect(Math.abs(late(69, 69 + interval, 0.2, { level })), `${level}`).toBeLessThan(9);
  });
  it.each([40, 52, 64, 76, 88])('is told as well from key %i', (key) => {
    for (const interval of [1, -2, 5, 12]) {
      // Low pitches lie so near to each other that longer windows are needed; a window lasts 40 to 80 ms.
      expect(Math.abs(late(key, key + interval, 0.25)), `${interval}`).toBeLessThan(key < 60 ? 15 : 5);
    }
  });
  it('of a glide lies in its middle part', () => {
    for (const interval of [2, -4, 7])
      expect(Math.abs(late(69, 69 + interval, 0.25, { glide: 0.06 }))).toBeLessThan(22);
  });
  it('is not moved by a dip of the level', () => {
    for (const interval of [2, -5, 12])
      expect(Math.abs(late(69, 69 + interval, 0.25, { dip: 0.1 }))).toBeLessThan(6);
  });
  it('is told when the two tones are of another colour', () => {
    const partial = (n: number, fresh: boolean) => (fresh ? (n === 2 ? 1 : 0.1) : n < 3 ? 1 / n : 0.05);
    for (const interval of [2, -5, 7])
      expect(Math.abs(late(69, 69 + interval, 0.2, { partial }))).toBeLessThan(8);
  });
  it('is told of many players, and through hiss', () => {
    for (const interval of [1, -3, 7, -12]) {
      expect(Math.abs(late(69, 69 + interval, 0.25, { players: 8 })), `${interval}`).toBeLessThan(12);
      expect(Math.abs(late(69, 69 + interval, 0.25, { noise: 0.01 })), `${interval}`).toBeLessThan(5);
    }
  });
  it('is not mistaken for the end of the recording', () => {
    const signal = moved(69, 81, 0.2);
    const fade = 0.1 * RATE;
    for (let i = 0; i < fade; i++) signal[signal.length - 1 - i] *= (i / fade) ** 2;
    expect(Math.abs((found(69, 81, signal) ?? 9) - 0.2)).toBeLessThan(0.005);
  });
  it('is counted from the beginning of the signal, whatever is searched', () => {
    const signal = moved(69, 74, 0.3);
    for (const begin of [0, 0.1, 0.2])
      expect(Math.abs((found(69, 74, signal, begin) ?? 9) - 0.3)).toBeLessThan(0.004);
    expect(Math.abs((found(69, 74, signal, 0, 9) ?? 9) - 0.3)).toBeLessThan(0.004);
  });
  it('is missing when the new pitch never comes, in silence and in nothing', () => {
    expect(found(69, 72, moved(69, 69, 0.3))).toBeUndefined();
    expect(found(69, 72, moved(50, 50, 0.3))).toBeUndefined();
    expect(found(72, 69, moved(69, 72, 0.3))).toBeUndefined();
    expect(found(69, 72, new Float32Array(RATE))).toBeUndefined();
    expect(found(69, 72, new Float32Array(10), 0, 0.1)).toBeUndefined();
    expect(found(130, 131, moved(130, 131, 0.3))).toBeUndefined();
  });
  describe('of some of the partials', () => {
    /** Eight partials of falling strength, each of which goes over to the new pitch at a time of its own. */
    const going = (from: number, to: number, at: (n: number) => number) =>
      Float32Array.from({ length: 0.6 * RATE }, (_, i) => {
        const t = i / RATE;
        let sum = 0;
        for (let n = 1; n <= 8; n++) {
          const share = Math.min(1, Math.max(0, (t - at(n)) / 0.01 + 0.5));
          sum += (0.2 / n) * (1 - share) * Math.sin(2 * Math.PI * n * hertz(from) * t + n);
          sum += (0.2 / n) * share * Math.sin(2 * Math.PI * n * hertz(to) * t + 2 * n);
        }
        return sum;
      });
    it('is told by most of them, not by the strongest', () => {
      for (const interval of [3, -4]) {
        const signal = going(64, 64 + interval, (n) => (n === 1 ? 0.45 : 0.2));
        expect(Math.abs((found(64, 64 + interval, signal) ?? 9) - 0.2), `${interval}`).toBeLessThan(0.01);
      }
    });
    it('is none where one of eight goes over', () => {
      expect(
        found(
          64,
          67,
          going(64, 67, (n) => (n === 4 ? 0.25 : 9)),
        ),
      ).toBeUndefined();
      expect(
        found(
          64,
          67,
          going(64, 67, (n) => (n === 4 || n === 5 ? 0.25 : 9)),
        ),
      ).toBeDefined();
    });
  });
  it('is told near either end of what is searched', () => {
    for (const at of [0.1, 0.5])
      for (const interval of [2, -5])
        expect(Math.abs(late(69, 69 + interval, at)), `${at} ${interval}`).toBeLessThan(6);
  });
});

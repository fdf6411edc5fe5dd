import { describe, expect, it } from 'vitest';
import { PowerTape } from './k-level.ts';
import { takeover } from './pitches.ts';

/** The ears themselves, on signals whose truth is known from how they are made. */

const RATE = 48_000;
const signal = (seconds: number, at: (t: number) => number) =>
  Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => at(i / RATE));
const sine = (hz: number) => (t: number) => Math.sin(2 * Math.PI * hz * t);
/** Eight partials of one pitch. */
const tone = (hz: number) => (t: number) => {
  let sum = 0;
  for (let n = 1; n <= 8; n++) sum += Math.sin(2 * Math.PI * hz * n * t + n * n) / n;
  return sum / 2;
};

describe('K-weighted level', () => {
  it('of a full-scale sine of 997 Hz on one channel is −3.01 LUFS less the constant of −0.691 dB', () => {
    const tape = new PowerTape([signal(2, sine(997))]);
    expect(tape.db(0.5, 1.5) - 0.691).toBeCloseTo(-3.01, 1);
  });
  it('lifts high tones by 4 dB and leaves out what is below 20 Hz', () => {
    const level = (hz: number) => new PowerTape([signal(2, sine(hz))]).db(0.5, 1.5) + 3.01;
    expect(level(10_000)).toBeCloseTo(4, 1);
    expect(level(10)).toBeLessThan(-20);
  });
  it('finds a hole of 6 dB, 60 ms long, and nothing where there is none', () => {
    const holed = new PowerTape([signal(2, (t) => sine(440)(t) * (t > 1 && t < 1.06 ? 0.5 : 1))]);
    const { low, high } = holed.extremes(0.9, 1.2);
    expect(high - low).toBeGreaterThan(5.5);
    expect(high - low).toBeLessThan(6.5);
    const plain = holed.extremes(0.3, 0.6);
    expect(plain.high - plain.low).toBeLessThan(0.1);
  });
});

describe('when a note speaks', () => {
  /** Rises straight over `rise` seconds from 0.5 s on: within 10 dB of full after 0.316 of it. */
  const rising = (rise: number) =>
    signal(1.5, (t) => sine(660)(t) * Math.min(1, Math.max(0, (t - 0.5) / rise)));
  it.each([0.002, 0.02, 0.1, 0.2])('is told within 3 ms for a rise of %f s', (rise) => {
    const told = new PowerTape([rising(rise)]).speaks(0.3, 1, -80);
    expect(Math.abs((told ?? 9) - 0.5 - rise * 10 ** -0.5)).toBeLessThan(0.003);
  });
  it('is told the same above hiss at −50 dBFS', () => {
    const noisy = rising(0.02).map((v, i) => v + 0.003 * (((i * 7919) % 1013) / 506 - 1));
    const tape = new PowerTape([noisy]);
    const told = tape.speaks(0.3, 1, tape.db(0.1, 0.3));
    expect(Math.abs((told ?? 9) - 0.5 - 0.0063)).toBeLessThan(0.003);
  });
  it('is not told of silence', () => {
    expect(new PowerTape([new Float32Array(RATE)]).speaks(0, 1, -80)).toBeUndefined();
  });
});

describe('when one pitch takes over from another', () => {
  const hertz = (key: number) => 440 * 2 ** ((key - 69) / 12);
  /** Crossfades from one tone to the other around 1 s. */
  const crossed = (from: number, to: number, at: number, over: number, toLevel = 1) => {
    const [a, b] = [tone(hertz(from)), tone(hertz(to))];
    return signal(2, (t) => {
      const x = Math.min(1, Math.max(0, (t - at) / over + 0.5)) * (Math.PI / 2);
      return Math.cos(x) * a(t) + toLevel * Math.sin(x) * b(t);
    });
  };
  const room = { before: 0.5, after: 0.5 };
  it.each([
    [60, 62],
    [62, 60],
    [60, 67],
    [72, 84],
    [84, 72],
    [55, 56],
  ])('%i to %i: is told within 3.5 ms, whichever is louder', (from, to) => {
    for (const level of [0.5, 1, 2])
      for (const late of [-0.02, 0, 0.015]) {
        const heard = takeover(crossed(from, to, 1 + late, 0.03, level), hertz(from), hertz(to), 1, room);
        expect(Math.abs((heard.at ?? 9) - 1 - late), `${level} ${late}`).toBeLessThan(0.0035);
      }
  });
  it('says how far the new pitch has come', () => {
    const quick = takeover(crossed(60, 64, 1, 0.03), hertz(60), hertz(64), 1, room);
    expect(Math.abs(quick.behindDb ?? 9)).toBeLessThan(0.5);
    // At 45 ms of a rise that ends at 150 ms: sin of 0.65 of a quarter turn.
    const slow = takeover(crossed(60, 64, 1, 0.3), hertz(60), hertz(64), 1, room);
    expect(Math.abs((slow.behindDb ?? 9) + 20 * Math.log10(Math.sin(0.65 * (Math.PI / 2))))).toBeLessThan(
      0.5,
    );
  });
});

import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { decayOf, powerEvery5ms, tailSeconds } from './index.ts';
import { decayOfPower, noiseOf } from './decay.ts';

/** Decays written down as formulas: 10^(−6·t/T) falls by 60 dB of power in T seconds. */

const STEP = 0.005;
const dying = (seconds: number, steps: number, noise = 0) =>
  Float64Array.from({ length: steps }, (_, n) => 10 ** ((-6 * n * STEP) / seconds) + noise);
/** Steps in which a decay of T seconds falls by so many decibels. */
const stepsOf = (db: number, seconds = 1) => Math.round(((db / 60) * seconds) / STEP);

describe('the power of every 5 ms', () => {
  it('is the mean square of each, of all channels together', () => {
    const steps = Float32Array.from({ length: 960 }, (_, i) => [0.5, -0.25, 1, 0][Math.floor(i / 240)]);
    expect([...powerEvery5ms([steps], 48_000, 0, 960)]).toEqual([0.25, 0.0625, 1, 0]);
    expect([...powerEvery5ms([steps, steps], 48_000, 0, 960)]).toEqual([0.5, 0.125, 2, 0]);
  });
  it('is counted from a frame, and in whole steps to another or the end', () => {
    const steps = Float32Array.from({ length: 960 }, (_, i) => (i < 480 ? 0 : 1));
    expect([...powerEvery5ms([steps], 48_000, 240, 9999)]).toEqual([0, 1, 1]);
    expect([...powerEvery5ms([steps], 48_000, 360, 960)]).toEqual([0.5, 1]);
    expect([...powerEvery5ms([steps], 48_000, 480, 500)]).toEqual([]);
    expect([...powerEvery5ms([steps], 48_000, 960, 480)]).toEqual([]);
  });
  it('drifts nowhere at rates of which 5 ms are no whole frames', () => {
    // 220.5 frames: the hundredth step begins at frame 22,050 exactly.
    const signal = new Float32Array(44_100);
    signal[22_050] = 1;
    const power = powerEvery5ms([signal], 44_100, 0, signal.length);
    expect(power.length).toBe(200);
    expect(power.findIndex((value) => value > 0)).toBe(100);
    expect(power[100]).toBeCloseTo(1 / 221, 4);
  });
});

describe('the noise at an end', () => {
  it('is the mean of the last tenth, of four steps at least', () => {
    const of = (length: number, last: number) =>
      noiseOf(Float64Array.from({ length }, (_, n) => (n < length - last ? 100 : n - length + last + 1)));
    expect(of(60, 6)).toBeCloseTo(3.5, 9);
    expect(of(69, 6)).toBeCloseTo(3.5, 9);
    expect(of(20, 4)).toBeCloseTo(2.5, 9);
    expect(of(60, 5)).toBeGreaterThan(15);
  });
});

describe('the decay of powers', () => {
  it.each([0.3, 1, 4])('that fall as a formula of %s s is that, over 30 dB', (seconds) => {
    const found = decayOfPower(dying(seconds, stepsOf(80, seconds)));
    expect(found?.rangeDb).toBe(30);
    expect(Math.abs((found?.seconds ?? 0) / seconds - 1)).toBeLessThan(0.003);
  });
  it.each([
    [48, 30],
    [41, 20],
    [32, 20],
    [28, 10],
    [19, 10],
  ])('that were cut after %s dB is the same, over %s dB', (there, rangeDb) => {
    // What lies beyond the cut is guessed and put back. The line keeps out of the last seventh: of 41 dB, 35 lie too near the end.
    const found = decayOfPower(dying(1, stepsOf(there)), true);
    expect(found?.rangeDb).toBe(rangeDb);
    expect(Math.abs((found?.seconds ?? 0) - 1)).toBeLessThan(0.01);
  });
  it('is nothing before 15 dB, or of fewer than 20 steps', () => {
    expect(decayOfPower(dying(1, stepsOf(16)), true)).toBeUndefined();
    expect(decayOfPower(dying(0.05, 20), true)?.rangeDb).toBe(30);
    expect(decayOfPower(dying(0.05, 19), true)).toBeUndefined();
    expect(decayOfPower(new Float64Array(300).fill(1))).toBeUndefined();
    expect(decayOfPower(new Float64Array(300))).toBeUndefined();
    expect(decayOfPower(new Float64Array(300), true)).toBeUndefined();
  });
  it.each([-70, -50, -40])('is told over noise at %s dB', (db) => {
    const found = decayOfPower(dying(1, 400, 10 ** (db / 10)));
    expect(Math.abs((found?.seconds ?? 0) - 1)).toBeLessThan(0.04);
    expect(found?.rangeDb).toBe(db < -45 ? 30 : 20);
  });
  it('is nothing where noise leaves hardly a decay', () => {
    expect(decayOfPower(dying(1, 400, 0.05))).toBeUndefined();
    // 20 dB stand out of it: two straight lines' worth of it, one of ten decibels.
    expect(decayOfPower(dying(1, 400, 0.005))?.rangeDb).toBe(10);
    // It must stand out for 20 steps.
    expect(decayOfPower(dying(0.15, 400, 1e-4))).toBeDefined();
    expect(decayOfPower(dying(0.1, 400, 1e-4))).toBeUndefined();
  });
  it('begins 5 dB below the start', () => {
    // A first fall of 3 dB at once, as of a sound that stops, is not the room's.
    const power = dying(1, 400);
    power[0] = power.reduce((sum, value) => sum + value);
    const found = decayOfPower(power);
    expect(Math.abs((found?.seconds ?? 0) - 1)).toBeLessThan(0.01);
  });
  it('of two slopes is that of the range it was told over', () => {
    // 0.5 s for 40 dB, then 3 s: of −5 … −35 dB all but the beginning of the second is the first.
    const power = dying(0.5, 700).map((value, n) => value + 1e-4 * 10 ** ((-6 * n * STEP) / 3));
    const found = decayOfPower(power);
    expect(found?.rangeDb).toBe(30);
    expect(found?.seconds).toBeGreaterThan(0.5);
    expect(found?.seconds).toBeLessThan(0.62);
  });
  it('is that of the sound between two frames', () => {
    const rate = 48_000;
    const signal = Float32Array.from({ length: 2.5 * rate }, (_, i) =>
      i < 0.5 * rate || i > 2 * rate ? 1 : 10 ** ((-3 * (i / rate - 0.5)) / 0.8),
    );
    const found = decayOf([signal, signal], rate, 0.5 * rate, 2 * rate);
    expect(Math.abs((found?.seconds ?? 0) - 0.8)).toBeLessThan(0.01);
    expect(decayOf([signal], rate, 0, 0.5 * rate)).toBeUndefined();
  });
});

describe('the length of a tail', () => {
  const rate = 48_000;
  const square = (levels: readonly number[]) =>
    Float32Array.from({ length: levels.length * 240 }, (_, i) => levels[Math.floor(i / 240)]);
  it('ends with the last 5 ms within 60 dB of the loudest', () => {
    const levels = [0, 1, 0.5, 0.0011, 0.0009, 0.0009];
    expect(tailSeconds([square(levels)], rate, 240)).toBeCloseTo(0.015, 9);
    expect(tailSeconds([square([...levels, 0.0011, 0])], rate, 240)).toBeCloseTo(0.03, 9);
  });
  it('is the whole of what does not die away, and nothing of what is silent', () => {
    expect(tailSeconds([square([1, 1, 1, 1])], rate, 240)).toBeCloseTo(0.015, 9);
    expect(tailSeconds([square([1, 0, 0, 0])], rate, 480)).toBeCloseTo(0.005, 9);
  });
});

describe('the decay of recordings', () => {
  const rate = 48_000;
  const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);
  /** Noise that falls by 60 dB in `t60` seconds from frame 0. */
  const falling = (t60: number, seconds: number, seed: number) =>
    noise(seconds * rate, seed).map((value, i) => value * 10 ** ((-3 * i) / rate / t60));
  it.each([0.4, 1.1, 2.6])('finds T30 of noise that falls in %s s within a tenth', (t60) => {
    const decay = decayOf([falling(t60, 2 * t60 + 0.5, 7)], rate, 0, (2 * t60 + 0.5) * rate);
    expect(decay?.rangeDb).toBe(30);
    expect(Math.abs((decay?.seconds ?? 0) / t60 - 1)).toBeLessThan(0.1);
  });
  it('holds the noise under a decay out', () => {
    const signal = falling(1, 2.5, 7).map((value, i) => value + 0.0008 * noise(1, i + 1)[0]);
    expect(Math.abs((decayOf([signal], rate, 0, signal.length)?.seconds ?? 0) - 1)).toBeLessThan(0.1);
  });
  it('says nothing of steady sound or silence', () => {
    expect(decayOf([new Float32Array(rate).fill(0.5)], rate, 0, rate)).toBeUndefined();
    expect(decayOf([new Float32Array(rate)], rate, 0, rate)).toBeUndefined();
  });
  it('finds where a tail has gone', () => {
    const signal = new Float32Array(2 * rate);
    signal.set(falling(0.5, 1.5, 5), 0.25 * rate);
    expect(Math.abs(tailSeconds([signal], rate, 0.25 * rate) - 0.5)).toBeLessThan(0.03);
  });
});

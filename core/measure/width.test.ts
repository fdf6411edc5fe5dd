import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { widthOf } from './index.ts';

const rate = 48_000;
const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);

describe('width', () => {
  it('is 1 for a point, near 0 for two strangers, −1 out of phase', () => {
    const [a, b] = [noise(rate, 1), noise(rate, 2)];
    expect(widthOf([a, a], 0, rate)?.correlation).toBeCloseTo(1, 5);
    expect(widthOf([a], 0, rate)?.correlation).toBeCloseTo(1, 5);
    expect(Math.abs(widthOf([a, b], 0, rate)?.correlation ?? 9)).toBeLessThan(0.02);
    expect(widthOf([a, a.map((v) => -v)], 0, rate)?.correlation).toBeCloseTo(-1, 5);
    expect(widthOf([new Float32Array(9), new Float32Array(9)], 0, 9)).toBeUndefined();
  });
  it('finds a planted correlation', () => {
    const [a, b] = [noise(2 * rate, 1), noise(2 * rate, 2)];
    const mixed = a.map((value, i) => 0.9 * value + Math.sqrt(1 - 0.81) * b[i]);
    expect(Math.abs((widthOf([a, mixed], 0, a.length)?.correlation ?? 0) - 0.9)).toBeLessThan(0.01);
  });
  it('is told by the difference against the sum, in decibels', () => {
    const left = Float32Array.of(...new Array<number>(100).fill(1));
    const sideDb = (right: number) => widthOf([left, left.map(() => right)], 0, 100)?.sideDb ?? NaN;
    // Difference and sum of 1 and ½ are ½ and 3/2: a ninth of the power.
    expect(sideDb(0.5)).toBeCloseTo(-9.54, 2);
    expect(sideDb(-0.5)).toBeCloseTo(9.54, 2);
    expect(sideDb(0)).toBeCloseTo(0, 6);
    // What has no difference at all is told as 90 dB below, what has no sum as far above.
    expect(sideDb(1)).toBeCloseTo(-90, 6);
    expect(sideDb(-1)).toBeGreaterThan(90);
    expect(widthOf([left, new Float32Array(100)], 0, 100)?.correlation).toBe(0);
    expect(widthOf([new Float32Array(100), left], 0, 100)?.correlation).toBe(0);
  });
  it('is that of the frames asked for, as far as they are there', () => {
    const left = Float32Array.from({ length: 200 }, (_, i) => (i < 100 ? 0.5 : -0.5));
    const right = new Float32Array(200).fill(0.5);
    expect(widthOf([left, right], -50, 100)?.correlation).toBeCloseTo(1, 6);
    expect(widthOf([left, right], 100, 900)?.correlation).toBeCloseTo(-1, 6);
    expect(widthOf([left, right], 50, 150)?.correlation).toBeCloseTo(0, 6);
    expect(widthOf([left, right], 150, 150)).toBeUndefined();
    // Silent is below −120 dB over all frames together.
    expect(widthOf([new Float32Array(1).fill(1e-7), new Float32Array(1)], 0, 1)).toBeUndefined();
    expect(widthOf([new Float32Array(1).fill(1e-5), new Float32Array(1)], 0, 1)).toBeDefined();
  });
});

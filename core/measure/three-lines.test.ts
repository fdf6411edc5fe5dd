import { describe, expect, it } from 'vitest';
import { threeLines } from './three-lines.ts';

interface Lines {
  base: number;
  slopes: readonly [number, number, number];
  ended: number;
  until: number;
  steps?: number;
}

/** Levels along three lines that join at two steps. */
const drawn = ({ base, slopes: [a, b, c], ended, until, steps = 90 }: Lines) =>
  Float64Array.from(
    { length: steps },
    (_, n) =>
      base +
      a * Math.min(n, ended) +
      b * Math.max(0, Math.min(n, until) - ended) +
      c * Math.max(0, n - until),
  );

describe('three lines', () => {
  it.each([
    { base: -10, slopes: [-3, -0.5, -0.02], ended: 6, until: 60 },
    { base: 0, slopes: [-8, -1, 0.1], ended: 2, until: 30 },
    { base: -30, slopes: [-1, -0.4, -3], ended: 14, until: 70 },
  ] as Lines[])('are found where they join: at $ended and $until', (lines) => {
    const levels = drawn(lines);
    const found = threeLines([levels], 0, 20);
    expect([found?.ended, found?.until]).toEqual([lines.ended, lines.until]);
    found?.slopes.forEach((slope, k) => expect(slope).toBeCloseTo(lines.slopes[k], 6));
    expect(found?.bases[0]).toBeCloseTo(lines.base, 6);
    expect(found?.cost).toBeCloseTo(0, 6);
  });
  it('of several positions join at the same steps and have a middle slope; each has its base', () => {
    const one: Lines = { base: -10, slopes: [-3, -0.6, -0.1], ended: 6, until: 50 };
    const found = threeLines([drawn(one), drawn({ ...one, base: -24, slopes: [-2, -0.4, 0.1] })], 0, 20);
    expect([found?.ended, found?.until]).toEqual([6, 50]);
    [-2.5, -0.5, 0].forEach((slope, k) => expect(found?.slopes[k]).toBeCloseTo(slope, 6));
    expect(found?.bases[0]).toBeCloseTo(-10, 6);
    expect(found?.bases[1]).toBeCloseTo(-24, 6);
  });
  it('have a cost: the squares of what they leave over, of all positions', () => {
    // What alternates by one decibel, no line can follow: about one squared decibel a step.
    const straight = drawn({ base: 0, slopes: [-0.5, -0.5, -0.5], ended: 0, until: 90 });
    const uneven = straight.map((level, n) => level + (n % 2 ? 1 : -1));
    const cost = threeLines([uneven], 0, 0)?.cost ?? 0;
    expect(cost).toBeGreaterThan(87);
    expect(cost).toBeLessThan(90.1);
    expect(threeLines([uneven, uneven], 0, 0)?.cost).toBeCloseTo(2 * cost, 6);
  });
  it('lack the first where none is wanted, and look from a step on', () => {
    const lines: Lines = { base: -10, slopes: [-3, -0.5, 0], ended: 6, until: 60 };
    const found = threeLines([drawn(lines)], 6, 0);
    expect([found?.ended, found?.until]).toEqual([0, 60]);
    expect(found?.slopes[0]).toBeCloseTo(-0.5, 6);
    expect(found?.slopes[1]).toBeCloseTo(-0.5, 6);
    expect(found?.cost).toBeCloseTo(0, 6);
    // Drawn on to the beginning, the second line is 15 dB below where the first began.
    expect(found?.bases[0]).toBeCloseTo(-25, 6);
  });
  it('end the first no later than allowed', () => {
    const lines: Lines = { base: 0, slopes: [-3, -0.5, 0], ended: 12, until: 60 };
    expect(threeLines([drawn(lines)], 0, 12)?.ended).toBe(12);
    expect(threeLines([drawn(lines)], 0, 11)?.ended).toBe(11);
  });
  it('are none where the second would fall by less than 4 dB, rise, or be as steep as the first', () => {
    const flat = (fall: number) =>
      threeLines([drawn({ base: 0, slopes: [0, -fall / 60, 0], ended: 0, until: 60 })], 0, 0);
    expect(flat(4.5)?.until).toBe(60);
    expect(flat(3.5)).toBeUndefined();
    expect(flat(-20)).toBeUndefined();
    // 16 steps of it are 3.2 dB, however steep what comes before.
    const after = (fall: number) =>
      threeLines([drawn({ base: 0, slopes: [-3, -fall / 16, 0], ended: 14, until: 30 })], 0, 20);
    expect([after(4.5)?.ended, after(4.5)?.until]).toEqual([14, 30]);
    expect(after(3.2)?.cost).toBeGreaterThan(0.1);
    const bent = (first: number) =>
      threeLines([drawn({ base: 0, slopes: [first, -1, -1], ended: 8, until: 90 })], 0, 20);
    expect(bent(-1.4)?.ended).toBe(8);
    // The best of what is steep enough fits less well.
    expect(bent(-1.2)?.cost ?? Infinity).toBeGreaterThan(0.1);
  });
  it('have a second of at least 16 steps, or half of what is there', () => {
    const until = (steps: number, at: number) =>
      threeLines([drawn({ base: 0, slopes: [0, -2, 0], ended: 0, until: at, steps })], 0, 0)?.until;
    expect(until(60, 16)).toBe(16);
    expect(until(60, 14)).toBe(16);
    expect(until(20, 10)).toBe(10);
    expect(until(20, 8)).toBe(10);
    expect(until(8, 4)).toBe(4);
    expect(until(6, 3)).toBe(4);
    expect(until(3, 3)).toBeUndefined();
  });
});

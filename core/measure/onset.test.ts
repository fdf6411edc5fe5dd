import { describe, expect, it } from 'vitest';
import {
  meanLevelDb,
  onsetOfEnvelope,
  onsetSeconds,
  packEnvelope,
  unpackEnvelope,
  attackEnvelope,
  sharedEnvelope,
  HOP_SECONDS,
} from './index.ts';

const rate = 48000;

describe('onset', () => {
  const burst = (start: number, rise: number) =>
    Float32Array.from(
      { length: rate / 2 },
      (_, i) =>
        Math.min(1, Math.max(0, (i / rate - start) / rise)) * Math.sin((2 * Math.PI * 660 * i) / rate),
    );
  it('finds a steep start within a millisecond, wherever it lies', () => {
    for (const start of [0.01, 0.0537, 0.12])
      expect(onsetSeconds([burst(start, 0.001)], rate)).toBeCloseTo(start, 2);
  });
  it('moves with a planted delay exactly', () => {
    const early = onsetSeconds([burst(0.03, 0.02)], rate);
    const late = onsetSeconds([burst(0.05, 0.02)], rate);
    expect(Math.abs(late - early - 0.02)).toBeLessThan(0.001);
  });
  it('is 0 for silence, without NaN', () => {
    expect(onsetSeconds([new Float32Array(rate)], rate)).toBe(0);
    expect(onsetOfEnvelope([])).toBe(0);
    expect(meanLevelDb([new Float32Array(10)], 0, 10)).toBe(-200);
  });
  it('is told above the hiss before it, unless there is nothing but hiss', () => {
    // A point lasts 1 ms: 20 ms of hiss, a step of −12 dB, then full.
    const points = (floor: number) => [
      ...Array.from({ length: 20 }, () => floor),
      ...Array.from({ length: 20 }, () => 0.06),
      ...Array.from({ length: 300 }, () => 1),
    ];
    const [quiet, hissing] = [onsetOfEnvelope(points(1e-6)), onsetOfEnvelope(points(1e-3))];
    expect(quiet).toBeGreaterThan(38 * HOP_SECONDS);
    expect(quiet).toBeLessThan(41 * HOP_SECONDS);
    expect(hissing).toBeCloseTo(quiet, 3);
    // What is as loud before as after has no silence in front: it speaks at once.
    expect(onsetOfEnvelope(points(0.9))).toBe(0);
  });
  it('survives packing', () => {
    const envelope = attackEnvelope([burst(0.03, 0.05)], rate);
    const onset = onsetOfEnvelope(unpackEnvelope(packEnvelope(envelope)));
    expect(Math.abs(onset - onsetOfEnvelope(envelope))).toBeLessThan(0.001);
  });
  it('packs half decibels above −120, a byte a point, and both ends of it', () => {
    expect(packEnvelope([1, 0.1, 1e-12, 0, 1e-14, 1e3])).toBe('f0dc000000ff');
    const back = unpackEnvelope('f0dc0001ff');
    expect([...back.subarray(0, 3)]).toEqual([1, 0.1, 0].map((value) => expect.closeTo(value, 9) as number));
    expect(10 * Math.log10(back[3])).toBeCloseTo(-119.5, 6);
    expect(10 * Math.log10(back[4])).toBeCloseTo(7.5, 6);
  });
  it('is told to a part of a point, at −10 dB of the peak', () => {
    // Amplitude climbs by 0.1 a point from point 10 on: √0.1 of 1 is reached 3.162 points later.
    const climbing = Array.from({ length: 200 }, (_, p) => Math.min(1, Math.max(0, (p - 10) / 10)) ** 2);
    expect(onsetOfEnvelope(climbing)).toBeCloseTo((10 + Math.sqrt(10)) * HOP_SECONDS, 9);
  });
  it('is held against the peak of the first 250 ms as they are played', () => {
    // Soft for 0.3 s, then 20 dB louder: 250 ms know nothing of that, twice as much does.
    const points = Array.from({ length: 250 }, (_, p) => (p < 10 ? 0 : p < 160 ? 0.01 : 1));
    expect(onsetOfEnvelope(points)).toBeLessThan(11 * HOP_SECONDS);
    expect(onsetOfEnvelope(points, 2)).toBeGreaterThan(158 * HOP_SECONDS);
    expect(onsetOfEnvelope(points, 0.5)).toBeLessThan(11 * HOP_SECONDS);
  });
  it('comes from the mean square of 5 ms around every point, of half a second', () => {
    const late = Float64Array.from({ length: rate }, (_, i) => (i >= 4800 ? 1 : 0));
    const envelope = sharedEnvelope([late, late], [late, late.map((v) => v / 2)], rate);
    expect(envelope.length).toBe(250);
    // Point 50 lies at 100 ms: half of its window is past the step. One channel adds 1, the other ½.
    expect([envelope[48], envelope[50], envelope[52]]).toEqual([0, 0.75, 1.5]);
    expect(sharedEnvelope([late], [late], rate, 4800)[0]).toBe(0.5);
    expect(sharedEnvelope([late], [late], rate, 4800)[2]).toBe(1);
  });
});

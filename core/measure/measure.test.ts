import { describe, expect, it } from 'vitest';
import {
  meanLevelDb,
  onsetOfEnvelope,
  onsetSeconds,
  packEnvelope,
  unpackEnvelope,
  attackEnvelope,
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
});

import { describe, expect, it } from 'vitest';
import { curveShare, lfoValue, moveEnvelope, volumeEnvelope } from './moves.ts';

const envelope = {
  delaySeconds: 1,
  attackSeconds: 2,
  holdSeconds: 1,
  decaySeconds: 4,
  sustain: 0.25,
  releaseSeconds: 1,
};

describe('curves of a source', () => {
  it.each([
    ['rise', 0, 0.5, 1],
    ['bipolar', -1, 0, 1],
    ['fall', 1, 0.5, 0],
    ['bipolarFall', 1, 0, -1],
    ['square', 0, 0.25, 1],
  ] as const)('%s', (curve, low, middle, high) => {
    expect([0, 63.5, 127].map((value) => curveShare(curve, value))).toEqual([low, middle, high]);
    expect([curveShare(curve, -5), curveShare(curve, 200)]).toEqual([low, high]);
  });
});

describe('envelopes', () => {
  it('of pitch and filter go in straight lines: delay, rise, hold, fall to the sustain', () => {
    expect([0, 0.9, 1, 2, 3, 3.9, 6, 8, 20].map((age) => moveEnvelope(envelope, age))).toEqual([
      0,
      0,
      0,
      0.5,
      1,
      1,
      1 - 0.75 * 0.5,
      0.25,
      0.25,
    ]);
  });
  it('of volume fall in decibels', () => {
    expect([0.5, 2, 3.5].map((age) => volumeEnvelope(envelope, age))).toEqual([0, 0.5, 1]);
    // Half-way to −12.04 dB.
    expect(volumeEnvelope(envelope, 6)).toBeCloseTo(0.5, 9);
    expect(volumeEnvelope(envelope, 30)).toBe(0.25);
    expect(volumeEnvelope({ ...envelope, sustain: 0 }, 7.9)).toBeGreaterThan(0);
    expect(volumeEnvelope({ ...envelope, sustain: 0 }, 8)).toBe(0);
    expect(volumeEnvelope({ ...envelope, decaySeconds: 0 }, 4.01)).toBe(0.25);
    expect(volumeEnvelope({ ...envelope, sustain: 1 }, 30)).toBe(1);
  });
});

describe('a slow sine', () => {
  it('waits, grows, and is as deep as its controller says', () => {
    const lfo = {
      target: 'tuneCents' as const,
      depth: 10,
      hertz: 0.25,
      delaySeconds: 1,
      fadeSeconds: 2,
      controllerDepth: 20,
    };
    expect(lfoValue(lfo, 1, 127)).toBe(0);
    // A quarter of its period later it is at its height, half grown.
    expect(lfoValue(lfo, 2, 0)).toBeCloseTo(5, 9);
    expect(lfoValue(lfo, 2, 127)).toBeCloseTo(15, 9);
    expect(lfoValue(lfo, 6, 127)).toBeCloseTo(30, 9);
    expect(lfoValue(lfo, 8, 127)).toBeCloseTo(-30, 9);
    expect(lfoValue({ ...lfo, fadeSeconds: 0 }, 2, 0)).toBeCloseTo(10, 9);
  });
});

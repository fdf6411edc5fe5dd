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
    ['switch', 0, 1, 1],
    ['switchFall', 1, 0, 0],
  ] as const)('%s', (curve, low, middle, high) => {
    expect([0, 63.5, 127].map((value) => curveShare(curve, value))).toEqual([low, middle, high]);
    expect([curveShare(curve, -5), curveShare(curve, 200)]).toEqual([low, high]);
  });
});

describe('bent curves of a source', () => {
  // 40/96 · log10(2) = 0.12543 in the middle; 40/96 · log10(127/32) = 0.24944 a quarter of the way from the far end.
  it.each([
    ['concave', 0, 0.12543, 1],
    ['concaveFall', 1, 0.12543, 0],
    ['convex', 0, 0.87457, 1],
    ['convexFall', 1, 0.87457, 0],
  ] as const)('%s', (curve, low, middle, high) => {
    expect([curveShare(curve, 0), curveShare(curve, 127)]).toEqual([low, high]);
    expect(curveShare(curve, 63.5)).toBeCloseTo(middle, 5);
  });
  it('give the square law of level by 96 dB over velocity', () => {
    for (const velocity of [3, 32, 64, 100, 127])
      expect(-96 * curveShare('concaveFall', velocity)).toBeCloseTo(40 * Math.log10(velocity / 127), 6);
    expect(curveShare('concaveFall', 32)).toBeCloseTo(0.24944, 4);
    // Not beyond what there is.
    expect(curveShare('concaveFall', 0.01)).toBe(1);
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
    // From the middle on: a third of the way up from 64 is 85.
    const upper = { ...lfo, fadeSeconds: 0, controllerFrom: 64 };
    expect([0, 30, 64].map((value) => lfoValue(upper, 2, value))).toEqual([10, 10, 10]);
    expect(lfoValue(upper, 2, 85)).toBeCloseTo(10 + 20 / 3, 9);
    expect(lfoValue(upper, 2, 127)).toBeCloseTo(30, 9);
  });
});

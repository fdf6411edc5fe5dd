import { describe, expect, it } from 'vitest';
import { tappedBpm, tappedLate } from './index.ts';

const taps = (gaps: readonly number[], from = 1000) =>
  gaps.reduce((times, gap) => [...times, times[times.length - 1] + gap], [from]);

describe('a tapped tempo', () => {
  it('is told by four taps, in beats a minute', () => {
    expect(tappedBpm(taps([500, 500]))).toBeUndefined();
    expect(tappedBpm(taps([500, 500, 500]))).toBe(120);
    expect(tappedBpm([])).toBeUndefined();
  });
  it('is that of most of them: a hand that stumbles once is forgiven', () => {
    expect(tappedBpm(taps([600, 610, 590, 1200, 605, 595, 600]))).toBeCloseTo(100, 6);
    expect(tappedBpm(taps([600, 620, 580, 610]))).toBeCloseTo(60_000 / 605, 6);
  });
  it('begins anew after a rest, and follows when the hand goes on faster', () => {
    expect(tappedBpm(taps([500, 500, 500, 4000, 1000, 1000]))).toBeUndefined();
    expect(tappedBpm(taps([500, 500, 500, 4000, 1000, 1000, 1000]))).toBe(60);
    expect(
      tappedBpm(taps([...Array.from({ length: 20 }, () => 1000), ...Array.from({ length: 11 }, () => 500)])),
    ).toBe(120);
  });
  it('is none where taps come at once', () => {
    expect(tappedBpm([5, 5, 5, 5, 5])).toBeUndefined();
  });
});

describe('taps to clicks', () => {
  const clicks = (late: number, count = 8) => Array.from({ length: count }, (_, i) => (i + 1) * 0.6 + late);
  it('tell how late they come, or how early', () => {
    expect(tappedLate(clicks(0.045), 0.6)?.late).toBeCloseTo(0.045, 9);
    expect(tappedLate(clicks(-0.02), 0.6)?.late).toBeCloseTo(-0.02, 9);
  });
  it('are judged by the middle one: one that is missed, doubled or far off changes little', () => {
    const taps = [...clicks(0.03).filter((_, i) => i !== 3), 4.9, 2.42].sort((a, b) => a - b);
    expect(tappedLate(taps, 0.6)?.late).toBeCloseTo(0.03, 2);
  });
  it('say how uneven they were', () => {
    const uneven = clicks(0).map((time, i) => time + (i % 2 === 0 ? 0.08 : -0.08));
    expect(tappedLate(uneven, 0.6)?.spread).toBeCloseTo(0.08, 9);
    expect(tappedLate(clicks(0.01), 0.6)?.spread).toBeCloseTo(0, 9);
  });
  it('tell nothing while they are few', () => {
    expect(tappedLate(clicks(0, 5), 0.6)).toBeUndefined();
    expect(tappedLate(clicks(0, 6), 0.6)).toBeDefined();
  });
});

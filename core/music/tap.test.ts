import { describe, expect, it } from 'vitest';
import { tappedBpm } from './index.ts';

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

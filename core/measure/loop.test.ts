import { describe, expect, it } from 'vitest';
import { blendLoop, findLoop } from './index.ts';

const RATE = 48_000;
/** A tone with falling harmonics. */
function tone(hertz: number, seconds: number, { decay = Infinity } = {}): Float32Array {
  return Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => {
    const t = i / RATE;
    let value = 0;
    for (let n = 1; n <= 6; n++) value += Math.sin(2 * Math.PI * n * hertz * t + n) / n;
    return 0.3 * value * Math.exp(-t / decay) * Math.min(1, t / 0.02);
  });
}

describe('a loop', () => {
  it('is found where both ends are alike', () => {
    const loop = findLoop(tone(220, 2), RATE);
    expect(loop?.likeness).toBeGreaterThan(0.995);
    expect((loop?.end ?? 0) - (loop?.start ?? 0)).toBeGreaterThan(0.4 * RATE);
  });
  it('is not found in what dies away or is too short', () => {
    expect(findLoop(tone(220, 2, { decay: 0.3 }), RATE)).toBeUndefined();
    // Between the quarter and 85 % of 2 s it falls by 9 and by 11 dB: 10 dB is the most.
    expect(findLoop(tone(220, 2, { decay: 1.3 }), RATE)).toBeDefined();
    expect(findLoop(tone(220, 2, { decay: 0.8 }), RATE)).toBeUndefined();
    expect(findLoop(new Float32Array(2 * RATE), RATE)).toBeUndefined();
    expect(findLoop(tone(220, 0.4), RATE)).toBeUndefined();
  });
  it('begins and ends where the wave rises through zero, inside the held part', () => {
    const signal = tone(220, 2);
    const loop = findLoop(signal, RATE) ?? { start: 0, end: 0 };
    for (const frame of [loop.start, loop.end]) {
      expect(signal[frame - 1]).toBeLessThanOrEqual(0);
      expect(signal[frame]).toBeGreaterThan(0);
    }
    expect(loop.start).toBeGreaterThanOrEqual(0.25 * signal.length);
    expect(loop.end).toBeLessThanOrEqual(0.85 * signal.length + RATE / 220);
    // A whole number of periods apart.
    const periods = ((loop.end - loop.start) * 220) / RATE;
    expect(Math.abs(periods - Math.round(periods))).toBeLessThan(0.02);
  });
  it('is the best there is of a sound that wavers: two places half a second apart', () => {
    // A second partial that turns twice a second: only there both ends are alike.
    const signal = Float32Array.from({ length: 3 * RATE }, (_, i) => {
      const t = i / RATE;
      return (
        0.3 * Math.sin(2 * Math.PI * 200 * t) +
        0.3 * Math.sin(2 * Math.PI * (400 * t + Math.sin(4 * Math.PI * t)))
      );
    });
    const loop = findLoop(signal, RATE);
    const seconds = ((loop?.end ?? 0) - (loop?.start ?? 0)) / RATE;
    expect(Math.abs(2 * seconds - Math.round(2 * seconds))).toBeLessThan(0.05);
    expect(loop?.likeness).toBeGreaterThan(0.98);
  });
});

describe('the blend of a seam', () => {
  it('goes over into what stands before the start, at equal power, and ends as that', () => {
    const steps = Float32Array.from({ length: 100 }, (_, i) => (i < 30 ? 0.5 : 0.25));
    blendLoop([steps], 30, 90, 10);
    expect(steps[79]).toBe(0.25);
    expect(steps[80]).toBe(0.25);
    // Half way both count with √½.
    expect(steps[85]).toBeCloseTo(0.75 * Math.SQRT1_2, 6);
    expect(steps[89]).toBeCloseTo(0.25 * Math.cos(0.45 * Math.PI) + 0.5 * Math.sin(0.45 * Math.PI), 6);
    expect(steps[90]).toBe(0.25);
  });
  it('is no longer than what stands before the start, or than the loop', () => {
    const early = new Float32Array(100).fill(1);
    early.fill(0, 0, 4);
    blendLoop([early], 4, 90, 10);
    expect([early[85], early[86], early[89] < 1]).toEqual([1, 1, true]);
    const short = new Float32Array(100).fill(1);
    short.fill(0, 0, 50);
    blendLoop([short, short], 50, 56, 10);
    expect([...short.subarray(0, 50)].every((v) => v === 0)).toBe(true);
    expect(short[56]).toBe(1);
  });
});

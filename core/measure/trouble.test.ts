import { describe, expect, it } from 'vitest';
import { troubleOf } from './index.ts';

const rate = 48_000;
const tone = (hz: number, seconds: number, level = 0.5) =>
  Float32Array.from(
    { length: Math.round(seconds * rate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / rate),
  );

describe('recordings in trouble', () => {
  it('are told instead of measured', () => {
    expect(troubleOf([new Float32Array(rate)], rate)).toBe('silent');
    expect(troubleOf([tone(440, 0.01)], rate)).toBe('very short');
    expect(troubleOf([], rate)).toBe('very short');
    expect(troubleOf([tone(440, 1, 2).map((v) => Math.max(-1, Math.min(1, v)))], rate)).toBe('clipped');
    expect(troubleOf([tone(440, 1, 0.99)], rate)).toBeUndefined();
    // Four equal samples at the very top, not three, and not four a little below it.
    const topped = (run: number, value: number) => {
      const signal = tone(440, 1, 0.5);
      signal.fill(value, 5000, 5000 + run);
      signal[9000] = 0.99;
      return troubleOf([signal], rate);
    };
    expect([topped(4, 0.99), topped(3, 0.99), topped(4, 0.98)]).toEqual(['clipped', undefined, undefined]);
    expect(topped(4, -0.99)).toBe('clipped');
    expect(troubleOf([Float32Array.of(...new Array<number>(2000).fill(NaN))], rate)).toBe('silent');
  });
});

import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { conversionErrorDb } from './index.ts';

const RATE = 44_100;
const FRAMES = 3 * 8192;
const tone = (hz: number, level: number) =>
  Float32Array.from({ length: FRAMES }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / RATE));
const plus = (a: Float32Array, b: Float32Array) => a.map((value, i) => value + b[i]);

describe('the error of a conversion', () => {
  it.each([-20, -60, -100])('is the power of what differs against that of the sound: %s dB', (db) => {
    const [sound, wrong] = [tone(1000, 0.5), tone(3000, 0.5 * 10 ** (db / 20))];
    expect(Math.abs((conversionErrorDb(sound, plus(sound, wrong), RATE, 48_000) ?? 0) - db)).toBeLessThan(
      0.2,
    );
  });
  it('counts nothing above what both rates can hold', () => {
    const noise = whiteNoise(FRAMES, 5);
    const above = (hz: number, other: number) =>
      conversionErrorDb(noise, plus(noise, tone(hz, 0.5)), RATE, other) ?? 0;
    // Nine tenths of 22,050 Hz are 19,845 Hz; of 12 kHz they are 10.8 kHz.
    expect(above(21_000, 48_000)).toBeLessThan(-60);
    expect(above(18_000, 48_000)).toBeGreaterThan(-20);
    expect(above(12_000, 24_000)).toBeLessThan(-60);
    expect(above(10_000, 24_000)).toBeGreaterThan(-20);
  });
  it('is told by the loudest block', () => {
    const late = tone(1000, 0.5);
    late.fill(0, 0, 8192);
    const wrong = tone(2000, 0.005);
    const error = conversionErrorDb(late, plus(late, wrong), RATE, 48_000) ?? 0;
    expect(Math.abs(error + 40)).toBeLessThan(0.3);
  });
  it('is none of silence or of what is too short, and very small of what is the same', () => {
    const silence = new Float32Array(FRAMES);
    expect(conversionErrorDb(silence, silence, RATE, 48_000)).toBeUndefined();
    expect(conversionErrorDb(tone(500, 1).subarray(0, 8000), silence, RATE, 48_000)).toBeUndefined();
    expect(conversionErrorDb(tone(500, 1), tone(500, 1), RATE, 48_000)).toBeLessThan(-150);
  });
});

import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { noiseFloorDb } from './index.ts';

const rate = 48_000;
const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);
const tone = (hz: number, seconds: number, level = 0.5, atRate = rate) =>
  Float32Array.from(
    { length: Math.round(seconds * atRate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / atRate),
  );
const fall = (seconds: number, t60: number) => 10 ** ((-3 * seconds) / t60);

describe('noise floor', () => {
  it('finds the hiss in front of a note within 1 dB', () => {
    const signal = noise(rate, 9).map((value) => value * 0.002);
    const level = 10 * Math.log10(signal.reduce((sum, value) => sum + value * value, 0) / signal.length);
    for (let i = rate / 2; i < rate; i++) signal[i] += 0.5 * Math.sin(i * 0.05);
    const heard = noiseFloorDb([signal], rate, rate / 2) ?? 0;
    // The quietest stretch of many lies a little under the mean.
    expect(Math.abs(heard - level)).toBeLessThan(1.5);
  });
  it('says nothing where there is nothing before the note, or digital silence', () => {
    expect(noiseFloorDb([tone(440, 1)], rate, 0)).toBeUndefined();
    expect(noiseFloorDb([new Float32Array(rate)], rate, rate / 2)).toBeUndefined();
  });
});

describe('hiss', () => {
  const hiss = (frames: number, db: number, seed: number) =>
    whiteNoise(frames, seed).map((value) => value * Math.sqrt(3) * 10 ** (db / 20));
  const struck = (at: number) =>
    Float32Array.from({ length: rate }, (_, i) => {
      const t = i / rate - at;
      return t < 0 ? 0 : 0.3 * Math.sin(2 * Math.PI * 440 * t) * fall(t, 0.3);
    });
  const mixed = (a: Float32Array, b: Float32Array) => a.map((value, i) => value + b[i]);
  const level = (value: Float32Array) =>
    10 * Math.log10(value.reduce((sum, one) => sum + one * one, 0) / value.length);

  it('is found at the end of a recording that begins at once', () => {
    const own = hiss(rate, -62, 5);
    expect(Math.abs((noiseFloorDb([mixed(struck(0), own)], rate, 0) ?? 0) - level(own))).toBeLessThan(1);
  });
  it('is the quieter of both places', () => {
    const own = hiss(rate, -62, 6);
    const louder = own.map((value, i) => (i > 0.5 * rate ? 4 * value : value));
    const heard = noiseFloorDb([mixed(struck(0.1), louder)], rate, 0.1 * rate) ?? 0;
    expect(Math.abs(heard - level(own))).toBeLessThan(1.5);
  });
  it('is nothing where a recording ends in a tone, or while it still dies away', () => {
    const held = Float32Array.from({ length: rate }, (_, i) => 0.01 * Math.sin(0.05 * i));
    expect(noiseFloorDb([held], rate, 0)).toBeUndefined();
    const dying = hiss(rate, -40, 7).map((value, i) => value * fall(i / rate, 0.7));
    expect(noiseFloorDb([dying], rate, 0)).toBeUndefined();
  });
  it('is the mean of both channels', () => {
    const own = hiss(rate, -62, 8);
    const stereo = [
      mixed(struck(0.2), own),
      mixed(
        struck(0.2),
        own.map((value) => value * 0.1),
      ),
    ];
    // One of two channels has nearly all of it: 3 dB less than that one.
    const heard = noiseFloorDb(stereo, rate, 0.2 * rate) ?? 0;
    expect(Math.abs(heard - (level(own) - 3))).toBeLessThan(1.2);
  });
  it('is known before a note from two steps of 5 ms on, 2 ms of which the note may stir in', () => {
    const noisy = (onset: number) => {
      const signal = tone(440, 1, 0.5);
      signal.set(hiss(onset, -60, 9));
      return noiseFloorDb([signal], rate, onset);
    };
    expect(noisy(0.012 * rate)).toBeDefined();
    expect(noisy(0.0118 * rate)).toBeUndefined();
  });
  it('needs 120 ms at the end, and no tone or hum in them that stands above it', () => {
    const own = hiss(rate, -62, 10);
    expect(noiseFloorDb([own.subarray(0, 0.12 * rate)], rate, 0)).toBeDefined();
    expect(noiseFloorDb([own.subarray(0, 0.12 * rate - 1)], rate, 0)).toBeUndefined();
    const over = (hz: number, db: number) =>
      noiseFloorDb([mixed(own, tone(hz, 1, Math.SQRT2 * 10 ** (db / 20)))], rate, 0);
    expect(over(1000, -70)).toBeDefined();
    expect(over(1000, -40)).toBeUndefined();
    // Below 200 Hz and above 10 kHz nobody takes it for a note.
    expect(over(60, -55)).toBeDefined();
    expect(over(14_000, -55)).toBeDefined();
  });
  it('dies away by less than 1 dB from one 60 ms to the next', () => {
    const dying = (db: number) =>
      noiseFloorDb(
        [hiss(rate, -40, 11).map((value, i) => value * 10 ** ((-db * i) / 20 / 0.06 / rate))],
        rate,
        0,
      );
    expect(dying(0.4)).toBeDefined();
    expect(dying(1.6)).toBeUndefined();
    expect(dying(-1.6)).toBeUndefined();
  });
});

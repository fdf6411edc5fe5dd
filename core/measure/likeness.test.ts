import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { likeness } from './index.ts';

const rate = 48_000;
const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);

describe('likeness of takes', () => {
  const take = (seed: number) => noise(rate / 2, seed).map((value, i) => value * Math.min(1, i / 400));
  it('is 1 for the same take, also cut differently and at another level', () => {
    const one = take(4);
    const moved = new Float32Array(one.length);
    moved.set(
      one.subarray(0, one.length - 96).map((value) => value * 0.4),
      96,
    );
    expect(likeness(one, 0, one, 0, rate)).toBeGreaterThan(0.999);
    expect(likeness(one, 0, moved, 0, rate)).toBeGreaterThan(0.99);
  });
  it('knows one again that was moved in pitch', () => {
    const wave = (i: number) => Math.sin(i * 0.05 + 3 * Math.sin(i * 0.0011)) * Math.min(1, i / 400);
    const ratio = 2 ** (3 / 12);
    const one = Float32Array.from({ length: rate }, (_, i) => wave(i));
    const borrowed = Float32Array.from({ length: rate }, (_, i) => wave(i * ratio));
    expect(likeness(borrowed, 0, one, 0, rate, ratio)).toBeGreaterThan(0.98);
    expect(likeness(borrowed, 0, one, 0, rate)).toBeLessThan(0.9);
  });
  it('finds the top between its steps when pitch was moved', () => {
    // About 4 kHz, half a step of 1/24,000 s apart: 30° of phase, of which the nearest step tells cos 30° = 0.866.
    const phase = (t: number) => 2 * Math.PI * 4000 * t + 40 * Math.sin(2 * Math.PI * 31 * t);
    const wave = (late: number) =>
      Float32Array.from({ length: rate / 2 }, (_, i) => Math.sin(phase((i - late) / rate)));
    expect(likeness(wave(0), 2000, wave(1), 2000, rate)).toBeLessThan(0.9);
    const between = likeness(wave(0), 2000, wave(1), 2000, rate, 1 + 1e-9);
    expect(Math.abs(between - 1)).toBeLessThan(0.05);
  });
  it('keeps two takes of the same apart', () => {
    expect(likeness(take(4), 0, take(5), 0, rate)).toBeLessThan(0.3);
  });
});

describe('the likeness of a recording to itself, moved in pitch', () => {
  /** A bright sound with hiss, as a function of time, read at any pace. */
  const partials = [...Array(14).keys()].map((n) => 300 * (n + 1));
  const sound = (pace: number, seed: number) => {
    const breath = whiteNoise(2 * rate, seed);
    return Float32Array.from({ length: 0.6 * rate }, (_, i) => {
      const t = (i * pace) / rate;
      const at = i * pace;
      const low = Math.floor(at / 8);
      const part = at / 8 - low;
      // Hiss up to 3 kHz, straight between points eight frames apart.
      const noise = breath[low] + part * (breath[low + 1] - breath[low]);
      return partials.reduce(
        (sum, hz, n) => sum + Math.sin(2 * Math.PI * hz * t + seed * n) / 14,
        0.1 * noise,
      );
    });
  };
  it.each([3, -4])('by %s semitones is all but one; two of its kind are less', (semitones) => {
    const ratio = 2 ** (semitones / 12);
    const [own, moved, other] = [sound(1, 3), sound(ratio, 3), sound(ratio, 4)];
    expect(likeness(moved, 500, own, Math.round(500 * ratio), rate, ratio)).toBeGreaterThan(0.999);
    expect(likeness(other, 500, own, Math.round(500 * ratio), rate, ratio)).toBeLessThan(0.99);
  });
  it('is nothing of silence, and of what is turned round', () => {
    const own = sound(1, 3);
    expect(likeness(own, 0, new Float32Array(rate), 0, rate)).toBe(0);
    expect(likeness(new Float32Array(rate), 0, own, 0, rate, 1.2)).toBe(0);
    expect(
      likeness(
        own,
        500,
        own.map((value) => -value),
        500,
        rate,
      ),
    ).toBeLessThan(0.8);
  });
  it.each([48_000, 96_000])('looks 4 ms to either side and 250 ms far, at %s Hz', (at) => {
    // Hiss in steps of 2 frames of 48 kHz: alike only where it lies upon itself.
    const wide = (2 * at) / 48_000;
    const hiss = whiteNoise(at, 7);
    const signal = (late: number, until = 1) =>
      Float32Array.from({ length: at }, (_, i) =>
        i < until * at ? hiss[Math.floor((i - late) / wide) + 1000] : 0.3,
      );
    const ms = at / 1000;
    for (const late of [-3.9, 3.9])
      expect(likeness(signal(0), 100 * ms, signal(late * ms), 100 * ms, at), `${late}`).toBeGreaterThan(0.97);
    for (const late of [-5, 5])
      expect(likeness(signal(0), 100 * ms, signal(late * ms), 100 * ms, at), `${late}`).toBeLessThan(0.3);
    expect(likeness(signal(0), 100 * ms, signal(0, 0.36), 100 * ms, at)).toBeGreaterThan(0.97);
    expect(likeness(signal(0), 100 * ms, signal(0, 0.3), 100 * ms, at)).toBeLessThan(0.95);
  });
  it('is told by what is there where a recording begins later or ends sooner', () => {
    const own = sound(1, 3);
    const short = own.subarray(0, 0.2 * rate);
    // A fifth of the time there is nothing to be alike: √0.8 is left.
    expect(Math.abs(likeness(own, 0, short, 0, rate) - Math.sqrt(0.8))).toBeLessThan(0.03);
    expect(Math.abs(likeness(short, 0, own, 0, rate, 1 + 1e-9) - Math.sqrt(0.8))).toBeLessThan(0.03);
  });
});

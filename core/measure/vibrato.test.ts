import { describe, expect, it } from 'vitest';
import { pitchTrackCents, vibratoOf } from './index.ts';

const rate = 48_000;
const tone = (hz: number, seconds: number, level = 0.5) =>
  Float32Array.from(
    { length: Math.round(seconds * rate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / rate),
  );

describe('vibrato', () => {
  const wavering = (hz: number, cents: number) => {
    let phase = 0;
    return Float32Array.from({ length: 3 * rate }, (_, i) => {
      phase += (2 * Math.PI * 440 * 2 ** ((cents * Math.sin((2 * Math.PI * hz * i) / rate)) / 1200)) / rate;
      return 0.4 * Math.sin(phase) + 0.2 * Math.sin(2 * phase);
    });
  };
  it.each([
    [5.5, 30],
    [6.4, 12],
    [4.2, 55],
  ])('finds %s Hz and ± %s cents', (hz, cents) => {
    const heard = vibratoOf(wavering(hz, cents), rate, 440, 0.2 * rate, 2.8 * rate);
    expect(Math.abs((heard?.hertz ?? 0) - hz)).toBeLessThan(0.3);
    // What is averaged over 40 ms loses a little of its width.
    expect(Math.abs((heard?.cents ?? 0) / cents - 1)).toBeLessThan(0.15);
  });
  it('hears it in another partial, between two frames, and not in what is too short', () => {
    const signal = wavering(5, 20);
    // The second partial moves by as many cents; it is half as loud.
    const second = vibratoOf(signal, rate, 880, 0.5 * rate, 2.5 * rate);
    expect(Math.abs((second?.hertz ?? 0) - 5)).toBeLessThan(0.3);
    expect(Math.abs((second?.cents ?? 0) - 20)).toBeLessThan(2);
    // Fifty values, 10 ms apart, after the first window of 40 ms.
    expect(vibratoOf(signal, rate, 440, 0, 0.56 * rate)).toBeDefined();
    expect(vibratoOf(signal, rate, 440, 0, 0.54 * rate)).toBeUndefined();
    expect(vibratoOf(signal, rate, 440, 2.6 * rate, 9 * rate)).toBeUndefined();
    expect(vibratoOf(signal, rate, 440, 2 * rate, 9 * rate)).toBeDefined();
  });
  it('makes good what 40 ms flatten', () => {
    for (const hz of [3.6, 5, 7, 8.3])
      expect(Math.abs((vibratoOf(wavering(hz, 20), rate, 440, 0, 3 * rate)?.cents ?? 0) - 20)).toBeLessThan(
        0.7,
      );
  });
  it('follows a pitch that climbs, cent by cent', () => {
    // 1200 · log2 of (440 + 4t)/440 at every 10 ms.
    const climbing = Float32Array.from({ length: 2 * rate }, (_, i) => {
      const t = i / rate;
      return Math.sin(2 * Math.PI * (440 * t + 2 * t * t));
    });
    const track = pitchTrackCents(climbing, rate, 440, 0, 2 * rate);
    expect(track.length).toBe(195);
    for (const p of [0, 60, 194])
      expect(Math.abs(track[p] - 1200 * Math.log2(1 + (4 * (0.025 + p * 0.01)) / 440))).toBeLessThan(0.05);
  });
  it('hears none in a straight tone, whose track lies on its pitch', () => {
    const straight = tone(440 * 2 ** (7 / 1200), 2);
    expect(vibratoOf(straight, rate, 440, 0.2 * rate, 1.8 * rate)?.cents ?? 0).toBeLessThan(1.5);
    const track = pitchTrackCents(straight, rate, 440, 0.2 * rate, 1.8 * rate);
    expect(Math.abs(track[track.length >> 1] - 7)).toBeLessThan(0.5);
  });
});

import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { midiToHertz } from '../units/index.ts';
import { hearPitch } from './index.ts';

const RATE = 48_000;
/** A tone with falling harmonics, and noise. */
function tone(
  hertz: number,
  seconds: number,
  options: { noise?: number; decay?: number; rate?: number } = {},
): Float32Array {
  const { noise = 0, decay = Infinity, rate = RATE } = options;
  const random = new Random('tone');
  return Float32Array.from({ length: Math.round(seconds * rate) }, (_, i) => {
    const t = i / rate;
    let value = 0;
    for (let n = 1; n <= 6; n++) value += Math.sin(2 * Math.PI * n * hertz * t + n) / n;
    return 0.3 * value * Math.exp(-t / decay) * Math.min(1, t / 0.02) + noise * (random.next() - 0.5);
  });
}

describe('the pitch of a recording', () => {
  it('is heard within a cent from the lowest to the highest keys', () => {
    for (let key = 24; key <= 96; key += 6) {
      const heard = hearPitch(tone(midiToHertz(key) * 2 ** (17 / 1200), 1.5), RATE);
      expect(heard?.key, `key ${key}`).toBe(key);
      expect(Math.abs((heard?.cents ?? 99) - 17)).toBeLessThan(1.5);
    }
  });
  it('is heard at other rates, in noise, and while it dies away', () => {
    expect(hearPitch(tone(220, 1.2, { rate: 44_100 }), 44_100)?.key).toBe(57);
    expect(hearPitch(tone(220, 1.2, { noise: 0.25 }), RATE)?.key).toBe(57);
    expect(hearPitch(tone(220, 1.5, { decay: 0.4 }), RATE)?.key).toBe(57);
  });
  it('comes with how clear it is: 1 of a pure tone, less in noise', () => {
    const pure = hearPitch(tone(220, 1.2), RATE)?.clarity ?? 0;
    const noisy = hearPitch(tone(220, 1.2, { noise: 0.5 }), RATE)?.clarity ?? 0;
    expect(pure).toBeGreaterThan(0.98);
    expect(pure).toBeLessThanOrEqual(1);
    // Noise of power 0.5²/12 beside a tone of 0.067: 1 / (1 + 0.31) = 0.76.
    expect(Math.abs(noisy - 0.76)).toBeLessThan(0.1);
  });
  it('is not made up where there is none', () => {
    const random = new Random('hiss');
    expect(
      hearPitch(
        Float32Array.from({ length: 48_000 }, () => random.next() - 0.5),
        RATE,
      ),
    ).toBeUndefined();
    expect(hearPitch(new Float32Array(48_000), RATE)).toBeUndefined();
    expect(hearPitch(new Float32Array(100), RATE)).toBeUndefined();
  });
  it('is the nearest key and the cents above it, never more than fifty', () => {
    for (const [hertz, key, cents] of [
      [440, 69, 0],
      [440 * 2 ** (45 / 1200), 69, 45],
      [440 * 2 ** (55 / 1200), 70, -45],
    ]) {
      const heard = hearPitch(tone(hertz, 1.2), RATE);
      expect(heard?.key).toBe(key);
      expect(Math.abs((heard?.cents ?? 99) - cents)).toBeLessThan(1);
      expect(Math.abs((heard?.hertz ?? 0) / hertz - 1)).toBeLessThan(0.0006);
    }
  });
  it('is that of most of a recording, whatever stands at its beginning and end', () => {
    const long = tone(220, 2);
    long.set(tone(330, 0.3), 0);
    long.set(tone(277, 0.4), 1.6 * RATE);
    expect(hearPitch(long, RATE)?.key).toBe(57);
  });
  it('is looked for in the louder part alone', () => {
    // A loud short note, then something faint of another pitch that lasts.
    const signal = tone(147, 3).map((value) => value * 0.03);
    signal.set(tone(220, 0.6), 0);
    expect(hearPitch(signal, RATE)?.key).toBe(57);
  });
  it('is heard of a recording of 1,100 frames, not of 500', () => {
    expect(hearPitch(tone(880, 1).subarray(2000, 3100), RATE)?.key).toBe(81);
    expect(hearPitch(tone(880, 1).subarray(2000, 2500), RATE)).toBeUndefined();
  });
});

import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { midiToHertz } from '../units/index.ts';
import { findLoop, hearPitch } from './index.ts';

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
});

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
});

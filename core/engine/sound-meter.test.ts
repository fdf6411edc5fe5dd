import { describe, expect, it } from 'vitest';
import { LoudnessMeter } from '../dsp/index.ts';
import { whiteNoise } from '../testing/fixtures.ts';
import { ownSoundMemory } from './memory/index.ts';
import { SoundMeter } from './sound-meter.ts';

const BLOCK = 128;
const sound = ownSoundMemory();
const address = sound.allocate(BLOCK * 8);
const frames = sound.floats(address, 2 * BLOCK);

/** Both meters over the same stereo sound. */
function measured(left: Float32Array, right: Float32Array) {
  const kernel = new SoundMeter(sound, true);
  const readable = new LoudnessMeter(48_000, true);
  for (let at = 0; at + BLOCK <= left.length; at += BLOCK) {
    for (let i = 0; i < BLOCK; i++) {
      frames[2 * i] = left[at + i];
      frames[2 * i + 1] = right[at + i];
    }
    kernel.process(address);
    readable.process(left, right, at, at + BLOCK);
  }
  return { kernel, readable };
}

const sine = (hz: number, seconds: number, level: number, phase = 0) =>
  Float32Array.from(
    { length: seconds * 48_000 },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / 48_000 + phase),
  );

describe('the meter of the kernel', () => {
  it('says what the standard says: a sine of −23 dBFS at 1 kHz in both channels is −23 LUFS', () => {
    const tone = sine(1000, 20, 10 ** (-23 / 20));
    const { kernel } = measured(tone, tone);
    expect(kernel.integrated).toBeCloseTo(-23, 1);
    expect(kernel.momentary).toBeCloseTo(-23, 1);
    expect(kernel.shortTerm).toBeCloseTo(-23, 1);
  });
  it('agrees with the readable one on anything', () => {
    const left = whiteNoise(48_000 * 5, 4).map((v, i) => v * (0.2 + 0.2 * Math.sin(i / 9000)));
    const right = sine(97, 5, 0.4);
    const { kernel, readable } = measured(left, right);
    expect(kernel.integrated).toBeCloseTo(readable.integrated, 4);
    expect(kernel.range).toBeCloseTo(readable.range, 4);
    expect(kernel.truePeakDb).toBeCloseTo(readable.truePeakDb, 3);
  });
  it('finds the peak between the samples, on either side', () => {
    // A sine at a quarter of the rate, sampled at ±45°: its samples stay 3 dB below its peak.
    const tone = sine(12_000, 1, 0.5, Math.PI / 4);
    for (const [left, right] of [
      [tone, new Float32Array(tone.length)],
      [new Float32Array(tone.length), tone],
    ]) {
      const { kernel } = measured(left, right);
      expect(kernel.truePeakDb).toBeGreaterThan(-6.02 - 0.4);
      expect(kernel.truePeakDb).toBeLessThan(-6.02 + 0.2);
    }
  });
  it('forgets everything', () => {
    const tone = sine(1000, 2, 0.5);
    const { kernel } = measured(tone, tone);
    kernel.reset();
    expect([kernel.momentary, kernel.integrated]).toEqual([-Infinity, -Infinity]);
    frames.fill(0);
    for (let b = 0; b < 400; b++) kernel.process(address);
    expect(kernel.momentary).toBe(-Infinity);
    expect(kernel.truePeakDb).toBe(-200);
  });
});

import { describe, expect, it } from 'vitest';
import { LoudnessMeter } from '../dsp/index.ts';
import { whiteNoise } from '../testing/fixtures.ts';
import {
  bandLevelDb,
  centroidOfSpectrum,
  looksAt,
  loudnessOfSpectrum,
  sharedSpectrum,
  spectrumOf,
  thirdOctavesOf,
  THIRD_OCTAVES,
} from './index.ts';

const rate = 48_000;
const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);
const tone = (hz: number, seconds: number, level = 0.5, atRate = rate) =>
  Float32Array.from(
    { length: Math.round(seconds * atRate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / atRate),
  );

describe('spectrum', () => {
  it('tells the loudness of a tone as the meter does', () => {
    const left = tone(440, 2, 0.25);
    const meter = new LoudnessMeter(rate, true);
    meter.process(left, left, 0, left.length);
    const heard = loudnessOfSpectrum(spectrumOf([left, left], rate, 0, left.length));
    expect(Math.abs(heard - meter.integrated)).toBeLessThan(0.15);
  });
  it('hears nothing of what nobody hears: above 24 kHz, and what stands still', () => {
    const high = tone(30_000, 1, 0.5, 96_000);
    expect(loudnessOfSpectrum(spectrumOf([high], 96_000, 0, high.length))).toBeLessThan(-60);
    // The standard’s filter lifts 12 kHz by 4 dB.
    const bright = tone(12_000, 1, 0.5, 96_000);
    const heard = loudnessOfSpectrum(spectrumOf([bright], 96_000, 0, bright.length));
    expect(Math.abs(heard - (10 * Math.log10(0.125) + 4 - 0.691))).toBeLessThan(0.5);
    const still = new Float32Array(rate).fill(0.5);
    expect(loudnessOfSpectrum(spectrumOf([still], rate, 0, rate))).toBeLessThan(-25);
  });
  it('finds the centroid of one tone at the tone, of two equal ones half way', () => {
    const one = spectrumOf([tone(1000, 1)], rate, 0, rate);
    expect(Math.abs(centroidOfSpectrum(one) - 1000)).toBeLessThan(15);
    const two = tone(1000, 1).map((value, i) => value + 0.5 * Math.sin((2 * Math.PI * 3000 * i) / rate));
    expect(Math.abs(centroidOfSpectrum(spectrumOf([two], rate, 0, rate)) - 2000)).toBeLessThan(40);
  });
  it('puts a tone into its third octave and pink noise evenly over all', () => {
    const thirds = thirdOctavesOf(spectrumOf([tone(1000, 1)], rate, 0, rate));
    expect(THIRD_OCTAVES[thirds.indexOf(Math.max(...thirds))]).toBeCloseTo(1000, 3);
    const white = spectrumOf([noise(4 * rate, 3)], rate, 0, 4 * rate);
    // White noise holds as much per hertz: an octave higher is 3 dB more.
    const octave = bandLevelDb(white, 2000, 4000) - bandLevelDb(white, 1000, 2000);
    expect(Math.abs(octave - 3)).toBeLessThan(0.3);
  });
  it('holds the mean square of both channels, in whatever looks', () => {
    const [left, right] = [tone(1000, 1, 0.5), tone(3000, 1, 0.2)];
    for (const size of [1024, 4096, 8192]) {
      const { power, binHz } = spectrumOf([left, right], rate, 0, rate, size);
      expect(power.length).toBe(size / 2 + 1);
      expect(binHz).toBe(rate / size);
      const sum = power.reduce((a, b) => a + b);
      expect(Math.abs(sum / (0.125 + 0.02) - 1)).toBeLessThan(0.005);
    }
    const one = spectrumOf([left], rate, 0, rate);
    expect(Math.abs(bandLevelDb(one, 900, 1100) - 10 * Math.log10(0.125))).toBeLessThan(0.03);
  });
  it('of a stretch shorter than a look is as loud', () => {
    const [whole, short] = [4096, 2048].map((frames) =>
      bandLevelDb(spectrumOf([noise(rate, 5)], rate, 0, frames), 2000, 20_000),
    );
    expect(Math.abs(whole - short)).toBeLessThan(1.5);
  });
  it('of the frames asked for alone', () => {
    const signal = tone(1000, 1);
    signal.set(tone(5000, 0.5), rate / 2);
    const low = spectrumOf([signal], rate, 0, rate / 2);
    expect(bandLevelDb(low, 4500, 5500)).toBeLessThan(-60);
    const high = spectrumOf([signal], rate, rate / 2, 9 * rate);
    expect(bandLevelDb(high, 900, 1100)).toBeLessThan(-60);
    expect(Math.abs(bandLevelDb(high, 4500, 5500) + 9.03)).toBeLessThan(0.05);
  });
  it('of two sounds together is what each has and what they share', () => {
    const [a, b] = [noise(rate, 6), noise(rate, 7).map((v, i) => 0.5 * v + 0.3 * Math.sin(i / 9))];
    const both = a.map((v, i) => 2 * v - 0.7 * b[i]);
    const [x, y] = [a, b].map((one) => looksAt([one, one], rate, 0, rate));
    const together = spectrumOf([both, both], rate, 0, rate);
    const [aa, ab, bb] = [sharedSpectrum(x, x), sharedSpectrum(x, y), sharedSpectrum(y, y)];
    for (const k of [0, 1, 40, 700, 2047, 2048])
      expect(4 * aa.power[k] - 2.8 * ab.power[k] + 0.49 * bb.power[k]).toBeCloseTo(together.power[k], 9);
  });
  it('puts a bin at the edge of a band into both, by halves', () => {
    const bins = { power: Float64Array.of(9, 1, 1, 1, 1), binHz: 100 };
    expect(10 ** (bandLevelDb(bins, 100, 300) / 10)).toBeCloseTo(2, 9);
    expect(10 ** (bandLevelDb(bins, 150, 175) / 10)).toBeCloseTo(0.25, 9);
    expect(bandLevelDb(bins, 500, 900)).toBe(-200);
    // The lowest bin stands still and counts nowhere.
    expect(bandLevelDb(bins, 0, 40)).toBe(-200);
  });
  it('has its centroid between 40 Hz and 12 kHz, of what is near the strongest if so asked', () => {
    const bins = (list: readonly [number, number][]) => {
      const power = new Float64Array(200);
      for (const [bin, value] of list) power[bin] = value;
      return { power, binHz: 100 };
    };
    expect(
      centroidOfSpectrum(
        bins([
          [10, 4],
          [20, 1],
        ]),
      ),
    ).toBeCloseTo((2 * 1000 + 2000) / 3, 6);
    expect(
      centroidOfSpectrum(
        bins([
          [0, 9],
          [10, 4],
          [120, 9],
          [150, 9],
        ]),
      ),
    ).toBeCloseTo(1000, 6);
    expect(
      centroidOfSpectrum(
        bins([
          [10, 4],
          [119, 4],
        ]),
      ),
    ).toBeCloseTo(6450, 6);
    const faint = bins([
      [10, 1],
      [30, 0.02],
      [60, 0.005],
    ]);
    expect(centroidOfSpectrum(faint, 20)).toBeCloseTo(
      (1000 + 3000 * Math.SQRT2 * 0.1) / (1 + Math.SQRT2 * 0.1),
      6,
    );
    expect(centroidOfSpectrum(bins([]))).toBe(0);
  });
  it('has third octaves from 50 Hz to 16 kHz, a tenth of a decade each', () => {
    expect(THIRD_OCTAVES).toHaveLength(26);
    expect([THIRD_OCTAVES[0], THIRD_OCTAVES[25]].map(Math.round)).toEqual([50, 15_849]);
    // Every bin as strong: a band is as strong as it is wide, 10^0.05 − 10^−0.05 of its middle.
    const flat = { power: new Float64Array(24_001).fill(1), binHz: 1 };
    const wide = 10 ** 0.05 - 10 ** -0.05;
    thirdOctavesOf(flat).forEach((db, i) =>
      expect(db).toBeCloseTo(10 * Math.log10(THIRD_OCTAVES[i] * wide), 3),
    );
  });
});

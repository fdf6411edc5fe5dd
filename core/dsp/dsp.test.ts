import { describe, expect, it } from 'vitest';
import { magnitudeSpectrum, hann } from './fft.ts';
import { LoudnessMeter, Random, TAP_TABLE, TAPS, TAPS_BEFORE, PHASES, waveFromHarmonics } from './index.ts';

describe('interpolation', () => {
  it('shifts a 5 kHz sine with images below −90 dB', () => {
    const n = 8192;
    const out = new Float64Array(n);
    const ratio = 2 ** (2 / 12);
    const hz = 5000;
    for (let i = 0; i < n; i++) {
      const phase = 100 + i * ratio;
      const at = Math.floor(phase);
      const place = (phase - at) * PHASES;
      const row = Math.floor(place);
      for (let k = 0; k < TAPS; k++) {
        const a = TAP_TABLE[row * TAPS + k];
        const c = a + (place - row) * (TAP_TABLE[(row + 1) * TAPS + k] - a);
        out[i] += c * Math.sin((2 * Math.PI * hz * (at - TAPS_BEFORE + k)) / 48000);
      }
    }
    const window = hann(n);
    const spectrum = magnitudeSpectrum(out.map((v, i) => v * window[i]));
    const bin = (hz * ratio * n) / 48000;
    let signal = 0;
    let rest = 0;
    spectrum.forEach((m, i) => (Math.abs(i - bin) < 80 ? (signal += m * m) : (rest += m * m)));
    expect(10 * Math.log10(rest / signal)).toBeLessThan(-90);
  });
});

describe('loudness', () => {
  const tone = (level: number, seconds: number, hz = 1000) =>
    Float32Array.from(
      { length: seconds * 48000 },
      (_, i) => 10 ** (level / 20) * Math.sin((2 * Math.PI * hz * i) / 48000),
    );
  const measure = (parts: Float32Array[]) => {
    const meter = new LoudnessMeter(48000, true);
    for (const part of parts) meter.process(part, part, 0, part.length);
    return meter;
  };
  it.each<[number, [number, number][]]>([
    [1, [[-23, 20]]],
    [
      3,
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
    ],
    [
      4,
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
    ],
    [
      5,
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
    ],
  ])('reads −23 LUFS integrated (EBU Tech 3341, case %s)', (_case, parts) => {
    expect(Math.abs(measure(parts.map(([db, seconds]) => tone(db, seconds))).integrated + 23)).toBeLessThan(
      0.1,
    );
  });
  it('reads −33 LUFS in all three ways (EBU Tech 3341, case 2)', () => {
    const meter = measure([tone(-33, 20)]);
    for (const value of [meter.integrated, meter.momentary, meter.shortTerm])
      expect(Math.abs(value + 33)).toBeLessThan(0.1);
  });
  it('keeps short-term and momentary loudness steady over patterns of their length (EBU Tech 3341, cases 9, 12)', () => {
    const pattern = (loud: number, soft: number, count: number) =>
      Array.from({ length: count }, () => [tone(-20, loud), tone(-30, soft)]).flat();
    expect(Math.abs(measure(pattern(1.34, 1.66, 5)).shortTerm + 23)).toBeLessThan(0.1);
    expect(Math.abs(measure(pattern(0.18, 0.22, 25)).momentary + 23)).toBeLessThan(0.1);
  });
  it.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])('finds the peak between the samples (EBU Tech 3341, case %s)', (_case, part, degrees, level, truth) => {
    const sine = Float32Array.from(
      { length: 48000 },
      // Begun softly: a sudden start is a step, which swings over by itself.
      (_, i) => Math.min(1, i / 480) * level * Math.sin((2 * Math.PI * i) / part + (degrees * Math.PI) / 180),
    );
    const peak = measure([sine]).truePeakDb;
    expect(peak).toBeGreaterThan(truth - 0.4);
    expect(peak).toBeLessThan(truth + 0.2);
  });
  it.each([0.5, 0.25, 0.1, 0.85])(
    'finds a peak %s of a frame behind a sample that all of a broad band makes',
    (between) => {
      // Cosines from 100 Hz to 21.6 kHz that meet in one point: their sum is known there, and nowhere near it in the samples.
      const [size, from, to] = [4800, 10, 2160];
      const at = 3000 + between;
      const rich = Float32Array.from({ length: 2 * size }, (_, i) => {
        let sum = 0;
        for (let k = from; k <= to; k++) sum += Math.cos((2 * Math.PI * k * (i - at)) / size);
        return (0.5 * sum) / (to - from + 1);
      });
      const sampled = rich.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
      const peak = measure([rich]).truePeakDb;
      expect(peak).toBeGreaterThan(-6.02 - 0.35);
      expect(peak).toBeLessThan(-6.02 + 0.2);
      if (between === 0.5) expect(20 * Math.log10(sampled)).toBeLessThan(-9);
    },
  );
  it.each<[number, number[], number]>([
    [1, [-20, -30], 10],
    [2, [-20, -15], 5],
    [3, [-40, -20], 20],
    [4, [-50, -35, -20, -35, -50], 15],
  ])('tells the loudness range (EBU Tech 3342, case %s)', (_case, levels, range) => {
    expect(Math.abs(measure(levels.map((db) => tone(db, 20))).range - range)).toBeLessThan(1);
  });
});

describe('seeded randomness and waves', () => {
  it('repeats itself and spreads evenly', () => {
    const a = new Random('players');
    const b = new Random('players');
    const list = Array.from({ length: 2000 }, () => a.next());
    expect(Array.from({ length: 2000 }, () => b.next())).toEqual(list);
    expect(list.reduce((sum, v) => sum + v, 0) / 2000).toBeCloseTo(0.5, 1);
  });
  it('builds a wave with the harmonics asked for', () => {
    const spectrum = magnitudeSpectrum(Float64Array.from(waveFromHarmonics([1, 0, 0.5], [0, 0, 1], 256)));
    expect(spectrum[1] / 128).toBeCloseTo(1, 5);
    expect(spectrum[2] / 128).toBeCloseTo(0, 5);
    expect(spectrum[3] / 128).toBeCloseTo(0.5, 5);
  });
});

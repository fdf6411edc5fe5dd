import { describe, expect, it } from 'vitest';
import { partialsOf, strongestPartialHz } from './partials.ts';

/** Spectra whose lines are written down: ten hertz from bin to bin, as far as 5 kHz. */
const spectrum = (lines: Readonly<Record<number, number>>, bins = 500) => {
  const power = new Float64Array(bins);
  for (const [hertz, value] of Object.entries(lines)) power[Number(hertz) / 10] = value;
  return { power, binHz: 10 };
};

describe('the strongest partial', () => {
  it('is looked for among the first six, by all that lies within two bins', () => {
    expect(strongestPartialHz(spectrum({ 200: 1, 400: 3, 600: 2 }), 200)).toBe(400);
    expect(strongestPartialHz(spectrum({ 200: 1, 1200: 3 }), 200)).toBe(1200);
    expect(strongestPartialHz(spectrum({ 200: 1, 1400: 3 }), 200)).toBe(200);
    expect(strongestPartialHz(spectrum({ 200: 3, 380: 2, 420: 2 }), 200)).toBe(400);
    expect(strongestPartialHz(spectrum({ 200: 3, 370: 9, 430: 9 }), 200)).toBe(200);
  });
  it('is the lowest of equal ones, and the fundamental where nothing is heard', () => {
    expect(strongestPartialHz(spectrum({ 400: 2, 600: 2 }), 200)).toBe(400);
    expect(strongestPartialHz(spectrum({}), 200)).toBe(200);
  });
  it('is not told by a constant below all tones, nor beyond the end of a spectrum', () => {
    expect(strongestPartialHz(spectrum({ 0: 100, 120: 1 }), 20)).toBe(100);
    expect(strongestPartialHz(spectrum({ 200: 1 }, 25), 200)).toBe(200);
  });
});

describe('partials', () => {
  it('are told to 4 kHz, fourteen at most, in dB as they are played', () => {
    const few = partialsOf(spectrum({ 1000: 1, 2000: 0.01, 3000: 1e-4 }), 1000, -6);
    // At 4 kHz itself no more.
    expect(few).toEqual([
      { hertz: 1000, levelDb: -6 },
      { hertz: 2000, levelDb: -26 },
      { hertz: 3000, levelDb: -46 },
    ]);
    const many = partialsOf(spectrum({ 100: 1 }), 100.04, 0);
    expect(many).toHaveLength(14);
    expect(many.slice(0, 2)).toEqual([
      { hertz: 100, levelDb: 0 },
      // Nothing is there: not less than −120 dB.
      { hertz: 200.1, levelDb: -120 },
    ]);
  });
});

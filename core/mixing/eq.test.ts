import { describe, expect, it } from 'vitest';
import { eqResponseDb, fitEq, type EqBand } from './index.ts';

const RATE = 48_000;
const HERTZ = Array.from({ length: 26 }, (_, i) => 1000 * 10 ** ((i - 13) / 10));

describe('bands', () => {
  it('have their gain where they should', () => {
    const peak: EqBand = { shape: 'peak', hertz: 1000, gainDb: 6, q: 1 };
    expect(eqResponseDb(peak, 1000, RATE)).toBeCloseTo(6, 4);
    expect(Math.abs(eqResponseDb(peak, 60, RATE))).toBeLessThan(0.1);
    const low: EqBand = { shape: 'low shelf', hertz: 200, gainDb: -4, q: 0.7 };
    expect(eqResponseDb(low, 20, RATE)).toBeCloseTo(-4, 1);
    expect(eqResponseDb(low, 200, RATE)).toBeCloseTo(-2, 1);
    expect(Math.abs(eqResponseDb(low, 5000, RATE))).toBeLessThan(0.05);
    const high: EqBand = { shape: 'high shelf', hertz: 4000, gainDb: 3, q: 0.7 };
    expect(eqResponseDb(high, 18_000, RATE)).toBeCloseTo(3, 1);
    expect(Math.abs(eqResponseDb(high, 100, RATE))).toBeLessThan(0.05);
  });
  it('are found again from the curve they make', () => {
    const planted: EqBand[] = [
      { shape: 'low shelf', hertz: 150, gainDb: 4, q: 0.6 },
      { shape: 'peak', hertz: 2000, gainDb: -3, q: 0.8 },
    ];
    const wanted = HERTZ.map((hz) => planted.reduce((sum, band) => sum + eqResponseDb(band, hz, RATE), 0));
    const bands = fitEq(
      HERTZ,
      wanted,
      HERTZ.map(() => 1),
      RATE,
    );
    const mean = wanted.reduce((a, b) => a + b, 0) / wanted.length;
    const left = HERTZ.map(
      (hz, i) => wanted[i] - mean - bands.reduce((sum, band) => sum + eqResponseDb(band, hz, RATE), 0),
    );
    const average = left.reduce((a, b) => a + b, 0) / left.length;
    expect(Math.sqrt(left.reduce((sum, v) => sum + (v - average) ** 2, 0) / left.length)).toBeLessThan(0.5);
    for (const band of bands) expect(Math.abs(band.gainDb)).toBeLessThanOrEqual(6);
    expect(
      fitEq(
        HERTZ,
        wanted,
        HERTZ.map(() => 0),
        RATE,
      ),
    ).toEqual([]);
  });
});

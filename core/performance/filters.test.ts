import { describe, expect, it } from 'vitest';
import type { FilterKind, Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { filteringOf } from './filters.ts';
import { throughFilter } from './zone-filter.ts';

const touch = { velocity: 100, dynamics: 127, vibrato: 0 };
const db = (power: number) => 10 * Math.log10(power);
const of = (zone: Partial<Zone>) => filteringOf(plainZone({ samples: {}, ...zone }), touch);

describe('what a zone’s filter leaves', () => {
  it('of two poles is half at its frequency and falls by 12 dB an octave; of one by 6', () => {
    const two = of({ cutoffHz: 1000 });
    const one = of({ cutoffHz: 1000, filter: 'lowpass1' });
    expect([two, one].map((filtering) => db(filtering?.power(1000) ?? 0).toFixed(2))).toEqual([
      '-3.01',
      '-3.01',
    ]);
    expect(db(two?.power(10) ?? 0)).toBeCloseTo(0, 3);
    expect(db(two?.power(8000) ?? 0) - db(two?.power(16_000) ?? 0)).toBeCloseTo(12.04, 1);
    expect(db(one?.power(8000) ?? 0) - db(one?.power(16_000) ?? 0)).toBeCloseTo(6.02, 1);
  });
  it('rings at its frequency by its resonance', () => {
    expect(db(of({ cutoffHz: 1000, resonanceDb: 12 })?.power(1000) ?? 0)).toBeCloseTo(12 - 3.01, 2);
  });
  it('is opened and closed by controllers, in cents', () => {
    const modulations = [{ target: 'cutoffCents' as const, depth: 1200, controller: CONTROLLER.dynamics }];
    expect(of({ cutoffHz: 1000, modulations })?.cutoffHz).toBeCloseTo(2000, 6);
    const other = [{ target: 'gainDb' as const, depth: 1200, controller: CONTROLLER.dynamics }];
    expect(of({ cutoffHz: 1000, modulations: other })?.cutoffHz).toBe(1000);
  });
  it('is everything where there is none, where it is open, and of other kinds', () => {
    expect(of({})).toBeUndefined();
    expect(of({ cutoffHz: 19_000 })).toBeUndefined();
    expect(of({ cutoffHz: 18_999 })).toBeDefined();
    expect(of({ cutoffHz: 1000, filter: 'highpass2' })).toBeUndefined();
  });
});

describe('a recording through a filter', () => {
  const rate = 48_000;
  /** Level of a sine behind it, settled, dB. */
  const levelAt = (kind: FilterKind, hertz: number, resonanceDb = 0) => {
    const sound = Float64Array.from({ length: rate / 2 }, (_, i) =>
      Math.sin((2 * Math.PI * hertz * i) / rate),
    );
    const out = throughFilter(kind, sound, 1000, resonanceDb, rate).subarray(rate / 4);
    return db(out.reduce((sum, value) => sum + value * value, 0) / out.length / 0.5);
  };
  it.each([
    ['lowpass2', 100, 0],
    ['lowpass2', 1000, -3],
    ['lowpass2', 4000, -24.5],
    ['highpass2', 8000, 0],
    ['highpass2', 1000, -3],
    ['highpass2', 250, -24.1],
    ['lowpass1', 1000, -3],
    ['lowpass1', 4000, -12.6],
    ['highpass1', 250, -12.3],
    ['highpass1', 8000, 0],
    ['bandpass', 1000, 0],
    ['notch', 100, 0],
    ['notch', 8000, 0],
  ] as const)('%s at %s Hz is %s dB', (kind, hertz, level) => {
    expect(Math.abs(levelAt(kind, hertz) - level)).toBeLessThan(0.4);
  });
  it('lets nothing through in a notch, little beside a band', () => {
    expect(levelAt('notch', 1000)).toBeLessThan(-50);
    for (const hertz of [100, 10_000]) expect(levelAt('bandpass', hertz)).toBeLessThan(-15);
  });
});

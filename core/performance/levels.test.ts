import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { mixOf, plainZone } from '../testing/fixtures.ts';
import { blendOf, Levels, weigher } from './levels.ts';
import { nextTake } from './takes.ts';
import { ZoneSum } from './zone-sum.ts';

const RATE = 48_000;
const touch = { velocity: 127, dynamics: 64, vibrato: 0 };
const tone = (hertz: number, level: number, seconds = 2, phase = 0): SampleAudio => {
  const frames = seconds * RATE;
  const data = new Float32Array(2 * frames);
  for (let i = 0; i < frames; i++)
    data[2 * i] = data[2 * i + 1] = level * Math.sin((2 * Math.PI * hertz * i) / RATE + phase);
  return { data, channels: 2, frames, rate: RATE };
};
const zoneOf = (sample: string, more: Partial<Zone> = {}) =>
  plainZone({ samples: { mix: { sample } }, ...more });
const db = (power: number | undefined) => 10 * Math.log10(power ?? 0);

describe('how loud zones are', () => {
  const audio = new Map([
    ['soft', tone(997, 0.1)],
    ['loud', tone(997, 0.2)],
    ['other', tone(1511, 0.2)],
    ['turned', tone(997, 0.1, 2, Math.PI / 2)],
  ]);
  const levels = () => new Levels(mixOf(['mix']), audio);
  it('is the K-weighted power of both channels: about that of the wave at 1 kHz', () => {
    // ITU-R BS.1770: 997 Hz is lifted by 0.69 dB. Third octaves are coarse.
    expect(
      Math.abs(db(levels().tone([zoneOf('soft')], 1, touch)) - (10 * Math.log10(0.01) + 0.69)),
    ).toBeLessThan(0.3);
    expect(db(levels().tone([zoneOf('loud', { gainDb: -6 })], 1, touch))).toBeCloseTo(
      db(levels().tone([zoneOf('soft')], 1, touch)) + 6.02 - 6,
      1,
    );
  });
  it('adds like waves as waves, unlike ones by their power', () => {
    const alone = db(levels().tone([zoneOf('soft')], 1, touch));
    expect(db(levels().tone([zoneOf('soft'), zoneOf('soft')], 1, touch)) - alone).toBeCloseTo(6.02, 2);
    expect(db(levels().tone([zoneOf('soft'), zoneOf('turned')], 1, touch)) - alone).toBeCloseTo(3.01, 1);
    const both = levels().tone([zoneOf('loud'), zoneOf('other')], 1, touch) ?? 0;
    const each = ['loud', 'other'].map((id) => levels().tone([zoneOf(id)], 1, touch) ?? 0);
    expect(both / (each[0] + each[1])).toBeCloseTo(1, 2);
    // What is silent at this touch does not count, even while it is missing.
    expect(levels().tone([zoneOf('soft'), zoneOf('none', { velocityTrack: -1 })], 1, touch)).toBeCloseTo(
      10 ** (alone / 10),
      9,
    );
  });
  it('is what the pitch makes of it, and the filter', () => {
    const high = new Levels(mixOf(['mix']), new Map([['low', tone(60, 0.2)]]));
    const [asIs, up] = [1, 16].map((ratio) => db(high.tone([zoneOf('low')], ratio, touch)));
    // K-weighting takes about 3.5 dB at 60 Hz away, and adds about 0.7 at 960.
    expect(up - asIs).toBeGreaterThan(1.5);
    const closed = zoneOf('loud', { cutoffHz: 500 });
    const fall = db(levels().tone([closed], 1, touch)) - db(levels().tone([zoneOf('loud')], 1, touch));
    expect(Math.abs(fall + 12.3)).toBeLessThan(1.6);
  });
  it('is unknown while a recording is missing', () => {
    expect(levels().tone([zoneOf('none')], 1, touch)).toBeUndefined();
    expect(levels().tone([zoneOf('soft'), zoneOf('none')], 1, touch)).toBeUndefined();
    expect(new Levels(mixOf(['mix']), new Map()).stretch(zoneOf('soft'), 0, 4800)).toBeUndefined();
  });
  it('is looked at in the loop, or from 35 to 75 % of what follows the start', () => {
    const span = (more: Partial<Zone>) => levels().settledSpan(zoneOf('soft', more));
    expect(span({ loop: { start: 48_000, end: 60_000 } })).toEqual({ from: 48_000, to: 60_000 });
    expect(span({ loop: { start: 48_000, end: 96_000 } })).toEqual({ from: 48_000, to: 96_000 });
    const middle = { from: 0.35 * 96_000, to: 0.75 * 96_000 };
    expect(span({ loop: { start: 48_000, end: 96_001 } })).toEqual(middle);
    expect(span({})).toEqual(middle);
    expect(span({ startFrame: 16_000 })).toEqual({ from: 44_000, to: 76_000 });
    expect(levels().settledSpan(zoneOf('none'))).toBeUndefined();
  });
  it('of a stretch is that of its frames alone', () => {
    const step = tone(997, 0.1);
    step.data.fill(0, 0, 2 * RATE);
    const own = new Levels(mixOf(['mix']), new Map([['a', step]]));
    const weigh = weigher(1, zoneOf('a'), touch);
    const at = (from: number, to: number) => weigh(own.stretch(zoneOf('a'), from, to) ?? new Float64Array());
    expect(at(0, RATE)).toBe(0);
    expect(db(at(RATE, RATE + 8192))).toBeCloseTo(db(at(RATE + 20_000, RATE + 21_000)), 0);
    expect(at(RATE - 4000, RATE + 4000) / at(RATE, RATE + 8192)).toBeLessThan(0.65);
  });
});

describe('what layers are scaled by', () => {
  const layer = (sample: string, levelDb: number, alike: Record<string, number> = {}) =>
    plainZone({ samples: { mix: { sample, levelDb } }, alike });
  it('is one where they are unlike, √½ where two equal ones are the same', () => {
    expect(blendOf([layer('a', -10), layer('b', -10)], [1, 1])).toBe(1);
    const same = [layer('a', -10, { a: 1, b: 1 }), layer('b', -10, { a: 1, b: 1 })];
    expect(blendOf(same, [1, 1])).toBeCloseTo(Math.SQRT1_2, 9);
    expect(blendOf(same, [1, 0])).toBe(1);
    // Ten times the power: 1 and √10 together have (1 + √10)² for 1 + 10.
    const unequal = [layer('a', -20, { b: 1 }), layer('b', -10, { a: 1 })];
    expect(blendOf(unequal, [1, 1])).toBeCloseTo(Math.sqrt(11) / (1 + Math.sqrt(10)), 9);
  });
});

describe('the course of zones together', () => {
  const audio = new Map([
    ['a', tone(997, 0.1)],
    ['b', tone(997, 0.2)],
  ]);
  it('is that of their waves, for any gains', () => {
    const sum = new ZoneSum([zoneOf('a'), zoneOf('b')], mixOf(['mix']), new Map(), audio);
    const at = (gains: number[]) => sum.at(gains)[100];
    // 0.1 and 0.2 in phase are 0.3: nine times the power of the first alone.
    expect(at([1, 1]) / at([1, 0])).toBeCloseTo(9, 3);
    expect(at([2, 0]) / at([1, 0])).toBeCloseTo(4, 6);
    expect(at([1, -0.5]) / at([1, 0])).toBeLessThan(1e-3);
    expect(at([0, 0])).toBe(0);
    expect(db(at([1, 0]))).toBeCloseTo(10 * Math.log10(0.01) + 0.69, 0);
  });
  it('is that of a filter they go through', () => {
    const [open, closed] = [undefined, 250].map(
      (cutoffHz) => new ZoneSum([zoneOf('a')], mixOf(['mix']), new Map(), audio, cutoffHz).at([1])[100],
    );
    expect(Math.abs(db(closed) - db(open) + 24)).toBeLessThan(1);
  });
  it('is what was measured of each position while recordings are missing, as if they were unlike', () => {
    // Half decibels above −120 dB: 200 is −20, 180 is −30.
    const zone = plainZone({
      samples: { mix: { sample: 'x', envelope: 'c8b4' }, far: { sample: 'y', envelope: 'b4' } },
    });
    const sum = new ZoneSum(
      [zone, zone],
      mixOf(['mix', 'far']),
      new Map([
        ['mix', 1],
        ['far', 2],
      ]),
      new Map(),
    );
    const [first, second] = sum.at([1, 0]);
    expect(first).toBeCloseTo(0.01 + 2 * 0.001, 9);
    expect(second).toBeCloseTo(0.001, 9);
    expect(sum.at([1, 1])[0]).toBeCloseTo(2 * first, 9);
  });
});

describe('takes', () => {
  it('come all, about equally often, and never twice in a row', () => {
    const counts = [0, 0, 0, 0];
    let last = -1;
    for (let seed = 0; seed < 4000; seed++) {
      const take = nextTake(seed * 7919, last, 4);
      expect(take).not.toBe(last);
      counts[take]++;
      last = take;
    }
    for (const count of counts) expect(Math.abs(count - 1000)).toBeLessThan(120);
  });
  it('are the same for the same seed; of one there is no choice', () => {
    expect([nextTake(5, -1, 1), nextTake(5, 0, 1)]).toEqual([0, 0]);
    expect(nextTake(1234, 2, 5)).toBe(nextTake(1234, 2, 5));
    for (let seed = 0; seed < 50; seed++) expect(nextTake(seed, 0, 2)).toBe(1);
  });
});

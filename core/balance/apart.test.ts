import { describe, expect, it } from 'vitest';
import { PLAIN_POSITION, type PositionMix } from '../mixing/index.ts';
import { mixOf } from '../testing/fixtures.ts';
import { loudestOf } from './apart.ts';
import { mixDown, prepared, truePeakOf } from './index.ts';

const RATE = 48_000;
const ramp = Float32Array.from({ length: 4800 }, (_, i) => i / 4800);
const one = { id: 'a', left: ramp, right: ramp };
const mix = (more: Partial<PositionMix>) => ({
  ...mixOf([]),
  positions: { a: { ...PLAIN_POSITION, ...more } },
});

describe('positions as the engine gives them to their level', () => {
  it.each([0, 48, 0.25, 100.5])('come %s frames later', (frames) => {
    const [{ left }] = prepared([one], mix({ delayMs: (1000 * frames) / RATE }));
    for (const i of [200, 1000, 4799]) expect(left[i]).toBeCloseTo((i - frames) / 4800, 5);
    expect(left.slice(0, Math.floor(frames)).every((value) => value === 0)).toBe(true);
    // Nothing is read from before the first frame.
    if (frames > 1) expect(left[Math.floor(frames)]).toBeCloseTo(0, 5);
  });
  it('are left out where they are not heard', () => {
    for (const more of [{ muted: true }, { levelDb: -60 }]) {
      expect(prepared([one], mix(more))).toEqual([]);
      expect(mixDown([one], mix(more))[0].every((value) => value === 0)).toBe(true);
    }
    expect(prepared([one], mixOf([]))).toEqual([]);
    // Nothing is copied where nothing is changed.
    expect(prepared([one], mix({}))[0].left).toBe(ramp);
  });
});

describe('the loudest stretch', () => {
  const RISING = [1, 4, 2, 8, 8, 3, 1];
  /** Tenths of a second of the given heights, louder on either side. */
  const steps = Float32Array.from({ length: RISING.length * 4800 }, (_, i) => RISING[Math.floor(i / 4800)]);
  const silent = new Float32Array(steps.length);

  it.each([
    ['left', { id: 'a', left: steps, right: silent }],
    ['right', { id: 'a', left: silent, right: steps }],
  ])('is where a section is loudest, heard on its %s', (_name, section) => {
    const [{ left, right }] = loudestOf([section], 0.3);
    const heard = left.some((value) => value > 0) ? left : right;
    expect([0, 1, 2].map((tenth) => heard[tenth * 4800])).toEqual([8, 8, 3]);
    expect(heard).toHaveLength(3 * 4800);
  });
  it('is the first of equal ones, cut alike from all positions', () => {
    const late = { id: 'b', left: ramp.subarray(0, 0), right: silent };
    const even = { id: 'a', left: new Float32Array(48_000).fill(0.5), right: new Float32Array(48_000) };
    expect(loudestOf([even], 0.2)[0].left.byteOffset).toBe(0);
    const [, other] = loudestOf(
      [
        { id: 'a', left: steps, right: steps },
        { ...late, left: silent },
      ],
      0.2,
    );
    expect([other.id, other.left.byteOffset]).toEqual(['b', 3 * 4800 * 4]);
  });
  it('may be the very end', () => {
    const last = { id: 'a', left: new Float32Array(48_000), right: new Float32Array(48_000) };
    last.left.fill(1, 9 * 4800);
    expect(loudestOf([last], 0.3)[0].left.byteOffset).toBe(7 * 4800 * 4);
  });
  it('is all there is of what is shorter', () => {
    const all = [{ id: 'a', left: steps, right: silent }];
    expect(loudestOf(all, 60)).toBe(all);
    expect(loudestOf([], 1)).toEqual([]);
  });
});

describe('the true peak of a section', () => {
  it('is that between samples, with level and balance of the track', () => {
    // A quarter of the rate, sampled off its tops: 3.01 dB above the samples.
    const tops = Float32Array.from(
      { length: RATE },
      (_, i) => 0.5 * Math.sin((Math.PI / 2) * i + Math.PI / 4),
    );
    const sound = { id: 'a', left: tops, right: tops };
    expect(truePeakOf([sound], mix({}))).toBeCloseTo(20 * Math.log10(0.5), 0);
    expect(truePeakOf([sound], { ...mix({}), gainDb: -6 })).toBeCloseTo(20 * Math.log10(0.5) - 6, 0);
    // All the way to one side by constant power: 3 dB more there.
    expect(truePeakOf([sound], { ...mix({}), pan: 1 })).toBeCloseTo(20 * Math.log10(0.5) + 3, 0);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  curveValue,
  curveWithin,
  scaledCurve,
  shiftedCurve,
  thinnedCurve,
  type CurvePoint,
} from './index.ts';

const curveOf = (points: readonly (readonly [tick: number, value: number])[]): CurvePoint[] =>
  points.map(([tick, value]) => ({ id: String(tick), controller: 1, tick, value }));
const pairs = (line: readonly { tick: number; value: number }[]) =>
  line.map(({ tick, value }) => [tick, value]);

describe('a curve over a span', () => {
  const curve = curveOf([
    [100, 20],
    [200, 60],
    [300, 40],
  ]);
  it('has its points, and where it stands at either end', () => {
    expect(pairs(curveWithin(curve, { fromTick: 150, toTick: 250 }))).toEqual([
      [150, 40],
      [200, 60],
      [250, 50],
    ]);
    expect(pairs(curveWithin(curve, { fromTick: 200, toTick: 300 }))).toEqual([
      [200, 60],
      [300, 40],
    ]);
  });
  it('begins with its first point, and is none before that', () => {
    expect(pairs(curveWithin(curve, { fromTick: 0, toTick: 150 }))).toEqual([
      [100, 20],
      [150, 40],
    ]);
    expect(curveWithin(curve, { fromTick: 0, toTick: 99 })).toEqual([]);
    expect(pairs(curveWithin(curve, { fromTick: 0, toTick: 100 }))).toEqual([[100, 20]]);
    expect(curveWithin([], { fromTick: 0, toTick: 99 })).toEqual([]);
  });
  it('holds after its last point', () => {
    expect(pairs(curveWithin(curve, { fromTick: 400, toTick: 500 }))).toEqual([
      [400, 40],
      [500, 40],
    ]);
  });
});

describe('a curve that is scaled', () => {
  // From 20 up to 60 and back: its mean over time is 40.
  const curve = curveOf([
    [0, 20],
    [100, 60],
    [200, 20],
  ]);
  const span = { fromTick: 0, toTick: 200 };
  it('goes less far from its mean, farther, or not at all', () => {
    expect(pairs(scaledCurve(curve, span, { scale: 0.5, add: 0 }))).toEqual([
      [0, 30],
      [100, 50],
      [200, 30],
    ]);
    expect(scaledCurve(curve, span, { scale: 2, add: 0 }).map(({ value }) => value)).toEqual([0, 80, 0]);
    expect(scaledCurve(curve, span, { scale: 0, add: 0 }).map(({ value }) => value)).toEqual([40, 40, 40]);
  });
  it('is raised and lowered, and held at the ends of the scale', () => {
    expect(scaledCurve(curve, span, { scale: 1, add: 10 }).map(({ value }) => value)).toEqual([30, 70, 30]);
    expect(scaledCurve(curve, span, { scale: 1, add: 100 }).map(({ value }) => value)).toEqual([
      120, 127, 120,
    ]);
    expect(scaledCurve(curve, span, { scale: 1, add: -30 }).map(({ value }) => value)).toEqual([0, 30, 0]);
  });
  it('counts a mean by how long values last', () => {
    const short = curveOf([
      [0, 0],
      [300, 0],
      [301, 100],
      [400, 100],
    ]);
    // 99 ticks at 100 and one on the way there, of 400.
    const [first] = scaledCurve(short, { fromTick: 0, toTick: 400 }, { scale: 0, add: 0 });
    expect(first.value).toBeCloseTo((99 * 100 + 50) / 400, 9);
  });
});

describe('a curve that is thinned', () => {
  it('has no more points than it needs, and stays within the steps it may leave', () => {
    const value = fc.integer({ min: 0, max: 127 });
    fc.assert(
      fc.property(
        fc.array(value, { minLength: 2, maxLength: 60 }),
        fc.constantFrom(0.5, 1, 3),
        (values, tolerance) => {
          const curve = curveOf(values.map((one, i) => [i * 10, one] as const));
          const span = { fromTick: 0, toTick: 10 * (values.length - 1) };
          const thin = thinnedCurve(curve, span, tolerance);
          expect(thin.length).toBeLessThanOrEqual(curve.length);
          const there = curveOf(thin.map((one) => [one.tick, one.value] as const));
          for (const { tick, value: was } of curve)
            expect(Math.abs(curveValue(there, tick, 0) - was)).toBeLessThanOrEqual(tolerance + 1e-9);
        },
      ),
    );
    const straight = curveOf(Array.from({ length: 20 }, (_, i) => [i, i * 2] as const));
    expect(thinnedCurve(straight, { fromTick: 0, toTick: 19 }, 0.5)).toHaveLength(2);
  });
});

describe('a curve that is shifted over a span', () => {
  const curve = curveOf([
    [0, 10],
    [100, 20],
    [200, 60],
    [300, 40],
  ]);
  const span = { fromTick: 100, toTick: 300 };
  it('comes later, and what held before it holds until then', () => {
    expect(pairs(shiftedCurve(curve, span, 50))).toEqual([
      [100, 20],
      [149, 20],
      [150, 20],
      [250, 60],
      [350, 40],
    ]);
  });
  it('comes earlier, though not before the beginning, and ends where it ended', () => {
    expect(pairs(shiftedCurve(curve, span, -50))).toEqual([
      [50, 20],
      [150, 60],
      [250, 40],
      [251, 40],
      [300, 40],
    ]);
    expect(pairs(shiftedCurve(curve, span, -1000))[0]).toEqual([0, 20]);
  });
  it('is as it was when it is moved by nothing, and none where it has not begun', () => {
    expect(pairs(shiftedCurve(curve, span, 0))).toEqual(pairs(curveWithin(curve, span)));
    expect(shiftedCurve([], span, 50)).toEqual([]);
  });
  it('keeps every value of its course at its new place', () => {
    fc.assert(
      fc.property(fc.integer({ min: -100, max: 400 }), fc.integer({ min: 100, max: 300 }), (ticks, tick) => {
        const moved = curveOf(pairs(shiftedCurve(curve, span, ticks)) as [number, number][]);
        expect(curveValue(moved, tick + ticks, 0)).toBeCloseTo(curveValue(curve, tick, 0), 9);
      }),
    );
  });
});

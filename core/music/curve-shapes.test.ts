import { describe, expect, it } from 'vitest';
import { CURVE_SHAPES, curveValue, shapedCurve } from './index.ts';

const valueAt = (points: readonly { tick: number; value: number }[], tick: number) =>
  curveValue(
    points.map((point, i) => ({ id: String(i), controller: 1, ...point })),
    tick,
    0,
  );

describe('a shaped curve', () => {
  it('is two points where it is straight', () => {
    expect(shapedCurve('straight', 20, 100, 960, 4800)).toEqual([
      { tick: 960, value: 20 },
      { tick: 4800, value: 100 },
    ]);
  });
  // By hand: half the time is a quarter of the way, three quarters, or all of it.
  it.each([
    ['late', [20, 25, 40, 65, 100]],
    ['early', [20, 55, 80, 95, 100]],
    ['arch', [20, 76.57, 100, 76.57, 20]],
  ] as const)('goes %s', (shape, wanted) => {
    const points = shapedCurve(shape, 20, 100, 1000, 5000);
    expect(points.length).toBeLessThan(20);
    wanted.forEach((value, i) =>
      expect(Math.abs(valueAt(points, 1000 + 1000 * i) - value)).toBeLessThan(0.5),
    );
  });
  it('keeps to half a controller step everywhere, falling or rising', () => {
    for (const [from, to] of [
      [0, 127],
      [127, 0],
      [60, 64],
    ])
      for (let tick = 0; tick <= 7680; tick += 13) {
        const time = tick / 7680;
        expect(
          Math.abs(valueAt(shapedCurve('late', from, to, 0, 7680), tick) - from - (to - from) * time * time),
        ).toBeLessThan(0.5);
        expect(
          Math.abs(
            valueAt(shapedCurve('arch', from, to, 0, 7680), tick) -
              from -
              (to - from) * Math.sin(Math.PI * time),
          ),
        ).toBeLessThan(0.5);
      }
  });
  it('begins and ends where it should, and stands on whole ticks, however short', () => {
    for (const shape of CURVE_SHAPES)
      for (const length of [1, 2, 7, 130, 9999]) {
        const points = shapedCurve(shape, 10, 90, 5, 5 + length);
        expect(points[0]).toEqual({ tick: 5, value: 10 });
        expect(points.at(-1)?.tick).toBe(5 + length);
        expect(points.at(-1)?.value).toBeCloseTo(shape === 'arch' ? 10 : 90, 9);
        expect(
          points.every(({ tick }, i) => Number.isInteger(tick) && (i === 0 || tick > points[i - 1].tick)),
        ).toBe(true);
      }
  });
});

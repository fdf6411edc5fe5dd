import { thinCurve } from './curve.ts';

/** How a curve goes from one value to another: straight, most of it late or early, or there and back. */
export const CURVE_SHAPES = ['straight', 'late', 'early', 'arch'] as const;
export type CurveShape = (typeof CURVE_SHAPES)[number];

/** Share of the way at a share of the time, both 0 … 1. */
const COURSES: Record<CurveShape, (time: number) => number> = {
  straight: (time) => time,
  late: (time) => time ** 2,
  early: (time) => 1 - (1 - time) ** 2,
  arch: (time) => Math.sin(Math.PI * time),
};
const LOOKED = 128;
/** Controller steps by which the points may miss the shape. */
const TOLERANCE = 0.4;

/**
 * Points of a shaped curve: as few as stay within half a controller step of it. An arch reaches `to` in its middle and ends at `from`.
 * @param startTick first tick; @param endTick last tick, after it
 */
export function shapedCurve(
  shape: CurveShape,
  from: number,
  to: number,
  startTick: number,
  endTick: number,
): { tick: number; value: number }[] {
  const steps = Math.max(1, Math.min(LOOKED, endTick - startTick));
  const line = Array.from({ length: steps + 1 }, (_, i) => {
    const tick = Math.round(startTick + (i / steps) * (endTick - startTick));
    const time = (tick - startTick) / Math.max(1, endTick - startTick);
    return { tick, value: from + (to - from) * COURSES[shape](time) };
  });
  return thinCurve(line, TOLERANCE);
}

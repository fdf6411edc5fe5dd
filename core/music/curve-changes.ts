import { clamp } from '../units/index.ts';
import { curveValue, thinCurve } from './curve.ts';
import type { CurvePoint } from './part.ts';

/** A stretch of a curve, both ends belong to it. */
export interface CurveSpan {
  fromTick: number;
  toTick: number;
}

type Line = { tick: number; value: number }[];

const HIGHEST = 127;

/** What a curve does over a span, as points, with one at either end; nothing where it has not begun by the span's end. */
export function curveWithin(curve: readonly CurvePoint[], { fromTick, toTick }: CurveSpan): Line {
  const [first] = curve;
  if (!first || first.tick > toTick) return [];
  const from = Math.max(fromTick, first.tick);
  const inside = curve
    .filter(({ tick }) => tick > from && tick < toTick)
    .map(({ tick, value }) => ({ tick, value }));
  const at = (tick: number) => ({ tick, value: curveValue(curve, tick, first.value) });
  return from === toTick ? [at(from)] : [at(from), ...inside, at(toTick)];
}

/**
 * A curve over a span with its way from its mean made larger or smaller, and then raised or lowered; held at the ends of the scale.
 * @param change `scale` 1 leaves it, 0 makes it level; `add` in controller steps
 */
export function scaledCurve(
  curve: readonly CurvePoint[],
  span: CurveSpan,
  { scale, add }: { scale: number; add: number },
): Line {
  const line = curveWithin(curve, span);
  const mean = meanOf(line);
  return line.map(({ tick, value }) => ({
    tick,
    value: clamp(mean + scale * (value - mean) + add, 0, HIGHEST),
  }));
}

/** Mean over time of straight lines from point to point. */
function meanOf(line: Line): number {
  if (line.length === 0) return 0;
  const length = line[line.length - 1].tick - line[0].tick;
  if (length <= 0) return line[0].value;
  let area = 0;
  for (let i = 1; i < line.length; i++)
    area += ((line[i].value + line[i - 1].value) / 2) * (line[i].tick - line[i - 1].tick);
  return area / length;
}

/** A curve over a span with the fewest points that stay within some controller steps of it. */
export function thinnedCurve(curve: readonly CurvePoint[], span: CurveSpan, tolerance: number): Line {
  return thinCurve(curveWithin(curve, span), tolerance);
}

/**
 * What a curve does over a span, earlier or later, in place of what is there. Behind a later one its value from before the span holds;
 * after an earlier one, up to the end of the span, that at its end. @param ticks later above 0
 */
export function shiftedCurve(curve: readonly CurvePoint[], span: CurveSpan, ticks: number): Line {
  const own = curveWithin(curve, span);
  const [first] = own;
  const moved = Math.max(ticks, -span.fromTick);
  const line = own.map(({ tick, value }) => ({ tick: tick + moved, value }));
  const last = own.at(-1);
  if (!last || moved === 0) return line;
  return moved > 0
    ? [first, ...(moved > 1 ? [{ ...first, tick: first.tick + moved - 1 }] : []), ...line]
    : [...line, ...(moved < -1 ? [{ ...last, tick: last.tick + moved + 1 }] : []), last];
}

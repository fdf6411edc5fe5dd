import type { Score } from '../formats/index.ts';
import {
  curveOf,
  curveValue,
  fifthsAt,
  MetreMap,
  TempoMap,
  type CurvePoint,
  type MetreChange,
  type Part,
  type TempoChange,
} from '../music/index.ts';

interface Stretch {
  fromTick: number;
  toTick: number;
}

/**
 * Some bars of a score as a score of its own, counted from its first bar on: notes that reach in or out are cut there, what held before
 * holds from its beginning. @param stretch from one bar line to another
 */
export function scoreWithin(score: Score, stretch: Stretch): Score {
  const { fromTick, toTick } = stretch;
  const metre = new MetreMap(score.metres);
  const within = <T extends { tick: number }>(list: readonly T[]) =>
    list
      .filter(({ tick }) => tick > fromTick && tick < toTick)
      .map((one) => ({ ...one, tick: one.tick - fromTick }));
  const here = (list: readonly { tick: number }[]) => list.some(({ tick }) => tick === fromTick);
  const { numerator, denominator } = metre.at(fromTick);
  return {
    ...score,
    tempos: [firstTempo(score.tempos, fromTick), ...within(score.tempos)],
    metres: [{ tick: 0, numerator, denominator }, ...within<MetreChange>(score.metres)],
    keys: [{ tick: 0, fifths: fifthsAt(score.keys, fromTick) }, ...within(score.keys)],
    markers: [
      ...(here(score.markers)
        ? score.markers.filter(({ tick }) => tick === fromTick).map((one) => ({ ...one, tick: 0 }))
        : []),
      ...within(score.markers),
    ],
    endTick: toTick - fromTick,
    firstBar: metre.toBarBeat(fromTick).bar,
    parts: score.parts.map((one) => ({ ...one, part: partWithin(one.part, stretch) })),
  };
}

function firstTempo(tempos: readonly TempoChange[], tick: number): TempoChange {
  const held = [...tempos]
    .sort((a, b) => a.tick - b.tick)
    .filter((one) => one.tick <= tick)
    .at(-1);
  return { tick: 0, bpm: new TempoMap(tempos).bpmAt(tick), ramp: held?.ramp ?? false };
}

function partWithin({ notes, marks, points }: Part, { fromTick, toTick }: Stretch): Part {
  const cut = <T extends { startTick: number; endTick: number }>(list: readonly T[]): T[] =>
    list
      .filter(({ startTick, endTick }) => startTick < toTick && endTick > fromTick)
      .map((one) => ({
        ...one,
        startTick: Math.max(0, one.startTick - fromTick),
        endTick: Math.min(toTick, one.endTick) - fromTick,
      }));
  const controllers = [...new Set(points.map(({ controller }) => controller))];
  return {
    notes: cut(notes),
    marks: cut(marks),
    points: controllers.flatMap((controller): CurvePoint[] => {
      const curve = curveOf(points, controller);
      const at = (tick: number): CurvePoint => ({
        id: `${controller} at ${tick}`,
        controller,
        tick: tick - fromTick,
        value: curveValue(curve, tick, curve[0].value),
      });
      const inside = curve.filter(({ tick }) => tick > fromTick && tick < toTick);
      return [at(fromTick), ...inside.map((one) => ({ ...one, tick: one.tick - fromTick })), at(toTick)];
    }),
  };
}

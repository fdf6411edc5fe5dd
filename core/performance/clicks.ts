import type { ClickAt } from '../engine/index.ts';
import type { MetreMap, TempoMap } from '../music/index.ts';
import { ENGINE_RATE, roundEnd, roundOf, type Course } from '../units/index.ts';

/** Clicks of a performance whose frames lie in [from, to). */
export function clicksBetween(
  course: Course,
  metre: MetreMap,
  tempo: TempoMap,
  from: number,
  to: number,
): ClickAt[] {
  const clicks: ClickAt[] = [];
  const { startSeconds } = course;
  const tickAt = (frame: number) => tempo.toTicks(startSeconds + frame / ENGINE_RATE);
  for (let at = from; at < to;) {
    const round = roundOf(course, at);
    const end = Math.min(to, roundEnd(course, at));
    // Rounding may put a pulse a frame beside the tick that is asked for.
    for (const { tick, beginsBar } of metre.pulses(tickAt(at - round) - 1, tickAt(end - round) + 1)) {
      const frame = round + Math.round((tempo.toSeconds(tick) - startSeconds) * ENGINE_RATE);
      if (frame >= at && frame < end) clicks.push({ frame, strong: beginsBar });
    }
    at = end;
  }
  return clicks;
}

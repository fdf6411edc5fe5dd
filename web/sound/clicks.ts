import type { ClickAt } from '#core/engine/index.ts';
import type { MetreMap, TempoMap } from '#core/music/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { Course } from './course.ts';

/** Clicks of a performance whose frames lie in [from, to). */
export function clicksBetween(
  { startSeconds, leadFrames, loopFrames }: Course,
  metre: MetreMap,
  tempo: TempoMap,
  from: number,
  to: number,
): ClickAt[] {
  const clicks: ClickAt[] = [];
  const length = loopFrames ?? Infinity;
  const tickAt = (frame: number) => tempo.toTicks(startSeconds + frame / ENGINE_RATE);
  for (let at = from; at < to;) {
    const past = Math.max(0, Math.floor((at - leadFrames) / length));
    const round = past === 0 ? 0 : past * length;
    const end = Math.min(to, round + leadFrames + length);
    // Rounding may put a pulse a frame beside the tick that is asked for.
    for (const { tick, beginsBar } of metre.pulses(tickAt(at - round) - 1, tickAt(end - round) + 1)) {
      const frame = round + Math.round((tempo.toSeconds(tick) - startSeconds) * ENGINE_RATE);
      if (frame >= at && frame < end) clicks.push({ frame, strong: beginsBar });
    }
    at = end;
  }
  return clicks;
}

import type { EngineEvent } from '#core/engine/index.ts';
import { toEvents, type Plan } from '#core/performance/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { cueOf, tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';

/** A passage is measured no longer than this. */
const LONGEST_SECONDS = 12;
const TAIL_SECONDS = 1;

/** The passage that is measured: the loop where there is one, else the beginning of the cue; no longer than twelve seconds. */
export function passageTicks(): readonly [number, number] {
  const { records, cueId } = useDocuments.getState();
  const cue = cueOf(records, cueId);
  if (!cue) return [0, 0];
  const { loopStartTick, loopEndTick, endTick } = cue;
  const [from, to] = loopEndTick > loopStartTick ? [loopStartTick, loopEndTick] : [0, endTick];
  const tempo = tempoOf(records);
  const last = tempo.toTicks(tempo.toSeconds(from) + LONGEST_SECONDS);
  return [from, Math.min(to, Math.round(last))];
}

/** Frames of the passage, and what a track plays in it: notes that begin in it and those that ring into it. */
export function playedIn(
  plan: Plan,
  trackIndex: number,
  [from, to]: readonly [number, number],
): { events: EngineEvent[]; frames: number } {
  const tempo = tempoOf(useDocuments.getState().records);
  const [start, end] = [tempo.toSeconds(from), tempo.toSeconds(to)];
  const frames = Math.ceil((end - start + TAIL_SECONDS) * ENGINE_RATE);
  const until = (end - start) * ENGINE_RATE;
  const events = toEvents(plan, trackIndex, start).filter(
    (event) => event.frame < frames && (event.kind !== 'start' || event.frame < until),
  );
  return { events, frames };
}

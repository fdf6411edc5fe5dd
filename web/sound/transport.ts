import { toast } from 'sonner';
import { sortEvents, type EngineEvent } from '#core/engine/index.ts';
import { planEndSeconds, toEvents } from '#core/performance/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { cueOf, orderedTracks, tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { soundHost } from './host.ts';
import { usePerformance } from './performance-state.ts';

let startSeconds = 0;
let reported = { frame: 0, at: 0 };
let loopFrames: number | null = null;

/** Where the playhead is now, in ticks. */
export function playheadTick(): number {
  const { playing, restTick } = usePerformance.getState();
  if (!playing) return restTick;
  const elapsed = reported.frame / ENGINE_RATE + (performance.now() - reported.at) / 1000;
  const inLoop = loopFrames ? elapsed % (loopFrames / ENGINE_RATE) : elapsed;
  return tempoOf(useDocuments.getState().records).toTicks(startSeconds + Math.max(0, inLoop));
}

/** Everything the engine plays from a place on, in order. */
function eventsFrom(seconds: number): EngineEvent[] {
  const { records } = useDocuments.getState();
  const { plans } = usePerformance.getState();
  const events: EngineEvent[] = [];
  orderedTracks(records).forEach((track, index) => {
    const plan = plans[track.id];
    if (plan) for (const event of toEvents(plan, index, seconds)) events.push(event);
  });
  return sortEvents(events);
}

/** Starts playing at the resting place, or at the loop's start when looping. */
export async function play(): Promise<void> {
  const { records, cueId } = useDocuments.getState();
  const { looping, restTick } = usePerformance.getState();
  const cue = cueOf(records, cueId);
  const tempo = tempoOf(records);
  const loop = looping && cue && cue.loopEndTick > cue.loopStartTick ? cue : undefined;
  const from = loop ? loop.loopStartTick : restTick;
  startSeconds = tempo.toSeconds(from);
  loopFrames = loop ? Math.round((tempo.toSeconds(loop.loopEndTick) - startSeconds) * ENGINE_RATE) : null;
  try {
    await soundHost.play(eventsFrom(startSeconds), loopFrames);
  } catch {
    toast.error(soundHost.trouble ?? 'The browser gives no sound.');
    return;
  }
  reported = { frame: 0, at: performance.now() };
  usePerformance.setState({ playing: true });
}

/** Stops; the playhead stays where it started (`stay` false) or where it is. */
export function stop(stay = false): void {
  const tick = Math.round(playheadTick());
  soundHost.stop();
  usePerformance.setState((state) => ({ playing: false, restTick: stay ? tick : state.restTick }));
}

/** Moves the resting place; playing goes on from there. */
export function locate(tick: number): void {
  usePerformance.setState({ restTick: Math.max(0, Math.round(tick)) });
  if (usePerformance.getState().playing) void play();
}

export function toggleLoop(): void {
  usePerformance.setState(({ looping }) => ({ looping: !looping }));
  if (usePerformance.getState().playing) void play();
}

/** Lets what plays go on with plans that changed. */
export function replan(): void {
  if (usePerformance.getState().playing) soundHost.replaceEvents(eventsFrom(startSeconds));
}

/** Takes the engine's report of where it is; at the end of everything playing stops. */
export function hearWhere(frame: number, isSilent: boolean): void {
  reported = { frame, at: performance.now() };
  const { playing, looping } = usePerformance.getState();
  if (playing && !looping && isSilent && isPastEnd(frame)) stop();
}

/** True once nothing more is to come: past the cue's end and past the last planned sound. */
function isPastEnd(frame: number): boolean {
  const { records, cueId } = useDocuments.getState();
  const now = startSeconds + frame / ENGINE_RATE;
  const cue = cueOf(records, cueId);
  const ends = Object.values(usePerformance.getState().plans).map(planEndSeconds);
  return now > Math.max(cue ? tempoOf(records).toSeconds(cue.endTick) : 0, ...ends) + 0.5;
}

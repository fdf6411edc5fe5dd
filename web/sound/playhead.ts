import { ENGINE_RATE, secondsAt, type Course } from '#core/units/index.ts';
import { tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { usePerformance } from './performance-state.ts';

/** Where playing began and has come to, as the engine last told; written by the transport alone. */
export const playing: Course & {
  /** Frames since playing began, and when they were told, by the page's clock. */
  frame: number;
  toldAt: number;
  /** When that frame was next, by the clock of the audio context, seconds. */
  contextSeconds: number;
} = { startSeconds: 0, leadFrames: 0, loopFrames: null, frame: 0, toldAt: 0, contextSeconds: 0 };

/** The engine tells thirty times a second; when it has told nothing for so long, the sound is paused. */
const PAUSED_MS = 400;

/** Frames since playing began, now. */
export function playedFrames(): number {
  const since = Math.min(PAUSED_MS, performance.now() - playing.toldAt);
  return playing.frame + (since / 1000) * ENGINE_RATE;
}

/** Where the playhead is now, in ticks. */
export function playheadTick(): number {
  const state = usePerformance.getState();
  if (!state.playing) return state.restTick;
  const seconds = secondsAt(playing, Math.max(0, playedFrames()));
  return tempoOf(useDocuments.getState().records).toTicks(seconds);
}

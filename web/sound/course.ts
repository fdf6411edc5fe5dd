import { ENGINE_RATE } from '#core/units/index.ts';

/** How a performance goes through the cue: from a place on, and round a loop where there is one. */
export interface Course {
  /** Time of the cue at frame 0. */
  startSeconds: number;
  /** Frames before the loop, or before what is recorded. */
  leadFrames: number;
  /** Length of the loop; null without one. */
  loopFrames: number | null;
}

/** Time of the cue at a frame of a performance. */
export function secondsAt({ startSeconds, leadFrames, loopFrames }: Course, frame: number): number {
  const past = loopFrames === null ? 0 : Math.floor((frame - leadFrames) / loopFrames);
  return startSeconds + (frame - Math.max(0, past) * (loopFrames ?? 0)) / ENGINE_RATE;
}

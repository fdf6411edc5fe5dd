import { ENGINE_RATE } from './engine-rate.ts';

/** How a performance goes through the cue: from a place on, and round a loop where there is one. */
export interface Course {
  /** Time of the cue at frame 0. */
  startSeconds: number;
  /** Frames before the loop, or before what is recorded. */
  leadFrames: number;
  /** Length of the loop; null without one. */
  loopFrames: number | null;
}

/** By how many frames the round of a loop in which a frame lies comes after the first; what leads in belongs to that. */
export function roundOf({ leadFrames, loopFrames }: Omit<Course, 'startSeconds'>, frame: number): number {
  if (loopFrames === null) return 0;
  return Math.max(0, Math.floor((frame - leadFrames) / loopFrames)) * loopFrames;
}

/** Where the round of a loop ends in which a frame lies; Infinity without one. */
export function roundEnd(course: Omit<Course, 'startSeconds'>, frame: number): number {
  return roundOf(course, frame) + course.leadFrames + (course.loopFrames ?? Infinity);
}

/** Time of the cue at a frame of a performance. */
export function secondsAt(course: Course, frame: number): number {
  return course.startSeconds + (frame - roundOf(course, frame)) / ENGINE_RATE;
}

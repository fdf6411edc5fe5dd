import { usePerformance } from './performance-state.ts';
import { play, stop } from './transport.ts';

/** Hearing from a place for as long as it is held; another place is heard from there. */

/** Places nearer than this are one. */
const LEAST_TICKS = 60;
/** Not more often than this, so that something is heard of each. */
const LEAST_MS = 120;

let held: { tick: number; at: number } | undefined;

/** Begins to play from a place. Nothing of what plays or is recorded is broken off. */
export function beginScrub(tick: number, now = performance.now()): void {
  const { playing, preparing, recording } = usePerformance.getState();
  if (held || playing || preparing || recording) return;
  held = { tick, at: now };
  void play({ tick });
}

/** Plays on from another place, while it is held. */
export function scrubTo(tick: number, now = performance.now()): void {
  if (!held || Math.abs(tick - held.tick) < LEAST_TICKS || now - held.at < LEAST_MS) return;
  held = { tick, at: now };
  void play({ tick });
}

/** Ends what was begun; the playhead is where it was. */
export function endScrub(): void {
  if (!held) return;
  held = undefined;
  stop();
}

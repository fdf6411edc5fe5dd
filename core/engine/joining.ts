/** What a track lets be heard of its voices. */
export interface Hearing {
  /** Loudness of each position. */
  loudness: Float64Array;
  positions: number;
  controllers: Float64Array;
  bendCents: number;
}

/** What can tell its wave from `from` frames from now on, every `PROBE_STEP` frames. */
export interface Waving {
  wave(out: Float64Array, points: number, from: number, hearing: Hearing): void;
}

/** Where the waves of two voices agree most. */
export interface Agreement {
  /** Correlation there, −1 … 1. */
  likeness: number;
  /** How far the second is to be moved for it, in frames. */
  shiftFrames: number;
  /** Power of the first against the second's. */
  powerRatio: number;
}

/** Waves are compared over this many points, this many frames apart: 40 ms. */
const POINTS = 640;
export const PROBE_STEP = 3;
const MOST_LAGS = 320;
/** Every so many points and places are tried first; those around the best of them then all. */
const COARSE = 2;

const oldWave = new Float64Array(POINTS);
const newWave = new Float64Array(POINTS + 2 * MOST_LAGS + 1);
const found: Agreement = { likeness: 0, shiftFrames: 0, powerRatio: 0 };

/**
 * Compares a voice that has just begun with one that it takes over from, around the middle of their crossfade.
 * @param overFrames length of the crossfade; @param alignFrames how far the new one may be moved
 * @returns one object for all calls: read it before the next
 */
export function compareVoices(
  old: Waving,
  fresh: Waving,
  overFrames: number,
  alignFrames: number,
  hearing: Hearing,
): Readonly<Agreement> {
  const lags = Math.min(MOST_LAGS, Math.round(alignFrames / PROBE_STEP));
  const from = Math.max(0, (overFrames - POINTS * PROBE_STEP) / 2);
  old.wave(oldWave, POINTS, from, hearing);
  fresh.wave(newWave, POINTS + 2 * lags, from - lags * PROBE_STEP, hearing);
  let best = 0;
  let most = -2;
  for (let lag = 0; lag <= 2 * lags; lag += COARSE) {
    const likeness = likenessAt(lag, COARSE);
    if (likeness > most) [most, best] = [likeness, lag];
  }
  const end = Math.min(2 * lags, best + COARSE - 1);
  found.likeness = -2;
  for (let lag = Math.max(0, best - COARSE + 1); lag <= end; lag++) {
    const likeness = likenessAt(lag, 1);
    if (likeness > found.likeness) {
      found.likeness = likeness;
      found.shiftFrames = (lag - lags) * PROBE_STEP;
      found.powerRatio = newPower > 0 ? oldPower / newPower : 0;
    }
  }
  return found;
}

let oldPower = 0;
let newPower = 0;

/** Correlation of both waves with the new one read `lag` points later; notes their powers. */
function likenessAt(lag: number, step: number): number {
  let xy = 0;
  oldPower = newPower = 0;
  for (let i = 0; i < POINTS; i += step) {
    const x = oldWave[i];
    const y = newWave[i + lag];
    xy += x * y;
    oldPower += x * x;
    newPower += y * y;
  }
  const power = oldPower * newPower;
  return power > 0 ? xy / Math.sqrt(power) : 0;
}

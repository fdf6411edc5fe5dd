/** A loop that was found: frames [start, end) and how alike its two ends are, 0…1. */
export interface FoundLoop {
  start: number;
  end: number;
  likeness: number;
}

const WINDOW_SECONDS = 0.03;
const SHORTEST_SECONDS = 0.4;

/**
 * A place to loop the held part of a recording: the pair of places, both past the beginning and before the end,
 * whose surroundings are most alike (normalised correlation over 30 ms). Undefined for recordings too short or dying away.
 * @param signal mono
 */
export function findLoop(signal: Float32Array, rate: number): FoundLoop | undefined {
  const window = Math.round(WINDOW_SECONDS * rate);
  const from = Math.round(signal.length * 0.25);
  const to = Math.round(signal.length * 0.85);
  const shortest = Math.round(SHORTEST_SECONDS * rate);
  if (to - from < shortest + window) return undefined;
  const early = rms(signal, from, from + window * 4);
  const late = rms(signal, to - window * 4, to);
  // What has fallen by 10 dB is not held.
  if (late < early * 0.316 || early === 0) return undefined;
  let best: FoundLoop | undefined;
  const ends = 24;
  for (let e = 0; e < ends; e++) {
    const end = zeroRise(signal, Math.round(to - ((to - from - shortest) * 0.4 * e) / ends));
    const starts = 160;
    for (let s = 0; s < starts; s++) {
      const start = zeroRise(signal, Math.round(from + ((end - shortest - from) * s) / starts));
      if (end - start < shortest) continue;
      const likeness = correlation(signal, start, end, window);
      if (!best || likeness > best.likeness) best = { start, end, likeness };
    }
  }
  return best;
}

function rms(signal: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += signal[i] * signal[i];
  return Math.sqrt(sum / Math.max(1, to - from));
}

/** The next place at which the wave rises through zero. */
function zeroRise(signal: Float32Array, from: number): number {
  for (let i = Math.max(1, from); i < signal.length - 1; i++)
    if (signal[i - 1] <= 0 && signal[i] > 0) return i;
  return from;
}

function correlation(signal: Float32Array, a: number, b: number, window: number): number {
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let i = -(window >> 1); i < window >> 1; i++) {
    const x = signal[a + i] ?? 0;
    const y = signal[b + i] ?? 0;
    ab += x * y;
    aa += x * x;
    bb += y * y;
  }
  return aa > 0 && bb > 0 ? Math.max(0, ab / Math.sqrt(aa * bb)) : 0;
}

/**
 * Softens a loop's seam in place: before `end` the sound is blended (equal power) into what stands before `start`.
 * @param channels all of one recording
 */
export function blendLoop(
  channels: readonly Float32Array[],
  start: number,
  end: number,
  frames: number,
): void {
  const length = Math.min(frames, start, end - start);
  for (const channel of channels)
    for (let i = 0; i < length; i++) {
      const x = (i / length) * (Math.PI / 2);
      const at = end - length + i;
      channel[at] = Math.cos(x) * channel[at] + Math.sin(x) * channel[start - length + i];
    }
}

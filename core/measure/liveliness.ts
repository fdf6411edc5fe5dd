import { powerEvery5ms } from './decay.ts';

/** How a held sound behaves while it is held. */
export interface Liveliness {
  /** Standard deviation of the level over time, in dB, drift of the whole aside. */
  movementDb: number;
  /** Seconds after which it begins to repeat itself; 0 when it is not looped. */
  repeatsAfterSeconds: number;
  /** Loop only: how alike the sound is before both ends of it, 0…1; a low figure is heard as a bump. */
  seam: number;
}

/** Steps of 5 ms that are averaged into one value of the level. */
const STEPS = 8;

/**
 * Looks at the held part of a recording, or at its loop [start, end).
 * @param held frames [from, to) in which the tone is settled, used when there is no loop
 */
export function livelinessOf(
  channels: readonly Float32Array[],
  rate: number,
  held: { from: number; to: number },
  loop?: { start: number; end: number },
): Liveliness {
  const from = loop?.start ?? held.from;
  const to = loop?.end ?? held.to;
  const power = powerEvery5ms(channels, rate, from, Math.max(to, from + 1));
  const levels: number[] = [];
  for (let i = 0; i + STEPS <= power.length; i += STEPS / 2) {
    let sum = 0;
    for (let k = 0; k < STEPS; k++) sum += power[i + k] / STEPS;
    levels.push(10 * Math.log10(Math.max(sum, 1e-12)));
  }
  return {
    movementDb: spread(levels),
    repeatsAfterSeconds: loop ? (loop.end - loop.start) / rate : 0,
    seam: loop ? seamOf(channels, rate, loop.start, loop.end) : 1,
  };
}

/** Standard deviation about a straight line. */
function spread(values: readonly number[]): number {
  const n = values.length;
  if (n < 3) return 0;
  const middle = (n - 1) / 2;
  const mean = values.reduce((sum, value) => sum + value, 0) / n;
  let xy = 0;
  let xx = 0;
  values.forEach((value, i) => {
    xy += (i - middle) * (value - mean);
    xx += (i - middle) ** 2;
  });
  const slope = xy / xx;
  return Math.sqrt(values.reduce((sum, v, i) => sum + (v - mean - slope * (i - middle)) ** 2, 0) / n);
}

/** Normalised correlation of the 10 ms before the loop's end with those before its start: what follows is the same. */
function seamOf(channels: readonly Float32Array[], rate: number, start: number, end: number): number {
  const count = Math.min(Math.round(0.01 * rate), start, end - start);
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (const channel of channels)
    for (let i = 1; i <= count; i++) {
      const a = channel[end - i] ?? 0;
      const b = channel[start - i] ?? 0;
      ab += a * b;
      aa += a * a;
      bb += b * b;
    }
  return aa > 0 && bb > 0 ? Math.max(0, ab / Math.sqrt(aa * bb)) : 1;
}

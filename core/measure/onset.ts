import { kWeighted } from '../dsp/index.ts';

/** Distance between two points of an attack envelope. */
export const HOP_SECONDS = 0.002;
const ENVELOPE_SECONDS = 0.5;
const WINDOW_SECONDS = 0.005;
/** A sound has begun when it is this much stronger than what was there before it, and not far below its peak. */
const ABOVE_FLOOR = 4;
const BEGINS = 0.001;
/** Share of its peak at which it speaks: −10 dB. */
const SPEAKS = 0.1;
/** The peak is looked for in this long from its beginning, as it is played. */
const PEAK_SECONDS = 0.25;
/** Points over which the floor is averaged: 10 ms. */
const FLOOR_POINTS = 5;

/**
 * Power over time of a stereo or mono recording every 2 ms over its first half second: mean square of its K-weighted wave
 * over a centred window of 5 ms, channels added. Allocates.
 * @param channels equal-length arrays
 * @param from first frame
 */
export function attackEnvelope(channels: readonly Float32Array[], rate: number, from = 0): Float64Array {
  const frames = from + Math.round((ENVELOPE_SECONDS + WINDOW_SECONDS) * rate);
  const weighted = channels.map((channel) => kWeighted(channel.subarray(0, frames)));
  return sharedEnvelope(weighted, weighted, rate, from);
}

/**
 * The same of the product of two recordings that are K-weighted already: how much power they add to each other's when
 * sounded together, so that |g·a + h·b|² = g²·aa + 2gh·ab + h²·bb. Allocates.
 */
export function sharedEnvelope(
  a: readonly Float64Array[],
  b: readonly Float64Array[],
  rate: number,
  from = 0,
): Float64Array {
  const half = Math.round((WINDOW_SECONDS * rate) / 2);
  const points = Math.round(ENVELOPE_SECONDS / HOP_SECONDS);
  const envelope = new Float64Array(points);
  a.forEach((x, c) => {
    const y = b[c];
    for (let p = 0; p < points; p++) {
      const centre = from + Math.round(p * HOP_SECONDS * rate);
      let sum = 0;
      const start = Math.max(0, centre - half);
      const end = Math.min(x.length, centre + half);
      for (let i = start; i < end; i++) sum += x[i] * y[i];
      envelope[p] += sum / (2 * half);
    }
  });
  return envelope;
}

/**
 * Time at which a sound speaks: its level comes within 10 dB of its own peak of the first 250 ms after it rises out of
 * what was there before, straight between points. 0 when it is silent.
 * @param power one value every `HOP_SECONDS`
 * @param ratio pitch played against the recording's: 250 ms as they are played. The time told is the recording's.
 */
export function onsetOfEnvelope(power: ArrayLike<number>, ratio = 1): number {
  let overall = 0;
  for (let i = 0; i < power.length; i++) overall = Math.max(overall, power[i]);
  if (overall <= 0) return 0;
  const least = Math.max(overall * BEGINS, floorOf(power) * ABOVE_FLOOR);
  let first = 0;
  while (first < power.length - 1 && power[first] < least) first++;
  const last = Math.min(power.length, first + Math.round((PEAK_SECONDS * ratio) / HOP_SECONDS));
  let peak = 0;
  for (let i = first; i < last; i++) peak = Math.max(peak, power[i]);
  const threshold = peak * SPEAKS;
  let at = first;
  while (power[at] < threshold) at++;
  if (at === 0) return 0;
  const below = Math.sqrt(power[at - 1]);
  const share = (Math.sqrt(threshold) - below) / (Math.sqrt(power[at]) - below);
  return (at - 1 + Math.min(1, Math.max(0, share))) * HOP_SECONDS;
}

/** Power of the hiss before a sound: that of its first 10 ms, where they are far below its peak, else none. */
function floorOf(power: ArrayLike<number>): number {
  let sum = 0;
  let peak = 0;
  for (let i = 0; i < power.length; i++) {
    if (i < FLOOR_POINTS) sum += power[i] / FLOOR_POINTS;
    peak = Math.max(peak, power[i]);
  }
  return sum * ABOVE_FLOOR < peak * SPEAKS ? sum : 0;
}

/** Time at which a recording speaks, in seconds after frame `from`. */
export function onsetSeconds(channels: readonly Float32Array[], rate: number, from = 0): number {
  return onsetOfEnvelope(attackEnvelope(channels, rate, from));
}

/** An envelope as hex, one byte a point: half decibels above −120 dB. */
export function packEnvelope(power: ArrayLike<number>): string {
  let text = '';
  for (let i = 0; i < power.length; i++) {
    const steps = power[i] > 0 ? Math.round((10 * Math.log10(power[i]) + 120) * 2) : 0;
    text += Math.min(255, Math.max(0, steps)).toString(16).padStart(2, '0');
  }
  return text;
}

/** Inverse of `packEnvelope`, within a quarter of a decibel. */
export function unpackEnvelope(text: string): Float64Array {
  const power = new Float64Array(text.length / 2);
  for (let i = 0; i < power.length; i++) {
    const steps = parseInt(text.slice(2 * i, 2 * i + 2), 16);
    power[i] = steps === 0 ? 0 : 10 ** ((steps / 2 - 120) / 10);
  }
  return power;
}

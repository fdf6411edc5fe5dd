import { interpolationCurve, REACH } from '../dsp/index.ts';

/** What the kernel works out, written as it is defined: one frame after the other, in doubles, without tables. */

/** A recording by frame and channel. */
export interface Recorded {
  data: ArrayLike<number>;
  channels: 1 | 2;
  frames: number;
  /** What full scale is in `data`. */
  full: number;
}

/** A frame as it is heard: round the loop, silent outside. @param inLoop whether the loop's start was passed from its end */
export function heardFrame(
  { data, channels, frames, full }: Recorded,
  frame: number,
  channel: 0 | 1,
  loop: { start: number; end: number } | null,
  inLoop: boolean,
): number {
  let at = frame;
  if (loop) {
    const round = loop.end - loop.start;
    while (at >= loop.end) at -= round;
    if (inLoop) while (at < loop.start) at += round;
  }
  return at < 0 || at >= frames ? 0 : data[at * channels + (channels === 2 ? channel : 0)] / full;
}

/** A sound between its frames: every frame in reach weighed by the curve, `scale` times as wide, its weights made to sum to 1. */
export function between(frameAt: (frame: number) => number, place: number, scale: number): number {
  const first = Math.ceil(place - REACH * scale);
  let sum = 0;
  let weights = 0;
  for (let frame = first; frame <= place + REACH * scale; frame++) {
    const weight = interpolationCurve((frame - place) / scale);
    sum += weight * frameAt(frame);
    weights += weight;
  }
  return sum / weights;
}

/** Largest error against what is right, in dB of full scale. */
export function errorDb(made: ArrayLike<number>, right: ArrayLike<number>): number {
  let worst = 0;
  for (let i = 0; i < right.length; i++) worst = Math.max(worst, Math.abs(made[i] - right[i]));
  return 20 * Math.log10(Math.max(worst, 1e-10));
}

/** A filter of the kinds zones have, by the state-variable equations of A. Simper (2013), coefficients from theory at every frame. */
export function filteredByDefinition(
  kind: string,
  sound: ArrayLike<number>,
  cutoffAt: (frame: number) => { g: number; k: number },
): Float64Array {
  const out = new Float64Array(sound.length);
  let s1 = 0;
  let s2 = 0;
  for (let i = 0; i < out.length; i++) {
    const { g, k } = cutoffAt(i);
    const x = sound[i];
    if (kind.endsWith('1')) {
      const low = (g * x + s1) / (1 + g);
      s1 = 2 * low - s1;
      out[i] = kind === 'lowpass1' ? low : x - low;
      continue;
    }
    const high = (x - (k + g) * s1 - s2) / (1 + g * (g + k));
    const band = g * high + s1;
    const low = g * band + s2;
    s1 = g * high + band;
    s2 = g * band + low;
    out[i] = { lowpass2: low, highpass2: high, bandpass: k * band, notch: x - k * band }[kind] ?? NaN;
  }
  return out;
}

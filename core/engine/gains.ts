import type { Fade } from '../catalogue/index.ts';
import { sin } from '../units/index.ts';

/**
 * Gain of a crossfade window at a controller value: quarter sine up, quarter cosine down, so that two
 * windows that share a slope keep the summed power of unlike material (sin² + cos² = 1).
 */
export function fadeGain(fade: Fade, value: number): number {
  let gain = 1;
  if (fade.inHigh > fade.inLow || fade.inLow > 0)
    gain *= quarterSine((value - fade.inLow) / Math.max(1e-9, fade.inHigh - fade.inLow));
  if (fade.outHigh > fade.outLow || fade.outHigh < 127)
    gain *= quarterSine((fade.outHigh - value) / Math.max(1e-9, fade.outHigh - fade.outLow));
  return gain;
}

/** 0 below 0, 1 above 1, sin(π/2·x) between: the equal-power fade. */
export function quarterSine(x: number): number {
  return x <= 0 ? 0 : x >= 1 ? 1 : sin((Math.PI / 2) * x);
}

/**
 * Level of a velocity 1…127: the standard sampler curve (v/127)², blended towards 1 by 1 − track.
 * @param track −1 … 1; below 0 what is struck softly is loud, by the same curve turned round
 */
export function velocityGain(velocity: number, track: number): number {
  const v = (track < 0 ? 127 - velocity : velocity) / 127;
  const share = Math.abs(track);
  return 1 - share + share * v * v;
}

/**
 * What layers that sound together are scaled by, so that their sum has the power that unlike layers would have: like waves
 * add up to more, and opposed ones to less.
 * @param gains one per layer; @param powers of their recordings; @param alike `count` × `count`, −1 … 1
 */
export function blendGain(
  count: number,
  gains: ArrayLike<number>,
  powers: ArrayLike<number>,
  alike: ArrayLike<number>,
): number {
  let unlike = 0;
  let shared = 0;
  for (let a = 0; a < count; a++) {
    if (gains[a] === 0) continue;
    unlike += gains[a] * gains[a] * powers[a];
    for (let b = 0; b < a; b++) {
      const likeness = alike[a * count + b];
      if (likeness === 0 || gains[b] === 0) continue;
      shared +=
        2 * Math.max(LEAST_LIKENESS, likeness) * gains[a] * gains[b] * Math.sqrt(powers[a] * powers[b]);
    }
  }
  return shared === 0 || unlike + shared <= 0 ? 1 : Math.sqrt(unlike / (unlike + shared));
}

/** Likeness below which a crossfade allows for no more: what cancels so far cannot be lifted back. */
const LEAST_LIKENESS = -0.6;

/**
 * Gain of the side that comes in, at share x of a crossfade of two sounds of equal level whose waves correlate by
 * `likeness` (−1 … 1): sin θ / √(1 + likeness · sin 2θ), θ = π/2 · x. The other side's is the same at 1 − x, so that the
 * power of the sum stays 1 throughout: sin² + cos² + 2 · likeness · sin · cos = 1 + likeness · sin 2θ.
 */
export function joinGain(x: number, likeness: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  const angle = (Math.PI / 2) * x;
  return sin(angle) / Math.sqrt(1 + Math.max(LEAST_LIKENESS, likeness) * sin(2 * angle));
}

/** The last part of a release is faded, so that it does not end with a step. */
const LAST_SHARE = 0.05;

/**
 * Gain of a release that falls straight in decibels.
 * @param left share of it that is still to come, 1 … 0; @param db how far it falls in all
 */
export function fallGain(left: number, db: number): number {
  return 10 ** ((-db * (1 - left)) / 20) * Math.min(1, left / LAST_SHARE);
}

import FFT from 'fft.js';
import { hann } from '../dsp/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Apart, ApartPosition } from './apart.ts';

/** When the sound of a section comes to a position, against the position it comes to first. */
export interface Arrival {
  id: string;
  delaySeconds: number;
  /** Its waves are turned over against those of the first. */
  isInverted: boolean;
  /** How far the agreement stands out from what chance gives, 0 … 1; below `LEAST_CERTAINTY` it tells nothing. */
  certainty: number;
}

/** Below this the arrival is a guess. */
export const LEAST_CERTAINTY = 0.15;

const SIZE = 16_384;
/** Further apart than this, 34 m, positions do not stand. */
const MOST_SECONDS = 0.1;
const MOST_FRAMES = Math.round(MOST_SECONDS * ENGINE_RATE);
/** Where sections have their sound, and rooms are not yet all that is heard. */
const LOW_HZ = 80;
const HIGH_HZ = 10_000;
/** A peak of this share of the highest is direct sound, if nothing as high comes before it. */
const FIRST_SHARE = 0.8;
/** What chance alone gives among so many lags, against the mean. */
const CHANCE = 6;
/** Looks whose level is so far below the loudest are passed over. */
const QUIET_DB = 40;
/** A side so far below the other one is silent: what one transform of both leaves there is rounding. */
const SILENT_DB = 120;
/** More looks tell hardly more. */
const MOST_LOOKS = 24;

/** Complex spectra of both sides of a position, look by look. */
interface Looks {
  left: Float64Array[];
  right: Float64Array[];
}

/** Both sides go through one transform, as real and imaginary part. */
function looksOf(
  { left, right }: ApartPosition,
  fft: FFT,
  window: Float64Array,
  starts: readonly number[],
): Looks {
  const looks: Looks = { left: [], right: [] };
  const input = new Float64Array(2 * SIZE);
  const both = new Float64Array(2 * SIZE);
  for (const start of starts) {
    for (let i = 0; i < SIZE; i++) {
      input[2 * i] = (left[start + i] ?? 0) * window[i];
      input[2 * i + 1] = (right[start + i] ?? 0) * window[i];
    }
    fft.transform(both as unknown as number[], input as unknown as number[]);
    const [ownLeft, ownRight] = [new Float64Array(SIZE), new Float64Array(SIZE)];
    // Only what is used is kept: bins up to half the rate.
    for (let k = 1; k < SIZE / 2; k++) {
      const [a, b] = [both[2 * k], both[2 * k + 1]];
      const [c, d] = [both[2 * (SIZE - k)], both[2 * (SIZE - k) + 1]];
      ownLeft[2 * k] = (a + c) / 2;
      ownLeft[2 * k + 1] = (b - d) / 2;
      ownRight[2 * k] = (b + d) / 2;
      ownRight[2 * k + 1] = (c - a) / 2;
    }
    looks.left.push(ownLeft);
    looks.right.push(ownRight);
  }
  return looks;
}

const powerOf = (looks: readonly Float64Array[]) =>
  looks.reduce((sum, look) => look.reduce((own, value) => own + value * value, sum), 0);

/** Where looks begin: the loudest of those in which the position plays, in order. */
function startsOf({ left, right }: ApartPosition): number[] {
  const looks: { at: number; power: number }[] = [];
  for (let at = 0; at === 0 || at + SIZE <= left.length; at += SIZE / 2) {
    let power = 0;
    for (let i = at; i < Math.min(at + SIZE, left.length); i++) power += left[i] ** 2 + right[i] ** 2;
    looks.push({ at, power });
  }
  looks.sort((a, b) => b.power - a.power);
  const least = looks[0].power * 10 ** (-QUIET_DB / 10);
  return looks
    .filter(({ power }) => power > 0 && power >= least)
    .slice(0, MOST_LOOKS)
    .map(({ at }) => at)
    .sort((a, b) => a - b);
}

interface Lag {
  frames: number;
  certainty: number;
  isInverted: boolean;
}

/**
 * Cross-correlation of y against x for lags −MOST_FRAMES … MOST_FRAMES by phases alone, look by look (C. H. Knapp & G. C. Carter 1976,
 * phase transform): breath and bow, which are soft and broad, tell arrivals; tones, which are loud and narrow, do not.
 */
function correlation(x: readonly Float64Array[], y: readonly Float64Array[], fft: FFT): Float64Array {
  const cross = new Float64Array(2 * SIZE);
  const [from, to] = [LOW_HZ, HIGH_HZ].map((hz) => Math.round((hz * SIZE) / ENGINE_RATE));
  for (let k = from; k <= to; k++) {
    let [re, im] = [0, 0];
    for (let l = 0; l < x.length; l++) {
      const [a, b, c, d] = [x[l][2 * k], x[l][2 * k + 1], y[l][2 * k], y[l][2 * k + 1]];
      const [ownRe, ownIm] = [a * c + b * d, a * d - b * c];
      const size = Math.hypot(ownRe, ownIm);
      if (!(size > 0)) continue;
      re += ownRe / size;
      im += ownIm / size;
    }
    cross[2 * k] = re / x.length;
    cross[2 * k + 1] = im / x.length;
    cross[2 * (SIZE - k)] = cross[2 * k];
    cross[2 * (SIZE - k) + 1] = -cross[2 * k + 1];
  }
  const time = new Float64Array(2 * SIZE);
  fft.inverseTransform(time as unknown as number[], cross as unknown as number[]);
  return Float64Array.from({ length: 2 * MOST_FRAMES + 1 }, (_, i) => {
    const lag = i - MOST_FRAMES;
    return time[2 * ((lag + SIZE) % SIZE)];
  });
}

/**
 * What two correlations have in common, the second read `shift` frames further on: their geometric mean where they agree in sign.
 * Both sides of the first position hear the same direct sound, while what its tail has in common with another differs between them.
 */
function shared(a: Float64Array, b: Float64Array, shift: number): Float64Array {
  return a.map((value, i) => {
    const other = b[i + shift] ?? 0;
    return value * other > 0 ? Math.sign(value) * Math.sqrt(value * other) : 0;
  });
}

/** The first peak that is about as high as the highest: what comes later are reflections. */
function firstPeak(values: Float64Array): Lag {
  let top = 0;
  let squares = 0;
  for (const value of values) {
    top = Math.max(top, Math.abs(value));
    squares += value * value;
  }
  if (!(top > 0)) return { frames: 0, certainty: 0, isInverted: false };
  const size = (i: number) => Math.abs(values[i] ?? 0);
  let at = 0;
  while (size(at) < FIRST_SHARE * top || size(at) < size(at + 1)) at++;
  const bend = size(at - 1) - 2 * size(at) + size(at + 1);
  const between = bend < 0 ? (size(at - 1) - size(at + 1)) / (2 * bend) : 0;
  return {
    frames: at - MOST_FRAMES + between,
    certainty: Math.max(0, 1 - (CHANCE * Math.sqrt(squares / values.length)) / size(at)),
    isInverted: values[at] < 0,
  };
}

/**
 * When each position hears the section, by cross-correlation with the first in the list, and whether its polarity is turned over.
 * A pair's arrival is the mean of those of its two sides. Silent positions are left out.
 * @param apart near positions first
 */
export function arrivalsOf(apart: Apart): Arrival[] {
  const sounding = apart.filter(({ left, right }) => left.some(Boolean) || right.some(Boolean));
  if (sounding.length === 0) return [];
  const fft = new FFT(SIZE);
  const window = hann(SIZE);
  const [first, ...others] = sounding;
  const starts = startsOf(first);
  const { left, right } = looksOf(first, fft, window, starts);
  const [leftSounds, rightSounds] = [powerOf(left), powerOf(right)].map(
    (power, _, both) => power >= Math.max(...both) * 10 ** (-SILENT_DB / 10),
  );
  const ownLag = leftSounds && rightSounds ? firstPeak(correlation(left, right, fft)).frames : 0;
  const lag = (looks: readonly Float64Array[]) => {
    if (!leftSounds || !rightSounds) return firstPeak(correlation(leftSounds ? left : right, looks, fft));
    // What the right of the first hears `ownLag` later comes so much less late against it.
    const fromRight = correlation(right, looks, fft);
    return firstPeak(shared(correlation(left, looks, fft), fromRight, -Math.round(ownLag)));
  };
  const found = others.map((position): Arrival & { frames: number } => {
    const looks = looksOf(position, fft, window, starts);
    const sides = [looks.left, looks.right];
    const loudest = Math.max(...sides.map(powerOf));
    const heard = sides.filter((side) => powerOf(side) >= loudest * 10 ** (-SILENT_DB / 10)).map(lag);
    const [a, b] = [heard[0], heard[heard.length - 1]];
    return {
      id: position.id,
      delaySeconds: 0,
      frames: (a.frames + b.frames) / 2 - ownLag / 2,
      certainty: a.isInverted === b.isInverted ? Math.min(a.certainty, b.certainty) : 0,
      isInverted: a.isInverted,
    };
  });
  const all = [{ id: first.id, frames: 0, certainty: 1, isInverted: false }, ...found];
  const sure = all.filter(({ certainty }) => certainty >= LEAST_CERTAINTY);
  const earliest = Math.min(...sure.map(({ frames }) => frames));
  return all.map(({ id, frames, certainty, isInverted }) => ({
    id,
    delaySeconds: (frames - earliest) / ENGINE_RATE,
    isInverted,
    certainty,
  }));
}

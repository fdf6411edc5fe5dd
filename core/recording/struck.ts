import { Random } from '../dsp/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** One partial of something struck: frequency against the strike note, level, time to 1/e in seconds. */
export interface Partial {
  ratio: number;
  level: number;
  decay: number;
}

/** Something struck or plucked. */
export interface Struck {
  partials: readonly Partial[];
  /** How fast decays shorten with pitch: time × (reference / pitch) to this power. */
  shorten: number;
  referenceHz: number;
  /** Noise of the stroke: level, time to 1/e in seconds, and the band it lies in, hertz. */
  noise: { level: number; decay: number; lowHz: number; highHz: number };
  attackSeconds: number;
}

/** Partials of a stiff string: n·√(1 + B·n²). @param count how many */
export function stringPartials(count: number, stiffness: number, slope: number, decay: number): Partial[] {
  return Array.from({ length: count }, (_, i) => {
    const n = i + 1;
    return {
      ratio: n * Math.sqrt(1 + stiffness * n * n),
      level: 1 / n ** slope,
      decay: decay / (1 + 0.28 * i),
    };
  });
}

/**
 * Adds a stroke to a buffer. Harder strokes are brighter: partial levels fall as ratio to a power that shrinks with force.
 * @param at seconds after the buffer's start
 */
export function strike(
  out: Float32Array,
  struck: Struck,
  pitchHz: number,
  force: number,
  level: number,
  at: number,
  random: Random,
): void {
  const start = Math.round(at * ENGINE_RATE);
  const shorter = (struck.referenceHz / pitchHz) ** struck.shorten;
  for (const partial of struck.partials) {
    const hz = pitchHz * partial.ratio * (1 + random.normal() * 0.0012);
    if (hz > ENGINE_RATE * 0.4) continue;
    const soften = partial.ratio > 1 ? partial.ratio ** (-1.1 * (1 - force)) : 1;
    addDecaying(
      out,
      start,
      hz,
      level * partial.level * soften * 10 ** (random.normal() * 0.03),
      partial.decay * shorter,
      struck.attackSeconds,
      random.next() * 6.283,
    );
  }
  if (struck.noise.level > 0)
    addNoise(out, start, struck.noise, level * struck.noise.level * (0.4 + 0.6 * force), random);
}

/** A sine that dies away, by the recurrence of a rotating pair. */
function addDecaying(
  out: Float32Array,
  start: number,
  hz: number,
  level: number,
  decay: number,
  attack: number,
  phase: number,
): void {
  const w = (2 * Math.PI * hz) / ENGINE_RATE;
  const shrink = Math.exp(-1 / (decay * ENGINE_RATE));
  const cos = Math.cos(w) * shrink;
  const sin = Math.sin(w) * shrink;
  let re = level * Math.cos(phase);
  let im = level * Math.sin(phase);
  const rise = Math.max(1, Math.round(attack * ENGINE_RATE));
  const end = Math.min(out.length, start + Math.round(decay * 9 * ENGINE_RATE));
  for (let i = start; i < end; i++) {
    const since = i - start;
    out[i] += since < rise ? (im * since) / rise : im;
    const next = re * cos - im * sin;
    im = re * sin + im * cos;
    re = next;
  }
}

/** Noise in a band that dies away. */
export function addNoise(
  out: Float32Array,
  start: number,
  band: { decay: number; lowHz: number; highHz: number; attack?: number },
  level: number,
  random: Random,
): void {
  const lowPole = 1 - Math.exp((-2 * Math.PI * band.highHz) / ENGINE_RATE);
  const highPole = 1 - Math.exp((-2 * Math.PI * band.lowHz) / ENGINE_RATE);
  const shrink = Math.exp(-1 / (band.decay * ENGINE_RATE));
  const rise = Math.max(24, (band.attack ?? 0.0006) * ENGINE_RATE);
  const end = Math.min(out.length, start + Math.round(band.decay * 9 * ENGINE_RATE));
  let low = 0;
  let slow = 0;
  let gain = level;
  for (let i = start; i < end; i++) {
    low += lowPole * (random.next() * 2 - 1 - low);
    slow += highPole * (low - slow);
    out[i] += (low - slow) * gain * Math.min(1, (i - start) / rise);
    gain *= shrink;
  }
}

/** Noise whose loudness follows a curve, for swells and rolls. @param loudness of a time in seconds */
export function addShapedNoise(
  out: Float32Array,
  band: { lowHz: number; highHz: number },
  loudness: (time: number) => number,
  random: Random,
): void {
  const lowPole = 1 - Math.exp((-2 * Math.PI * band.highHz) / ENGINE_RATE);
  const highPole = 1 - Math.exp((-2 * Math.PI * band.lowHz) / ENGINE_RATE);
  let low = 0;
  let slow = 0;
  let gain = loudness(0);
  let step = 0;
  for (let i = 0; i < out.length; i++) {
    if (i % 64 === 0) step = (loudness((i + 64) / ENGINE_RATE) - gain) / 64;
    gain += step;
    low += lowPole * (random.next() * 2 - 1 - low);
    slow += highPole * (low - slow);
    out[i] += (low - slow) * gain;
  }
}

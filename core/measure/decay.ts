/** What was heard of a sound dying away. */
export interface Decay {
  /** Seconds in which the level falls by 60 dB, extrapolated from the part that was heard. */
  seconds: number;
  /** Decibels of decay the figure rests on: 30 (T30), 20 (T20) or 10. */
  rangeDb: number;
}

/** Powers are looked at in steps of this length. */
export const STEP_SECONDS = 0.005;
/** Decay begins to count this far below the start, as ISO 3382-1 asks. */
const FROM_DB = 5;
/** What is beyond the end is guessed anew until the decay changes by less than this share of itself, so often at most. */
const SETTLED = 1e-4;
const PASSES = 50;
/** From how many last points it is guessed. */
const LAST_POINTS = 10;
/** After a sound is let go, its direct part takes so long to end. */
export const SETTLE_SECONDS = 0.02;

/** Mean square of all channels every 5 ms from a frame on. Allocates. */
export function powerEvery5ms(
  channels: readonly Float32Array[],
  rate: number,
  from: number,
  to: number,
): Float64Array {
  const hop = STEP_SECONDS * rate;
  const end = Math.min(to, channels[0].length);
  const count = Math.max(0, Math.floor((end - from) / hop));
  const power = new Float64Array(count);
  for (const channel of channels)
    for (let p = 0; p < count; p++) {
      const start = from + Math.round(p * hop);
      const stop = from + Math.round((p + 1) * hop);
      let sum = 0;
      for (let i = start; i < stop; i++) sum += channel[i] * channel[i];
      power[p] += sum / (stop - start);
    }
  return power;
}

/**
 * Decay time by backward integration (M. R. Schroeder 1965, ISO 3382-1): the slope between −5 and −35 dB, or −25 or −15
 * where noise leaves no more. Noise is taken from the last tenth and held out. Undefined when nothing decays by 15 dB.
 * @param channels a sound that is let go at frame `from`
 */
export function decayOf(
  channels: readonly Float32Array[],
  rate: number,
  from: number,
  to: number,
): Decay | undefined {
  return decayOfPower(powerEvery5ms(channels, rate, from, to));
}

/** Mean of the last tenth: what is there when a sound has died away, or so much of it as is left. */
export function noiseOf(power: Float64Array): number {
  const tenth = Math.max(4, Math.floor(power.length / 10));
  let noise = 0;
  for (let i = Math.max(0, power.length - tenth); i < power.length; i++) noise += power[i] / tenth;
  return noise;
}

/** The same of powers that are known already, one every 5 ms. @param isCut true where it ends before it comes near its noise */
export function decayOfPower(power: Float64Array, isCut = false): Decay | undefined {
  if (power.length < 20) return undefined;
  const noise = isCut ? 0 : noiseOf(power);
  // Integrate down to where the sound comes near its noise; what lies beyond would bend the line.
  let end = power.length;
  while (end > 1 && power[end - 1] < noise * 2) end--;
  if (end < 20) return undefined;
  // What the integration leaves off at its end is added as if the decay went on (ISO 3382-1, correction for truncation): first none,
  // then what the decay so found leaves. Where what is added leaves no range to tell it by, it had been told by the cut.
  let last = 0;
  for (let i = end - LAST_POINTS; i < end; i++) last += Math.max(0, power[i] - noise);
  let found = decayFrom(power, noise, end, 0);
  for (let pass = 0; found && pass < PASSES; pass++) {
    const before = found.seconds;
    const perPoint = (Math.log(1e6) / before) * STEP_SECONDS;
    found = decayFrom(power, noise, end, last / Math.expm1(LAST_POINTS * perPoint));
    if (found && Math.abs(found.seconds / before - 1) < SETTLED) break;
  }
  return found;
}

/** @param beyond power that lies beyond the end of the integration */
function decayFrom(power: Float64Array, noise: number, end: number, beyond: number): Decay | undefined {
  const curve = new Float64Array(end);
  let sum = beyond;
  for (let i = end - 1; i >= 0; i--) curve[i] = sum += Math.max(0, power[i] - noise);
  const total = curve[0];
  if (!(total > 0)) return undefined;
  const db = curve.map((value) => 10 * Math.log10(Math.max(value / total, 1e-12)));
  for (const rangeDb of [30, 20, 10]) {
    const first = db.findIndex((value) => value <= -FROM_DB);
    const last = db.findIndex((value) => value <= -FROM_DB - rangeDb);
    // The last stretch before the end bends downwards; keep out of it.
    if (first < 0 || last < 0 || last > end * 0.85 || last - first < 4) continue;
    const slope = slopeOf(db, first, last);
    if (slope < 0) return { seconds: (-60 / slope) * STEP_SECONDS, rangeDb };
  }
  return undefined;
}

/** Least-squares slope of points [from, to], per step. */
function slopeOf(values: ArrayLike<number>, from: number, to: number): number {
  const middle = (from + to) / 2;
  let xy = 0;
  let xx = 0;
  for (let i = from; i <= to; i++) {
    xy += (i - middle) * values[i];
    xx += (i - middle) ** 2;
  }
  return xy / xx;
}

/** Seconds from a frame until the level stays 60 dB below the loudest 5 ms before it; the sound's own length when it never does. */
export function tailSeconds(channels: readonly Float32Array[], rate: number, from: number): number {
  const power = powerEvery5ms(channels, rate, 0, channels[0].length);
  const start = Math.floor(from / (STEP_SECONDS * rate));
  let loudest = 0;
  for (let i = 0; i < power.length; i++) loudest = Math.max(loudest, power[i]);
  let last = power.length - 1;
  while (last > start && power[last] < loudest * 1e-6) last--;
  return Math.max(0, last + 1 - start) * STEP_SECONDS;
}

/** What was heard of a sound dying away. */
export interface Decay {
  /** Seconds in which the level falls by 60 dB, extrapolated from the part that was heard. */
  seconds: number;
  /** Decibels of decay the figure rests on: 30 (T30), 20 (T20) or 10. */
  rangeDb: number;
}

const HOP_SECONDS = 0.005;
/** Decay begins to count this far below the start, as ISO 3382-1 asks. */
const FROM_DB = 5;
/** How often what is beyond the end is guessed anew, and from how many last points. */
const PASSES = 3;
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
  const hop = HOP_SECONDS * rate;
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
function noiseOf(power: Float64Array): number {
  const tenth = Math.max(4, Math.floor(power.length / 10));
  let noise = 0;
  for (let i = Math.max(0, power.length - tenth); i < power.length; i++) noise += power[i] / tenth;
  return noise;
}

/** The same of powers that are known already, one every 5 ms: for decays of several sounds added up. */
export function decayOfPower(power: Float64Array): Decay | undefined {
  if (power.length < 20) return undefined;
  const noise = noiseOf(power);
  // Integrate down to where the sound comes near its noise; what lies beyond would bend the line.
  let end = power.length;
  while (end > 1 && power[end - 1] < noise * 2) end--;
  if (end < 20) return undefined;
  // What the integration leaves off at its end is added as if the decay went on (ISO 3382-1, correction for truncation): first none,
  // then what the decay so found leaves.
  let found = decayFrom(power, noise, end, 0);
  for (let pass = 0; found && pass < PASSES; pass++) {
    let last = 0;
    for (let i = end - LAST_POINTS; i < end; i++) last += Math.max(0, power[i] - noise) / LAST_POINTS;
    const perPoint = (Math.log(1e6) / found.seconds) * HOP_SECONDS;
    found = decayFrom(power, noise, end, last / perPoint) ?? found;
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
    if (slope < 0) return { seconds: (-60 / slope) * HOP_SECONDS, rangeDb };
  }
  return undefined;
}

/** Least-squares slope of points [from, to], per step. */
function slopeOf(values: ArrayLike<number>, from: number, to: number): number {
  const count = to - from + 1;
  const middle = (from + to) / 2;
  let mean = 0;
  for (let i = from; i <= to; i++) mean += values[i] / count;
  let xy = 0;
  let xx = 0;
  for (let i = from; i <= to; i++) {
    xy += (i - middle) * (values[i] - mean);
    xx += (i - middle) ** 2;
  }
  return xy / xx;
}

/** Powers of a sound that was steady for a while and is let go: all of it, and the room's part once it would be full. */
export interface RoomShare {
  whole: number;
  /** The room's power at the end of the sound, and what it would be had the sound gone on for ever. */
  room: number;
  full: number;
}

/**
 * What the room has of a sound that is let go at a known frame. At that moment the direct sound ends and the room begins to die away:
 * the line of its decay, drawn back to the end of the sound, gives the room's share. A sound of length D has filled the room only up
 * to 1 − e^(−D·13.8/T); that is allowed for. Undefined when too little is there.
 * @param letGo in the middle of the moment in which the direct sound ends; see `middleOfFall`
 * @param decaySeconds of the room
 */
export function roomShareOf(
  channels: readonly Float32Array[],
  rate: number,
  onset: number,
  letGo: number,
  decaySeconds: number,
): RoomShare | undefined {
  // The direct sound's own end takes a moment.
  const settle = Math.round(SETTLE_SECONDS * rate);
  const sounding = powerEvery5ms(channels, rate, Math.max(onset, letGo - Math.round(0.2 * rate)), letGo);
  const tail = powerEvery5ms(channels, rate, letGo + settle, letGo + settle + Math.round(0.12 * rate));
  if (sounding.length === 0 || tail.length < 8) return undefined;
  const noise = noiseOf(powerEvery5ms(channels, rate, letGo + settle, channels[0].length));
  const perSecond = Math.log(1e6) / decaySeconds;
  // Each point of the tail tells the room's power at the end; their mean steadies it.
  let room = 0;
  for (let i = 0; i < tail.length; i++)
    room +=
      (Math.max(0, tail[i] - noise) * Math.exp(perSecond * (SETTLE_SECONDS + (i + 0.5) * HOP_SECONDS))) /
      tail.length;
  const whole = sounding.reduce((sum, value) => sum + value, 0) / sounding.length - noise;
  return { whole, room, full: room / (1 - Math.exp((-perSecond * (letGo - onset)) / rate)) };
}

/** Steps of 5 ms before and behind an end in which its middle is looked for, and that tell what goes on before. */
const FALL_STEPS = 10;
const HELD_STEPS = 40;
const TAIL_STEPS = 24;

/**
 * Frame at which half of the direct sound has ended, from a rough one: where what is above the middle between the held sound and its room
 * parts best from what is below it. Left where it is when no direct sound stands out of the room.
 * @param over last frame at which the sound was about as loud as before; @param decaySeconds of the room
 */
export function middleOfFall(
  channels: readonly Float32Array[],
  rate: number,
  onset: number,
  over: number,
  decaySeconds: number,
): number {
  const power = powerEvery5ms(channels, rate, onset, channels[0].length);
  const perStep = (Math.log(1e6) / decaySeconds) * HOP_SECONDS;
  const settle = Math.round(SETTLE_SECONDS / HOP_SECONDS);
  let at = Math.round((over - onset) / (HOP_SECONDS * rate));
  for (let pass = 0; pass < PASSES; pass++) {
    const held = power.subarray(Math.max(0, at - HELD_STEPS), Math.max(1, at - 1));
    const tail = power.subarray(at + settle, at + settle + TAIL_STEPS);
    if (tail.length === 0) break;
    const level = held.reduce((sum, value) => sum + value, 0) / held.length;
    const room =
      tail.reduce((sum, value, i) => sum + value * Math.exp(perStep * (settle + i + 0.5)), 0) / tail.length;
    if (level <= room) break;
    let [best, most, sum] = [at, -Infinity, 0];
    const last = Math.min(power.length, at + FALL_STEPS);
    for (let i = Math.max(0, at - FALL_STEPS); i < last; i++) {
      sum += power[i] - (level + room) / 2;
      if (sum > most) [best, most] = [i + 1, sum];
    }
    if (best === at) break;
    at = best;
  }
  return onset + Math.round(at * HOP_SECONDS * rate);
}

/**
 * Direct sound against the room in dB, of sounds added up: of one tone a room gives back more or less than of another. Undefined when
 * no direct sound is heard beside the room.
 */
export function directToRoomDb(shares: readonly RoomShare[]): number | undefined {
  let [direct, full] = [0, 0];
  for (const one of shares) {
    direct += one.whole - one.room;
    full += one.full;
  }
  return direct > 0 && full > 0 ? 10 * Math.log10(direct / full) : undefined;
}

/** Seconds from a frame until the level stays 60 dB below the loudest 5 ms before it; the sound's own length when it never does. */
export function tailSeconds(channels: readonly Float32Array[], rate: number, from: number): number {
  const power = powerEvery5ms(channels, rate, 0, channels[0].length);
  const start = Math.floor(from / (HOP_SECONDS * rate));
  let loudest = 0;
  for (let i = 0; i < power.length; i++) loudest = Math.max(loudest, power[i]);
  let last = power.length - 1;
  while (last > start && power[last] < loudest * 1e-6) last--;
  return Math.max(0, last + 1 - start) * HOP_SECONDS;
}

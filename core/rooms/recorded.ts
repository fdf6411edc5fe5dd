import { Biquad, type HallResponse } from '../dsp/index.ts';
import { clamp, ENGINE_RATE, exp, exp10, exp2 } from '../units/index.ts';
import { cuts, EARLY_SECONDS, HALL_LIMITS, type HallSettings } from './response.ts';

/** A hall that was recorded: an impulse response with one, two or four channels at 48 kHz, alike in length. */
export interface RecordedHall {
  /**
   * Mono; left and right of a source in the middle; or of a source at the left its left and its right, and of one at the right its
   * left and its right.
   */
  channels: readonly Float32Array[];
  /** In which it falls by 60 dB, seconds. */
  decaySeconds: number;
}

/** A decay that is lengthened lifts what is faint by no more than this. */
const MOST_LIFT_DB = 30;
/** Treble dies no later than it was recorded. */
const DAMPING_AS_RECORDED = 0.5;
/** Power of the response of each side: as much as Harbour Hall gives back, so that halls are changed without a leap. */
const POWER = 1.39;

/**
 * What a recorded hall answers to sends. Its size stretches it in time, its decay is made shorter or longer by an exponential, its
 * treble dies sooner with damping above a half. All are brought to the same power.
 */
export function recordedResponse(hall: RecordedHall, settings: HallSettings): HallResponse {
  const within = (name: keyof HallSettings) =>
    clamp(settings[name], HALL_LIMITS[name][0], HALL_LIMITS[name][1]);
  const size = within('size');
  const wait = Math.round((within('preDelayMs') / 1000) * ENGINE_RATE);
  const filters = cuts(within('lowCutHz'), within('highCutHz'));
  const made = hall.channels.map((channel) => {
    const stretched = stretchedBy(channel, size);
    // What is stretched rings as much longer.
    decayed(stretched, hall.decaySeconds * size, within('decaySeconds'));
    damped(stretched, within('damping'));
    const out = new Float32Array(wait + stretched.length);
    out.set(stretched, wait);
    for (const filter of filters) new Biquad(filter).process(out, out, 0, out.length);
    return out;
  });
  const earlyFrames = wait + Math.round(EARLY_SECONDS * ENGINE_RATE);
  if (made.length === 1) {
    const [left] = asStrong([[made[0]]]);
    return { left: left[0], right: left[0].slice(), earlyFrames };
  }
  // Of two channels each side is heard as a source in the middle was.
  const [ll, lr, rl, rr] = made.length === 4 ? made : [made[0], made[1], made[0].slice(), made[1].slice()];
  const [[left, leftToRight], [rightToLeft, right]] = asStrong([
    [ll, lr],
    [rl, rr],
  ]);
  return { left, right, cross: { leftToRight, rightToLeft }, earlyFrames };
}

/** Longer or shorter by a factor: read between frames along a cubic (Catmull–Rom). */
function stretchedBy(channel: Float32Array, factor: number): Float32Array {
  if (factor === 1) return channel.slice();
  const out = new Float32Array(Math.ceil(channel.length * factor));
  const at = (i: number) => (i >= 0 && i < channel.length ? channel[i] : 0);
  for (let i = 0; i < out.length; i++) {
    const place = i / factor;
    const k = Math.floor(place);
    const f = place - k;
    const [a, b, c, d] = [at(k - 1), at(k), at(k + 1), at(k + 2)];
    out[i] = b + 0.5 * f * (c - a + f * (2 * a - 5 * b + 4 * c - d + f * (3 * (b - c) + d - a)));
  }
  return out;
}

function decayed(channel: Float32Array, from: number, to: number): void {
  const slope = 3 / from - 3 / to;
  if (slope === 0) return;
  const most = exp10(MOST_LIFT_DB / 20);
  for (let i = 0; i < channel.length; i++) channel[i] *= Math.min(most, exp10((slope * i) / ENGINE_RATE));
}

/** Treble dies in time: a one-pole whose corner falls the sooner, the more damping there is. */
function damped(channel: Float32Array, damping: number): void {
  const more = damping - DAMPING_AS_RECORDED;
  if (more <= 0) return;
  const seconds = 0.6 * exp2(-6 * more);
  let low = 0;
  for (let i = 0; i < channel.length; i++) {
    const pole = exp((-2 * Math.PI * (20_000 * exp(-i / ENGINE_RATE / seconds) + 700)) / ENGINE_RATE);
    low += (1 - pole) * (channel[i] - low);
    channel[i] = low;
  }
}

/** Sides with all that they answer brought to the same power, in the mean. */
function asStrong(sides: Float32Array[][]): Float32Array[][] {
  let power = 0;
  for (const side of sides) for (const channel of side) for (const value of channel) power += value * value;
  power /= sides.length;
  const gain = power > 0 ? Math.sqrt(POWER / power) : 0;
  return sides.map((side) => side.map((channel) => channel.map((value) => value * gain)));
}

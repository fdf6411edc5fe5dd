/** What was heard of a pitch that moves to and fro. */
export interface Vibrato {
  /** Times a second. */
  hertz: number;
  /** Greatest distance from the middle, in cents (half of the whole width). */
  cents: number;
}

const HOP_SECONDS = 0.01;
const WINDOW_SECONDS = 0.04;
const SLOWEST_HZ = 3.5;
const FASTEST_HZ = 8.5;

/**
 * Cents by which a tone stands off a pitch, every 10 ms: the phase of one partial, brought down to 0 Hz and averaged over
 * 40 ms, followed from step to step. Allocates.
 * @param partialHz frequency of a strong partial when the tone is in tune
 */
export function pitchTrackCents(
  signal: Float32Array,
  rate: number,
  partialHz: number,
  from: number,
  to: number,
): Float64Array {
  const hop = Math.round(HOP_SECONDS * rate);
  const half = Math.round((WINDOW_SECONDS * rate) / 2);
  const count = Math.max(0, Math.floor((Math.min(to, signal.length) - from - 2 * half) / hop));
  const phases = new Float64Array(count);
  const w = (2 * Math.PI * partialHz) / rate;
  for (let p = 0; p < count; p++) {
    const centre = from + half + p * hop;
    let re = 0;
    let im = 0;
    for (let i = -half; i < half; i++) {
      const weight = 0.5 + 0.5 * Math.cos((Math.PI * i) / half);
      const value = signal[centre + i] * weight;
      re += value * Math.cos(w * (centre + i));
      im -= value * Math.sin(w * (centre + i));
    }
    phases[p] = Math.atan2(im, re);
  }
  const cents = new Float64Array(Math.max(0, count - 1));
  for (let p = 0; p + 1 < count; p++) {
    let turn = phases[p + 1] - phases[p];
    turn -= 2 * Math.PI * Math.round(turn / (2 * Math.PI));
    const hertz = partialHz + turn / (2 * Math.PI * (hop / rate));
    cents[p] = 1200 * Math.log2(Math.max(1e-3, hertz) / partialHz);
  }
  return cents;
}

/**
 * Vibrato of a tone: the strongest regular movement of its pitch between 3.5 and 8.5 a second. Undefined when the tone is
 * too short; a tone that does not move gives hardly any cents.
 */
export function vibratoOf(
  signal: Float32Array,
  rate: number,
  partialHz: number,
  from: number,
  to: number,
): Vibrato | undefined {
  const track = pitchTrackCents(signal, rate, partialHz, from, to);
  if (track.length < 50) return undefined;
  const mean = track.reduce((sum, value) => sum + value, 0) / track.length;
  let best: Vibrato = { hertz: SLOWEST_HZ, cents: 0 };
  for (let hertz = SLOWEST_HZ; hertz <= FASTEST_HZ; hertz += 0.1) {
    let re = 0;
    let im = 0;
    let weights = 0;
    for (let i = 0; i < track.length; i++) {
      const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / track.length);
      const angle = 2 * Math.PI * hertz * i * HOP_SECONDS;
      re += weight * (track[i] - mean) * Math.cos(angle);
      im += weight * (track[i] - mean) * Math.sin(angle);
      weights += weight;
    }
    const cents = (2 * Math.hypot(re, im)) / weights;
    if (cents > best.cents) best = { hertz, cents };
  }
  // The averaging over 40 ms flattens what moves quickly: a Hann window's response at that rate, made good.
  const x = best.hertz * WINDOW_SECONDS;
  const kept = x === 0 ? 1 : Math.abs(Math.sin(Math.PI * x) / (Math.PI * x * (1 - x * x)));
  return { hertz: best.hertz, cents: best.cents / kept };
}

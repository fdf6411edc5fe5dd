/** Distance between two points of an attack envelope. */
export const HOP_SECONDS = 0.002;
const ENVELOPE_SECONDS = 0.4;
const WINDOW_SECONDS = 0.006;
/** Share of the greatest power at which a sound begins to stir: −20 dB. */
const STIRS = 0.01;
/** Share of its first height at which it speaks: −10 dB. */
const SPEAKS = 0.1;
const HEIGHT_POINTS = 75;

/**
 * Short-term power of a stereo or mono recording every 2 ms over its first 0.4 s: mean square of the
 * first difference (+6 dB an octave) over a centred window of 6 ms, channels added. The lift gives all
 * partials a like say: the fundamentals of many players beat, and their sum alone would speak by chance. Allocates.
 * @param channels equal-length arrays
 * @param from first frame
 */
export function attackEnvelope(channels: readonly Float32Array[], rate: number, from = 0): Float64Array {
  return sharedEnvelope(channels, channels, rate, from);
}

/**
 * The same of the product of two recordings: how much power they add to each other's when sounded together, so that
 * |g·a + h·b|² = g²·aa + 2gh·ab + h²·bb. Allocates.
 */
export function sharedEnvelope(
  a: readonly Float32Array[],
  b: readonly Float32Array[],
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
      for (let i = Math.max(1, start); i < end; i++) sum += (x[i] - x[i - 1]) * (y[i] - y[i - 1]);
      envelope[p] += sum / (2 * half);
    }
  });
  return envelope;
}

/**
 * Time at which a sound speaks: from where its envelope first comes within 20 dB of its height, the first moment
 * within 10 dB of what it reaches in the next 0.15 s, straight between points. What comes later, a swell or the next
 * note, has no say. 0 when it is silent.
 * @param power one value every `HOP_SECONDS`
 */
export function onsetOfEnvelope(power: ArrayLike<number>): number {
  let overall = 0;
  for (let i = 0; i < power.length; i++) overall = Math.max(overall, power[i]);
  if (overall <= 0) return 0;
  let first = 0;
  while (power[first] < overall * STIRS) first++;
  let height = 0;
  for (let i = first; i < Math.min(power.length, first + HEIGHT_POINTS); i++)
    height = Math.max(height, power[i]);
  const threshold = height * SPEAKS;
  let at = first;
  while (power[at] < threshold) at++;
  if (at === 0) return 0;
  const below = Math.sqrt(power[at - 1]);
  const share = (Math.sqrt(threshold) - below) / (Math.sqrt(power[at]) - below);
  return (at - 1 + Math.min(1, Math.max(0, share))) * HOP_SECONDS;
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

/** Distance between two points of an attack envelope. */
export const HOP_SECONDS = 0.002;
const ENVELOPE_SECONDS = 0.4;
const WINDOW_SECONDS = 0.006;
/** A sound is said to speak where its level first comes within this of its first height. */
const SPEAKS_BELOW_DB = 10;

/**
 * Short-term power of a stereo or mono recording every 2 ms over its first 0.4 s: mean square of the
 * first difference (+6 dB an octave) over a centred window of 6 ms, channels added. The lift gives all
 * partials a like say: the fundamentals of many players beat, and their sum alone would speak by chance. Allocates.
 * @param channels equal-length arrays
 * @param from first frame
 */
export function attackEnvelope(channels: readonly Float32Array[], rate: number, from = 0): Float64Array {
  const half = Math.round((WINDOW_SECONDS * rate) / 2);
  const points = Math.round(ENVELOPE_SECONDS / HOP_SECONDS);
  const envelope = new Float64Array(points);
  for (const channel of channels)
    for (let p = 0; p < points; p++) {
      const centre = from + Math.round(p * HOP_SECONDS * rate);
      let sum = 0;
      const start = Math.max(0, centre - half);
      const end = Math.min(channel.length, centre + half);
      for (let i = Math.max(1, start); i < end; i++) sum += (channel[i] - channel[i - 1]) ** 2;
      envelope[p] += sum / (2 * half);
    }
  return envelope;
}

/**
 * Time at which an envelope first comes within 10 dB of its highest power, straight between
 * points; 0 when it is silent.
 * @param power one value every `HOP_SECONDS`
 */
export function onsetOfEnvelope(power: ArrayLike<number>): number {
  let highest = 0;
  for (let i = 0; i < power.length; i++) highest = Math.max(highest, power[i]);
  const threshold = highest * 10 ** (-SPEAKS_BELOW_DB / 10);
  if (highest <= 0) return 0;
  for (let i = 0; i < power.length; i++)
    if (power[i] >= threshold) {
      if (i === 0) return 0;
      const below = Math.sqrt(power[i - 1]);
      const share = (Math.sqrt(threshold) - below) / (Math.sqrt(power[i]) - below);
      return (i - 1 + share) * HOP_SECONDS;
    }
  return 0;
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

import { hann, magnitudeSpectrum } from '../dsp/index.ts';

const BLOCK = 8192;
/** Above this share of the highest frequency both rates can hold, a filter has to be closing. */
const HEARD_SHARE = 0.9;

/**
 * How far a recording that was converted to another rate and back is from itself, within what both rates can hold: power of the
 * difference against power of the original below nine tenths of the lower rate's highest frequency, over the block that is loudest.
 * @param original, back frames of equal rate; @param rate theirs; @param other the rate it was converted to
 * @returns dB; undefined of silence, and of what is shorter than a block of 8,192 frames
 */
export function conversionErrorDb(
  original: Float32Array,
  back: Float32Array,
  rate: number,
  other: number,
): number | undefined {
  const frames = Math.min(original.length, back.length);
  let from = -1;
  let most = 0;
  for (let at = 0; at + BLOCK <= frames; at += BLOCK) {
    const power = original.subarray(at, at + BLOCK).reduce((sum, value) => sum + value * value, 0);
    if (power > most) [from, most] = [at, power];
  }
  if (from < 0) return undefined;
  const window = hann(BLOCK);
  const bins = Math.floor((HEARD_SHARE * (Math.min(rate, other) / 2) * BLOCK) / rate);
  const powerOf = (frame: (i: number) => number) =>
    magnitudeSpectrum(Float64Array.from(window, (w, i) => w * frame(from + i)))
      .subarray(0, bins + 1)
      .reduce((sum, value) => sum + value * value, 0);
  const whole = powerOf((i) => original[i]);
  if (whole === 0) return undefined;
  return 10 * Math.log10(Math.max(1e-20, powerOf((i) => original[i] - back[i]) / whole));
}

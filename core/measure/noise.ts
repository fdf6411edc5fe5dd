import { powerEvery5ms } from './decay.ts';
import { spectrumOf } from './spectrum.ts';

/** Frames at the end of a recording in which hiss is looked for. */
const END_SECONDS = 0.06;
/** What still dies away differs by more from one stretch to the next. */
const STEADY_DB = 1;
/** Geometric against arithmetic mean of the powers of frequencies: 0.56 for noise looked at once, next to nothing for a tone. */
const LEAST_FLATNESS = 0.15;
const FLAT_HZ = [200, 10_000] as const;

/**
 * Level in dBFS of the hiss under a recording, mean of its channels: of all stretches of 5 ms before the sound speaks the quietest, or
 * its very end, where that is steady noise and quieter. Undefined when it begins at once, or with digital silence, and ends in tone.
 * @param onset frame at which the sound begins
 */
export function noiseFloorDb(
  channels: readonly Float32Array[],
  rate: number,
  onset: number,
): number | undefined {
  const found = [before(channels, rate, onset), atEnd(channels, rate)].filter((one) => one !== undefined);
  return found.length === 0 ? undefined : 10 * Math.log10(Math.min(...found) / channels.length);
}

function before(channels: readonly Float32Array[], rate: number, onset: number): number | undefined {
  // Already before it speaks a sound stirs, so that only the quietest stretch is sure to be hiss alone.
  const power = powerEvery5ms(channels, rate, 0, onset - Math.round(0.002 * rate));
  let least = Infinity;
  for (const value of power) least = Math.min(least, value);
  return power.length < 2 || least < 1e-12 ? undefined : least;
}

function atEnd(channels: readonly Float32Array[], rate: number): number | undefined {
  const frames = channels[0].length;
  const stretch = Math.round(END_SECONDS * rate);
  const from = frames - 2 * stretch;
  if (from < 0) return undefined;
  const power = [from, from + stretch].map((start) => {
    let sum = 0;
    for (const channel of channels)
      for (let i = start; i < start + stretch; i++) sum += (channel[i] * channel[i]) / stretch;
    return sum;
  });
  if (power[1] < 1e-12 || Math.abs(10 * Math.log10(power[0] / power[1])) > STEADY_DB) return undefined;
  const { power: bins, binHz } = spectrumOf(channels, rate, from + stretch, frames, 2048);
  let [sum, logs, count] = [0, 0, 0];
  for (let k = Math.ceil(FLAT_HZ[0] / binHz); k < bins.length && k * binHz < FLAT_HZ[1]; k++) {
    sum += bins[k];
    logs += Math.log(Math.max(1e-30, bins[k]));
    count++;
  }
  return count > 0 && Math.exp(logs / count) >= LEAST_FLATNESS * (sum / count) ? power[1] : undefined;
}

import { powerEvery5ms } from './decay.ts';

/**
 * Level in dBFS of the hiss under a recording: of all stretches of 5 ms before the sound speaks, the quietest; undefined
 * when it begins at once or with digital silence. @param onset frame at which the sound begins
 */
export function noiseFloorDb(
  channels: readonly Float32Array[],
  rate: number,
  onset: number,
): number | undefined {
  // Already before it speaks a sound stirs, so that only the quietest stretch is sure to be hiss alone.
  const power = powerEvery5ms(channels, rate, 0, onset - Math.round(0.002 * rate));
  let least = Infinity;
  for (const value of power) least = Math.min(least, value);
  return power.length < 2 || least < 1e-12 ? undefined : 10 * Math.log10(least / channels.length);
}

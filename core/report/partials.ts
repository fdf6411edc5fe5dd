import type { Partial, Spectrum } from '../measure/index.ts';

const MOST_PARTIALS = 14;
const HIGHEST_HZ = 4000;

/** Highest power near a frequency, three bins wide. */
function powerNear({ power, binHz }: Spectrum, hertz: number): number {
  const bin = Math.round(hertz / binHz);
  let sum = 0;
  for (let k = Math.max(1, bin - 2); k <= Math.min(power.length - 1, bin + 2); k++) sum += power[k];
  return sum;
}

/** Frequency of the strongest of the first six partials. */
export function strongestPartialHz(spectrum: Spectrum, fundamentalHz: number): number {
  let best = fundamentalHz;
  let most = 0;
  for (let h = 1; h <= 6; h++) {
    const power = powerNear(spectrum, h * fundamentalHz);
    if (power > most) [best, most] = [h * fundamentalHz, power];
  }
  return best;
}

/** Partials of a note with their levels in dB. @param gainDb at which it is played */
export function partialsOf(spectrum: Spectrum, fundamentalHz: number, gainDb: number): Partial[] {
  const list: Partial[] = [];
  for (let h = 1; h <= MOST_PARTIALS && h * fundamentalHz < HIGHEST_HZ; h++)
    list.push({
      hertz: Math.round(h * fundamentalHz * 10) / 10,
      levelDb:
        Math.round(10 * (gainDb + 10 * Math.log10(Math.max(1e-12, powerNear(spectrum, h * fundamentalHz))))) /
        10,
    });
  return list;
}

import { cos } from '../units/index.ts';

/**
 * Band-limited interpolation: ten taps from one smooth curve, 1,024 phases, straight lines between phases. The curve is a sum
 * of cosines found by least squares for a pass band up to 15 kHz and a stop band from 33 kHz on (both at 48 kHz): within
 * 0.2 dB up to 14 kHz, −0.5 dB at 15 kHz, images of what lies below 15 kHz at most −80 dB, of 5 kHz and below −92 dB.
 * Method: J. O. Smith, "Digital audio resampling".
 */
export const TAPS = 10;
export const PHASES = 1024;
/** Taps before the sample at the integer position. */
export const TAPS_BEFORE = 4;
/** Frames to either side that the curve reaches. */
export const REACH = TAPS / 2;

/** Weights of cos(π·n·t / REACH) − cos(π·n), n = 1 … 10. */
const COSINES = [
  0.198053534996, 0.202525862535, 0.193988899424, 0.125420371813, 0.0399630255117, 0.00388937669043,
  -1.73892081818e-5, 8.01615899553e-7, 3.19616274289e-6, -4.32679624322e-8,
] as const;

/** The curve at a distance in frames; 0 from `REACH` on. */
export function interpolationCurve(distance: number): number {
  if (Math.abs(distance) >= REACH) return 0;
  let sum = 0;
  for (let n = 1; n <= COSINES.length; n++)
    sum += COSINES[n - 1] * (cos((Math.PI * n * distance) / REACH) - (n % 2 === 0 ? 1 : -1));
  return sum;
}

/** (PHASES + 1) rows of TAPS coefficients; row p serves the fraction p / PHASES. Each row sums to 1. */
export const TAP_TABLE = /* @__PURE__ */ buildTable();

function buildTable(): Float64Array {
  const table = new Float64Array((PHASES + 1) * TAPS);
  for (let phase = 0; phase <= PHASES; phase++) {
    let sum = 0;
    for (let tap = 0; tap < TAPS; tap++) {
      const value = interpolationCurve(tap - TAPS_BEFORE - phase / PHASES);
      table[phase * TAPS + tap] = value;
      sum += value;
    }
    for (let tap = 0; tap < TAPS; tap++) table[phase * TAPS + tap] /= sum;
  }
  return table;
}

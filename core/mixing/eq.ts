import { clamp, cos as cosine, exp10, sin } from '../units/index.ts';

/** Shapes of an EQ band. */
export const EQ_KINDS = ['low shelf', 'peak', 'high shelf'] as const;
export type EqKind = (typeof EQ_KINDS)[number];

/** One band: corner or middle in hertz, gain in dB, and Q (for shelves 0.707 is the steepest without a bump). */
export interface EqBand {
  shape: EqKind;
  hertz: number;
  gainDb: number;
  q: number;
}

/** Most bands a track has. */
export const MOST_BANDS = 8;

/**
 * Coefficients b0, b1, b2, a1, a2 (a0 = 1) of a band, written into `out` from `at` on. After R. Bristow-Johnson, “Cookbook
 * formulae for audio equalizer biquad filter coefficients”. Values out of range are brought into it.
 */
export function writeEqBand(
  shape: EqKind,
  hertz: number,
  gainDb: number,
  q: number,
  rate: number,
  out: Float64Array,
  at: number,
): void {
  const a = exp10(clamp(gainDb, -36, 36) / 40);
  const w = (2 * Math.PI * clamp(hertz, 10, rate * 0.49)) / rate;
  const cos = cosine(w);
  const alpha = sin(w) / (2 * clamp(q, 0.1, 20));
  let b0: number, b1: number, b2: number, a0: number, a1: number, a2: number;
  if (shape === 'peak') {
    b0 = 1 + alpha * a;
    b1 = -2 * cos;
    b2 = 1 - alpha * a;
    a0 = 1 + alpha / a;
    a1 = -2 * cos;
    a2 = 1 - alpha / a;
  } else {
    // A high shelf is a low shelf with the sign of the cosine turned over.
    const sign = shape === 'low shelf' ? 1 : -1;
    const c = sign * cos;
    const root = 2 * Math.sqrt(a) * alpha;
    b0 = a * (a + 1 - (a - 1) * c + root);
    b1 = sign * 2 * a * (a - 1 - (a + 1) * c);
    b2 = a * (a + 1 - (a - 1) * c - root);
    a0 = a + 1 + (a - 1) * c + root;
    a1 = sign * -2 * (a - 1 + (a + 1) * c);
    a2 = a + 1 + (a - 1) * c - root;
  }
  out[at] = b0 / a0;
  out[at + 1] = b1 / a0;
  out[at + 2] = b2 / a0;
  out[at + 3] = a1 / a0;
  out[at + 4] = a2 / a0;
}

const scratch = new Float64Array(5);

/** Gain of a band at a frequency in dB. */
export function eqResponseDb(band: EqBand, hertz: number, rate: number): number {
  writeEqBand(band.shape, band.hertz, band.gainDb, band.q, rate, scratch, 0);
  const [b0, b1, b2, a1, a2] = scratch;
  const w = (2 * Math.PI * hertz) / rate;
  const power = (c0: number, c1: number, c2: number) =>
    (c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w)) ** 2 + (c1 * Math.sin(w) + c2 * Math.sin(2 * w)) ** 2;
  return 10 * Math.log10(power(b0, b1, b2) / power(1, a1, a2));
}

const MOST_DB = 6;
const LEAST_DB = 0.5;
const ROUNDS = 40;

/**
 * A few broad bands that follow a curve: a low shelf, two peaks, a high shelf. Places are tried on a grid, gains found by
 * turns so that the mean square of what is left is least; the first pass is greedy. Gains stay within 6 dB; bands of less
 * than half a decibel are left out. The mean of the curve is not made good: that is level, not tone.
 * @param hertz frequencies of the curve, and `wantedDb` what is to be added there
 * @param weights how much each point counts; 0 where nothing was heard
 * @param staying how much a decibel of a band costs against one of the curve: 0 follows it as closely as it can, more leaves out what
 * little is gained by
 */
export function fitEq(
  hertz: readonly number[],
  wantedDb: readonly number[],
  weights: readonly number[],
  rate: number,
  staying = 0,
): EqBand[] {
  const total = weights.reduce((sum, value) => sum + value, 0);
  if (!(total > 0)) return [];
  const cost = staying * total;
  const mean = wantedDb.reduce((sum, value, i) => sum + value * weights[i], 0) / total;
  let left = wantedDb.map((value) => value - mean);
  const grid = (from: number, to: number, count: number) =>
    Array.from({ length: count }, (_, i) => from * (to / from) ** (i / (count - 1)));
  const slots: { shape: EqKind; places: number[]; q: number }[] = [
    { shape: 'low shelf', places: grid(90, 320, 6), q: 0.6 },
    { shape: 'high shelf', places: grid(2500, 9000, 6), q: 0.6 },
    { shape: 'peak', places: grid(180, 900, 8), q: 0.8 },
    { shape: 'peak', places: grid(900, 5000, 8), q: 0.8 },
  ];
  const bands = slots.map((slot): EqBand => {
    let best: { band: EqBand; rest: number[]; error: number } | undefined;
    for (const place of slot.places) {
      // Near 0 dB a band's curve grows with its gain; one gain solves it nearly, then it is measured.
      const unit = hertz.map((hz) => eqResponseDb({ ...slot, hertz: place, gainDb: 1 }, hz, rate));
      const xy = unit.reduce((sum, value, i) => sum + weights[i] * value * left[i], 0);
      const xx = unit.reduce((sum, value, i) => sum + weights[i] * value * value, 0);
      const band = {
        shape: slot.shape,
        q: slot.q,
        hertz: place,
        gainDb: clamp(xy / (xx + cost), -MOST_DB, MOST_DB),
      };
      const rest = left.map((value, i) => value - eqResponseDb(band, hertz[i], rate));
      const error =
        rest.reduce((sum, value, i) => sum + weights[i] * value * value, 0) + cost * band.gainDb ** 2;
      if (!best || error < best.error) best = { band, rest, error };
    }
    if (best) left = best.rest;
    return best?.band ?? { shape: slot.shape, q: slot.q, hertz: slot.places[0], gainDb: 0 };
  });
  for (let round = 0; round < ROUNDS; round++)
    for (const band of bands) {
      const shape = hertz.map((hz) => eqResponseDb(band, hz, rate));
      const unit = hertz.map((hz) => eqResponseDb({ ...band, gainDb: 1 }, hz, rate));
      const xy = unit.reduce((sum, value, i) => sum + weights[i] * value * (left[i] + shape[i]), 0);
      const xx = unit.reduce((sum, value, i) => sum + weights[i] * value * value, 0);
      const next = clamp(xy / (xx + cost), -MOST_DB, MOST_DB);
      left = left.map(
        (value, i) => value + shape[i] - eqResponseDb({ ...band, gainDb: next }, hertz[i], rate),
      );
      band.gainDb = next;
    }
  return bands
    .filter((band) => Math.abs(band.gainDb) >= LEAST_DB)
    .map((band) => ({
      ...band,
      hertz: Number(band.hertz.toPrecision(2)),
      gainDb: Math.round(band.gainDb * 10) / 10,
    }))
    .sort((a, b) => a.hertz - b.hertz);
}

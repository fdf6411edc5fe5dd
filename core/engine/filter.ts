import type { FilterKind } from '../catalogue/index.ts';
import { clamp } from '../units/index.ts';

/** Numbers one stereo filter remembers. */
export const FILTER_STATE = 4;

/**
 * Filters two channels in place, frames [from, to). Two poles: state-variable filter with trapezoidal integrators
 * (A. Simper 2013), resonance in dB above a Butterworth; one pole: the same integrator alone.
 * @param state `FILTER_STATE` numbers from `at` on
 */
export function filterStereo(
  kind: FilterKind,
  left: Float64Array,
  right: Float64Array,
  state: Float64Array,
  at: number,
  cutoffHz: number,
  resonanceDb: number,
  rate: number,
  from: number,
  to: number,
): void {
  const g = Math.tan((Math.PI * clamp(cutoffHz, 20, rate * 0.45)) / rate);
  if (kind === 'lowpass1' || kind === 'highpass1') {
    onePole(kind === 'highpass1', left, right, state, at, g, from, to);
    return;
  }
  const k = Math.SQRT2 / 10 ** (clamp(resonanceDb, 0, 40) / 20);
  if (kind === 'lowpass2') lowPass(left, right, state, at, g, k, from, to);
  else {
    // Output = a·input + b·band + c·low.
    const a = kind === 'bandpass' ? 0 : 1;
    const b = kind === 'bandpass' ? k : -k;
    const c = kind === 'highpass2' ? -1 : 0;
    mixedOutput(left, right, state, at, g, k, a, b, c, from, to);
  }
}

function lowPass(
  left: Float64Array,
  right: Float64Array,
  state: Float64Array,
  at: number,
  g: number,
  k: number,
  from: number,
  to: number,
): void {
  const a1 = 1 / (1 + g * (g + k));
  const a2 = g * a1;
  const a3 = g * a2;
  // Both channels in one loop: each waits for its own last result, so together they cost little more than one.
  let l1 = state[at];
  let l2 = state[at + 1];
  let r1 = state[at + 2];
  let r2 = state[at + 3];
  for (let i = from; i < to; i++) {
    const l3 = left[i] - l2;
    const r3 = right[i] - r2;
    const lBand = a1 * l1 + a2 * l3;
    const rBand = a1 * r1 + a2 * r3;
    const lLow = l2 + a2 * l1 + a3 * l3;
    const rLow = r2 + a2 * r1 + a3 * r3;
    l1 = 2 * lBand - l1;
    r1 = 2 * rBand - r1;
    l2 = 2 * lLow - l2;
    r2 = 2 * rLow - r2;
    left[i] = lLow;
    right[i] = rLow;
  }
  keep(state, at, l1, l2, r1, r2);
}

function mixedOutput(
  left: Float64Array,
  right: Float64Array,
  state: Float64Array,
  at: number,
  g: number,
  k: number,
  a: number,
  b: number,
  c: number,
  from: number,
  to: number,
): void {
  const a1 = 1 / (1 + g * (g + k));
  const a2 = g * a1;
  const a3 = g * a2;
  let l1 = state[at];
  let l2 = state[at + 1];
  let r1 = state[at + 2];
  let r2 = state[at + 3];
  for (let i = from; i < to; i++) {
    const l3 = left[i] - l2;
    const r3 = right[i] - r2;
    const lBand = a1 * l1 + a2 * l3;
    const rBand = a1 * r1 + a2 * r3;
    const lLow = l2 + a2 * l1 + a3 * l3;
    const rLow = r2 + a2 * r1 + a3 * r3;
    l1 = 2 * lBand - l1;
    r1 = 2 * rBand - r1;
    l2 = 2 * lLow - l2;
    r2 = 2 * rLow - r2;
    left[i] = a * left[i] + b * lBand + c * lLow;
    right[i] = a * right[i] + b * rBand + c * rLow;
  }
  keep(state, at, l1, l2, r1, r2);
}

function onePole(
  high: boolean,
  left: Float64Array,
  right: Float64Array,
  state: Float64Array,
  at: number,
  g: number,
  from: number,
  to: number,
): void {
  const share = g / (1 + g);
  let l = state[at];
  let r = state[at + 2];
  for (let i = from; i < to; i++) {
    const stepL = share * (left[i] - l);
    const stepR = share * (right[i] - r);
    const lowL = l + stepL;
    const lowR = r + stepR;
    l = lowL + stepL;
    r = lowR + stepR;
    left[i] = high ? left[i] - lowL : lowL;
    right[i] = high ? right[i] - lowR : lowR;
  }
  keep(state, at, l, 0, r, 0);
}

/** Denormals would slow the loop down after the sound has ended; they are kept as 0. */
function keep(state: Float64Array, at: number, l1: number, l2: number, r1: number, r2: number): void {
  state[at] = Math.abs(l1) < 1e-30 ? 0 : l1;
  state[at + 1] = Math.abs(l2) < 1e-30 ? 0 : l2;
  state[at + 2] = Math.abs(r1) < 1e-30 ? 0 : r1;
  state[at + 3] = Math.abs(r2) < 1e-30 ? 0 : r2;
}

import { manyTaps, fold, shareOf, PHASE_BITS, TAPS_BYTES, UNIT, UNIT_BITS, WIDE_BITS } from './interpolate';
import { FLOOR, settled } from './vectors';

/** Two values of each of two places as one vector. */
@inline
function both(first: usize, second: usize): v128 {
  return v128.load64_lane(second, v128.load64_zero(first), 1);
}

/** Adds a frame to each of two places. */
@inline
function addBoth(first: usize, second: usize, values: v128): void {
  const sum = f32x4.add(both(first, second), values);
  v128.store64_lane(first, sum, 0);
  v128.store64_lane(second, sum, 1);
}

/**
 * Reads positions that keep pace, filters them and adds them to where they are heard, in one pass: what is worked out for a frame
 * serves all of them.
 * @param slots 32-bit addresses: of what is laid out of each, of where each is added, of what its filter remembers: its band, and 16 bytes on its low
 * @param two whether there are four positions or two; @param wide whether the table has `taps` taps a row, or ten
 */
@inline
function sweep(
  two: bool,
  wide: bool,
  slots: usize,
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  weights: usize,
  gain: f32,
  step: f32,
  filters: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  powers: usize,
): void {
  const fromA = <usize>load<u32>(slots);
  const fromB = <usize>load<u32>(slots, 4);
  const fromC = two ? <usize>load<u32>(slots, 8) : 0;
  const fromD = two ? <usize>load<u32>(slots, 12) : 0;
  let outA = <usize>load<u32>(slots, 16);
  let outB = <usize>load<u32>(slots, 20);
  let outC = two ? <usize>load<u32>(slots, 24) : 0;
  let outD = two ? <usize>load<u32>(slots, 28) : 0;
  const stateA = <usize>load<u32>(slots, 32);
  const stateB = <usize>load<u32>(slots, 36);
  const stateC = two ? <usize>load<u32>(slots, 40) : 0;
  const stateD = two ? <usize>load<u32>(slots, 44) : 0;
  let place = <i64>(base * UNIT);
  let pace = <i64>((ratio + bend) * UNIT);
  const growth = <i64>(2.0 * bend * UNIT);
  const rowBytes: usize = wide ? <usize>taps << 2 : TAPS_BYTES;
  const nothing = f32x4.splat(0);
  let band = filters ? both(stateA, stateB) : nothing;
  let low = filters ? both(stateA + 16, stateB + 16) : nothing;
  let otherBand = filters && two ? both(stateC, stateD) : nothing;
  let otherLow = filters && two ? both(stateC + 16, stateD + 16) : nothing;
  let squares = nothing;
  let otherSquares = nothing;
  for (let i = 0; i < count; i++) {
    const at = <usize>(<i32>(place >> UNIT_BITS) << 3);
    const bits = wide ? WIDE_BITS : PHASE_BITS;
    const share = shareOf(place, bits);
    const row = table + <usize>((place >> (UNIT_BITS - bits)) & ((1 << bits) - 1)) * rowBytes;
    place += pace;
    pace += growth;
    let x: v128;
    let y: v128 = nothing;
    if (wide) {
      let out = weights;
      const high = row + rowBytes;
      for (let k: usize = 0; k < rowBytes; k += 16) {
        const a = v128.load(row + k);
        const c = f32x4.add(a, f32x4.mul(share, f32x4.sub(v128.load(high + k), a)));
        v128.store(out, v128.shuffle<f32>(c, c, 0, 0, 1, 1));
        v128.store(out, v128.shuffle<f32>(c, c, 2, 2, 3, 3), 16);
        out += 32;
      }
      const bytes = rowBytes << 1;
      x = fold(manyTaps(fromA + at, weights, bytes), manyTaps(fromB + at, weights, bytes));
      if (two) y = fold(manyTaps(fromC + at, weights, bytes), manyTaps(fromD + at, weights, bytes));
    } else {
      const a = v128.load(row);
      const b = v128.load(row, 16);
      const e = v128.load64_zero(row, 32);
      const c = f32x4.add(a, f32x4.mul(share, f32x4.sub(v128.load(row, TAPS_BYTES), a)));
      const d = f32x4.add(b, f32x4.mul(share, f32x4.sub(v128.load(row, TAPS_BYTES + 16), b)));
      const f = f32x4.add(e, f32x4.mul(share, f32x4.sub(v128.load64_zero(row, TAPS_BYTES + 32), e)));
      const w0 = v128.shuffle<f32>(c, c, 0, 0, 1, 1);
      const w1 = v128.shuffle<f32>(c, c, 2, 2, 3, 3);
      const w2 = v128.shuffle<f32>(d, d, 0, 0, 1, 1);
      const w3 = v128.shuffle<f32>(d, d, 2, 2, 3, 3);
      const w4 = v128.shuffle<f32>(f, f, 0, 0, 1, 1);
      x = fold(ten(fromA + at, w0, w1, w2, w3, w4), ten(fromB + at, w0, w1, w2, w3, w4));
      if (two) y = fold(ten(fromC + at, w0, w1, w2, w3, w4), ten(fromD + at, w0, w1, w2, w3, w4));
    }
    const k = <f32>i;
    if (filters) {
      // As `lowPassFour`.
      const c1 = f32x4.splat(a1 + d1 * k);
      const c2 = f32x4.splat(a2 + d2 * k);
      const c3 = f32x4.splat(a3 + d3 * k);
      const high = f32x4.sub(x, low);
      const bandStep = f32x4.sub(f32x4.mul(c2, high), f32x4.mul(c1, band));
      const lowStep = f32x4.add(f32x4.mul(c2, band), f32x4.mul(c3, high));
      x = f32x4.add(low, lowStep);
      band = f32x4.add(band, f32x4.add(bandStep, bandStep));
      low = f32x4.add(x, lowStep);
      if (two) {
        const otherHigh = f32x4.sub(y, otherLow);
        const otherBandStep = f32x4.sub(f32x4.mul(c2, otherHigh), f32x4.mul(c1, otherBand));
        const otherLowStep = f32x4.add(f32x4.mul(c2, otherBand), f32x4.mul(c3, otherHigh));
        y = f32x4.add(otherLow, otherLowStep);
        otherBand = f32x4.add(otherBand, f32x4.add(otherBandStep, otherBandStep));
        otherLow = f32x4.add(y, otherLowStep);
      }
    }
    const level = f32x4.splat(gain + step * (k + 1));
    x = f32x4.mul(x, level);
    squares = f32x4.add(squares, f32x4.mul(x, x));
    addBoth(outA, outB, x);
    outA += 8;
    outB += 8;
    if (two) {
      y = f32x4.mul(y, level);
      otherSquares = f32x4.add(otherSquares, f32x4.mul(y, y));
      addBoth(outC, outD, y);
      outC += 8;
      outD += 8;
    }
  }
  v128.store(powers, squares);
  if (two) v128.store(powers, otherSquares, 16);
  if (!filters) return;
  keep(stateA, stateB, settled(band, FLOOR));
  keep(stateA + 16, stateB + 16, settled(low, FLOOR));
  if (!two) return;
  keep(stateC, stateD, settled(otherBand, FLOOR));
  keep(stateC + 16, stateD + 16, settled(otherLow, FLOOR));
}

@inline
function keep(first: usize, second: usize, values: v128): void {
  v128.store64_lane(first, values, 0);
  v128.store64_lane(second, values, 1);
}

/** Ten taps of two channels: their sums for even and odd taps. */
@inline
function ten(from: usize, w0: v128, w1: v128, w2: v128, w3: v128, w4: v128): v128 {
  let a = f32x4.mul(v128.load(from), w0);
  let b = f32x4.mul(v128.load(from, 16), w1);
  a = f32x4.add(a, f32x4.mul(v128.load(from, 32), w2));
  b = f32x4.add(b, f32x4.mul(v128.load(from, 48), w3));
  a = f32x4.add(a, f32x4.mul(v128.load(from, 64), w4));
  return f32x4.add(a, b);
}

/**
 * Four positions by ten taps: as `sweep`.
 * @param base, ratio, bend, count, table as for `plan`; @param weights scratch for one frame's, `taps` pairs
 * @param gain, step the level of frame i is gain + step · (i + 1)
 * @param filters whether the low-pass of two poles works; @param a1, a2, a3, d1, d2, d3 as for `lowPass`
 * @param powers of each channel of each position, the sum of squares of what was added, overwritten
 */
export function sweepFour(
  slots: usize,
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  weights: usize,
  gain: f32,
  step: f32,
  filters: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  powers: usize,
): void {
  sweep(true, false, slots, base, ratio, bend, count, table, taps, weights, gain, step, filters, a1, a2, a3, d1, d2, d3, powers);
}

/**
 * Two positions by ten taps: as `sweep`.
 * @param base, ratio, bend, count, table as for `plan`; @param weights scratch for one frame's, `taps` pairs
 * @param gain, step the level of frame i is gain + step · (i + 1)
 * @param filters whether the low-pass of two poles works; @param a1, a2, a3, d1, d2, d3 as for `lowPass`
 * @param powers of each channel of each position, the sum of squares of what was added, overwritten
 */
export function sweepTwo(
  slots: usize,
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  weights: usize,
  gain: f32,
  step: f32,
  filters: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  powers: usize,
): void {
  sweep(false, false, slots, base, ratio, bend, count, table, taps, weights, gain, step, filters, a1, a2, a3, d1, d2, d3, powers);
}

/**
 * Four positions by a table of more taps: as `sweep`.
 * @param base, ratio, bend, count, table as for `plan`Rows; @param weights scratch for one frame's, `taps` pairs
 * @param gain, step the level of frame i is gain + step · (i + 1)
 * @param filters whether the low-pass of two poles works; @param a1, a2, a3, d1, d2, d3 as for `lowPass`
 * @param powers of each channel of each position, the sum of squares of what was added, overwritten
 */
export function sweepFourWide(
  slots: usize,
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  weights: usize,
  gain: f32,
  step: f32,
  filters: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  powers: usize,
): void {
  sweep(true, true, slots, base, ratio, bend, count, table, taps, weights, gain, step, filters, a1, a2, a3, d1, d2, d3, powers);
}

/**
 * Two positions by a table of more taps: as `sweep`.
 * @param base, ratio, bend, count, table as for `plan`Rows; @param weights scratch for one frame's, `taps` pairs
 * @param gain, step the level of frame i is gain + step · (i + 1)
 * @param filters whether the low-pass of two poles works; @param a1, a2, a3, d1, d2, d3 as for `lowPass`
 * @param powers of each channel of each position, the sum of squares of what was added, overwritten
 */
export function sweepTwoWide(
  slots: usize,
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  weights: usize,
  gain: f32,
  step: f32,
  filters: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  powers: usize,
): void {
  sweep(false, true, slots, base, ratio, bend, count, table, taps, weights, gain, step, filters, a1, a2, a3, d1, d2, d3, powers);
}

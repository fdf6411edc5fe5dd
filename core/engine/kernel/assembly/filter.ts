import { FLOOR, settled } from './vectors';

/** One frame of each of two sounds as (l, r, l, r). */
@inline
function both(first: usize, second: usize): v128 {
  return v128.load64_lane(second, v128.load64_zero(first), 1);
}

/**
 * Low-pass of two poles on two stereo sounds, in place: state-variable filter with trapezoidal integrators (A. Simper 2013).
 * Both integrators go on by steps: 1 − a1, which is small, is told instead of a1, so that 32 bits are enough for high resonances.
 * @param state eight floats; @param a1 1 − a1, and a2, a3: its coefficients for the first frame, which grow by d1, d2, d3 per frame
 */
export function lowPass(
  first: usize,
  second: usize,
  state: usize,
  count: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
): void {
  let band = v128.load(state);
  let low = v128.load(state, 16);
  for (let i = 0; i < count; i++) {
    const x = <f32>i;
    const c1 = f32x4.splat(a1 + d1 * x);
    const c2 = f32x4.splat(a2 + d2 * x);
    const c3 = f32x4.splat(a3 + d3 * x);
    const high = f32x4.sub(both(first, second), low);
    const bandStep = f32x4.sub(f32x4.mul(c2, high), f32x4.mul(c1, band));
    const lowStep = f32x4.add(f32x4.mul(c2, band), f32x4.mul(c3, high));
    const newLow = f32x4.add(low, lowStep);
    band = f32x4.add(band, f32x4.add(bandStep, bandStep));
    low = f32x4.add(newLow, lowStep);
    v128.store64_lane(first, newLow, 0);
    v128.store64_lane(second, newLow, 1);
    first += 8;
    second += 8;
  }
  v128.store(state, settled(band, FLOOR));
  v128.store(state, settled(low, FLOOR), 16);
}

/** The same for four sounds, whose steps need not wait for each other. @param state 16 floats: those of both pairs */
export function lowPassFour(
  first: usize,
  second: usize,
  third: usize,
  fourth: usize,
  state: usize,
  count: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
): void {
  let band = v128.load(state);
  let low = v128.load(state, 16);
  let otherBand = v128.load(state, 32);
  let otherLow = v128.load(state, 48);
  for (let i = 0; i < count; i++) {
    const x = <f32>i;
    const c1 = f32x4.splat(a1 + d1 * x);
    const c2 = f32x4.splat(a2 + d2 * x);
    const c3 = f32x4.splat(a3 + d3 * x);
    const high = f32x4.sub(both(first, second), low);
    const otherHigh = f32x4.sub(both(third, fourth), otherLow);
    const bandStep = f32x4.sub(f32x4.mul(c2, high), f32x4.mul(c1, band));
    const otherBandStep = f32x4.sub(f32x4.mul(c2, otherHigh), f32x4.mul(c1, otherBand));
    const lowStep = f32x4.add(f32x4.mul(c2, band), f32x4.mul(c3, high));
    const otherLowStep = f32x4.add(f32x4.mul(c2, otherBand), f32x4.mul(c3, otherHigh));
    const newLow = f32x4.add(low, lowStep);
    const otherNewLow = f32x4.add(otherLow, otherLowStep);
    band = f32x4.add(band, f32x4.add(bandStep, bandStep));
    otherBand = f32x4.add(otherBand, f32x4.add(otherBandStep, otherBandStep));
    low = f32x4.add(newLow, lowStep);
    otherLow = f32x4.add(otherNewLow, otherLowStep);
    v128.store64_lane(first, newLow, 0);
    v128.store64_lane(second, newLow, 1);
    v128.store64_lane(third, otherNewLow, 0);
    v128.store64_lane(fourth, otherNewLow, 1);
    first += 8;
    second += 8;
    third += 8;
    fourth += 8;
  }
  v128.store(state, settled(band, FLOOR));
  v128.store(state, settled(low, FLOOR), 16);
  v128.store(state, settled(otherBand, FLOOR), 32);
  v128.store(state, settled(otherLow, FLOOR), 48);
}

/** The same filter with any output: input · sound + band · its band + low · its low; `band` grows by `dBand` per frame. */
export function stateVariable(
  first: usize,
  second: usize,
  state: usize,
  count: i32,
  a1: f32,
  a2: f32,
  a3: f32,
  d1: f32,
  d2: f32,
  d3: f32,
  input: f32,
  band: f32,
  dBand: f32,
  low: f32,
): void {
  let s1 = v128.load(state);
  let s2 = v128.load(state, 16);
  for (let i = 0; i < count; i++) {
    const x = <f32>i;
    const c1 = f32x4.splat(a1 + d1 * x);
    const c2 = f32x4.splat(a2 + d2 * x);
    const c3 = f32x4.splat(a3 + d3 * x);
    const sound = both(first, second);
    const high = f32x4.sub(sound, s2);
    const bandStep = f32x4.sub(f32x4.mul(c2, high), f32x4.mul(c1, s1));
    const lowStep = f32x4.add(f32x4.mul(c2, s1), f32x4.mul(c3, high));
    const newBand = f32x4.add(s1, bandStep);
    const newLow = f32x4.add(s2, lowStep);
    s1 = f32x4.add(newBand, bandStep);
    s2 = f32x4.add(newLow, lowStep);
    const out = f32x4.add(
      f32x4.add(f32x4.mul(f32x4.splat(input), sound), f32x4.mul(f32x4.splat(band + dBand * x), newBand)),
      f32x4.mul(f32x4.splat(low), newLow),
    );
    v128.store64_lane(first, out, 0);
    v128.store64_lane(second, out, 1);
    first += 8;
    second += 8;
  }
  v128.store(state, settled(s1, FLOOR));
  v128.store(state, settled(s2, FLOOR), 16);
}

/** One pole, low or (`high`) what it leaves out. @param share g / (1 + g) at the first frame, grows by `dShare` per frame */
export function onePole(
  first: usize,
  second: usize,
  state: usize,
  count: i32,
  share: f32,
  dShare: f32,
  high: i32,
): void {
  let kept = v128.load(state);
  for (let i = 0; i < count; i++) {
    const sound = both(first, second);
    const step = f32x4.mul(f32x4.splat(share + dShare * <f32>i), f32x4.sub(sound, kept));
    const low = f32x4.add(kept, step);
    kept = f32x4.add(low, step);
    const out = high ? f32x4.sub(sound, low) : low;
    v128.store64_lane(first, out, 0);
    v128.store64_lane(second, out, 1);
    first += 8;
    second += 8;
  }
  v128.store(state, settled(kept, FLOOR));
}

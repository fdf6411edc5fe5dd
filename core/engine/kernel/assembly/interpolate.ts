/** As in `core/dsp/interpolation.ts`. */
export const TAPS_BYTES: usize = 40;
/** Phases of the plain table and of the wide ones, as powers of two. */
export const PHASE_BITS: i64 = 10;
export const WIDE_BITS: i64 = 9;
const PHASES: f64 = 1024;
const REACH: f64 = 5;
/** Bytes of the weights of one frame: every weight twice, once for each channel. */
const WEIGHTS: usize = 80;
/** Places are counted in 2^−40 of a frame: whole numbers are worked out faster than doubles are rounded. */
export const UNIT: f64 = 1099511627776;
export const UNIT_BITS: i64 = 40;

/** Where between two rows of a table a place lies, 0 … 1. */
@inline
export function shareOf(place: i64, bits: i64): v128 {
  // The 23 bits below those of the row.
  const rest = <i32>(place >> (UNIT_BITS - bits - 23)) & 0x7fffff;
  return f32x4.splat(<f32>rest * (1.0 / 8388608.0));
}

/**
 * Works out where each of `count` frames lies and how its ten taps weigh. Frame i lies at base + i · (ratio + bend · i).
 * @param base place of the first frame, 0 … 1, in frames from the fourth that is laid out; @param ratio frames per frame
 * @param bend half of what the ratio grows by per frame
 * @param table rows of ten weights for 1,025 phases
 * @param places byte offset of each frame's first tap, 32-bit; @param weights ten pairs for each frame
 */
export function plan(
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  places: usize,
  weights: usize,
): void {
  let place = <i64>(base * UNIT);
  let step = <i64>((ratio + bend) * UNIT);
  const growth = <i64>(2.0 * bend * UNIT);
  for (let i = 0; i < count; i++) {
    store<i32>(places + (<usize>i << 2), <i32>(place >> UNIT_BITS) << 3);
    const share = shareOf(place, PHASE_BITS);
    const low = table + <usize>((place >> (UNIT_BITS - PHASE_BITS)) & 1023) * TAPS_BYTES;
    place += step;
    step += growth;
    const a = v128.load(low);
    const b = v128.load(low, 16);
    const e = v128.load64_zero(low, 32);
    const c = f32x4.add(a, f32x4.mul(share, f32x4.sub(v128.load(low, TAPS_BYTES), a)));
    const d = f32x4.add(b, f32x4.mul(share, f32x4.sub(v128.load(low, TAPS_BYTES + 16), b)));
    const f = f32x4.add(e, f32x4.mul(share, f32x4.sub(v128.load64_zero(low, TAPS_BYTES + 32), e)));
    const out = weights + <usize>i * WEIGHTS;
    v128.store(out, v128.shuffle<f32>(c, c, 0, 0, 1, 1));
    v128.store(out, v128.shuffle<f32>(c, c, 2, 2, 3, 3), 16);
    v128.store(out, v128.shuffle<f32>(d, d, 0, 0, 1, 1), 32);
    v128.store(out, v128.shuffle<f32>(d, d, 2, 2, 3, 3), 48);
    v128.store(out, v128.shuffle<f32>(f, f, 0, 0, 1, 1), 64);
  }
}

/**
 * The same from a table of more taps, for notes pitched up.
 * @param taps of each row, a multiple of 4; @param table 513 rows
 */
export function planRows(
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  table: usize,
  taps: i32,
  places: usize,
  weights: usize,
): void {
  let place = <i64>(base * UNIT);
  let step = <i64>((ratio + bend) * UNIT);
  const growth = <i64>(2.0 * bend * UNIT);
  const bytes = <usize>taps << 2;
  let out = weights;
  for (let i = 0; i < count; i++) {
    store<i32>(places + (<usize>i << 2), <i32>(place >> UNIT_BITS) << 3);
    const share = shareOf(place, WIDE_BITS);
    const low = table + <usize>((place >> (UNIT_BITS - WIDE_BITS)) & 511) * bytes;
    const high = low + bytes;
    place += step;
    step += growth;
    for (let k: usize = 0; k < bytes; k += 16) {
      const a = v128.load(low + k);
      const c = f32x4.add(a, f32x4.mul(share, f32x4.sub(v128.load(high + k), a)));
      v128.store(out, v128.shuffle<f32>(c, c, 0, 0, 1, 1));
      v128.store(out, v128.shuffle<f32>(c, c, 2, 2, 3, 3), 16);
      out += 32;
    }
  }
}

/**
 * The same with the curve `scale` times as wide, where there is no table: for notes pitched up by octaves.
 * @param taps a multiple of 4, at least 2 · ⌈5 · scale⌉; the first lies taps / 2 − 1 frames before a frame's place
 * @param curve one side of the curve, 1,024 values a frame, and one more beyond its end
 * @param weights `taps` pairs for each frame; each frame's sum to 1
 */
export function planWide(
  base: f64,
  ratio: f64,
  bend: f64,
  count: i32,
  scale: f64,
  taps: i32,
  curve: usize,
  places: usize,
  weights: usize,
): void {
  const before = (taps >> 1) - 1;
  const step = PHASES / scale;
  const end = REACH * PHASES;
  for (let i = 0; i < count; i++) {
    const x = <f64>i;
    const whole = base + x * (ratio + bend * x);
    const at = <i32>whole;
    store<i32>(places + (<usize>i << 2), at << 3);
    const out = weights + <usize>(i * taps) * 8;
    const fraction = whole - <f64>at;
    let sum: f32 = 0;
    for (let k = 0; k < taps; k++) {
      const distance = abs(<f64>(k - before) - fraction) * step;
      let value: f32 = 0;
      if (distance < end) {
        const row = <i32>distance;
        const a = load<f32>(curve + (<usize>row << 2));
        value = a + <f32>(distance - <f64>row) * (load<f32>(curve + (<usize>row << 2), 4) - a);
      }
      store<f32>(out + (<usize>k << 3), value);
      sum += value;
    }
    const gain: f32 = 1 / sum;
    for (let k = 0; k < taps; k++) {
      const value = load<f32>(out + (<usize>k << 3)) * gain;
      store<f32>(out + (<usize>k << 3), value);
      store<f32>(out + (<usize>k << 3), value, 4);
    }
  }
}

/** Ten taps of two channels: their sums for even and odd taps. */
@inline
function tenTaps(from: usize, weights: usize): v128 {
  let a = f32x4.mul(v128.load(from), v128.load(weights));
  let b = f32x4.mul(v128.load(from, 16), v128.load(weights, 16));
  a = f32x4.add(a, f32x4.mul(v128.load(from, 32), v128.load(weights, 32)));
  b = f32x4.add(b, f32x4.mul(v128.load(from, 48), v128.load(weights, 48)));
  a = f32x4.add(a, f32x4.mul(v128.load(from, 64), v128.load(weights, 64)));
  return f32x4.add(a, b);
}

@inline
export function manyTaps(from: usize, weights: usize, bytes: usize): v128 {
  let a = f32x4.splat(0);
  let b = f32x4.splat(0);
  for (let k: usize = 0; k < bytes; k += 32) {
    a = f32x4.add(a, f32x4.mul(v128.load(from + k), v128.load(weights + k)));
    b = f32x4.add(b, f32x4.mul(v128.load(from + k, 16), v128.load(weights + k, 16)));
  }
  return f32x4.add(a, b);
}

/** Sums of even and odd taps of two frames become the two frames. */
@inline
export function fold(a: v128, b: v128): v128 {
  return f32x4.add(v128.shuffle<f32>(a, b, 0, 1, 4, 5), v128.shuffle<f32>(a, b, 2, 3, 6, 7));
}

/**
 * Reads `count` frames as planned from what was laid out.
 * @param out overwritten, or added to with `add`; one frame behind the last may be written
 */
export function interpolate(
  from: usize,
  places: usize,
  weights: usize,
  out: usize,
  count: i32,
  add: i32,
): void {
  for (let i = 0; i < count; i += 2) {
    const at = weights + <usize>i * WEIGHTS;
    let two = fold(
      tenTaps(from + load<i32>(places + (<usize>i << 2)), at),
      tenTaps(from + load<i32>(places + (<usize>i << 2), 4), at + WEIGHTS),
    );
    const to = out + (<usize>i << 3);
    if (add) two = f32x4.add(two, v128.load(to));
    v128.store(to, two);
  }
}

/** The same for any number of taps that is a multiple of 4. */
export function interpolateWide(
  from: usize,
  places: usize,
  weights: usize,
  taps: i32,
  out: usize,
  count: i32,
  add: i32,
): void {
  const bytes = <usize>taps << 3;
  for (let i = 0; i < count; i += 2) {
    const at = weights + <usize>i * bytes;
    let two = fold(
      manyTaps(from + load<i32>(places + (<usize>i << 2)), at, bytes),
      manyTaps(from + load<i32>(places + (<usize>i << 2), 4), at + bytes, bytes),
    );
    const to = out + (<usize>i << 3);
    if (add) two = f32x4.add(two, v128.load(to));
    v128.store(to, two);
  }
}

/**
 * Highest absolute value at some points a frame.
 * @param from `count` frames behind the `taps` − 1 that came before; @param weights `taps` pairs for each of the points, `taps` a multiple of 4
 * @param highest known already; @param bound no point is higher than this times the highest of its frames
 * @param near, rise nor, where it is heard, than `rise` times the highest of the `near` frames to either side
 * @returns the higher of both
 */
export function truePeak(
  from: usize,
  count: i32,
  weights: usize,
  points: i32,
  taps: i32,
  highest: f32,
  bound: f32,
  near: i32,
  rise: f32,
): f32 {
  let loudest = f32x4.splat(0);
  const end = from + <usize>(count + taps - 1) * 8;
  for (let at = from; at < end; at += 8) loudest = f32x4.pmax(loudest, f32x4.abs(v128.load64_zero(at)));
  const most = max(f32x4.extract_lane(loudest, 0), f32x4.extract_lane(loudest, 1));
  // What cannot be higher need not be worked out.
  if (most * bound <= highest) return highest;
  const bytes = <usize>taps << 3;
  let peak = f32x4.splat(highest);
  let known = highest;
  const middle = <usize>((taps >> 1) - 1) << 3;
  const first = <usize>((taps >> 1) - near) << 3;
  const behind = first + (<usize>near << 4);
  for (let i = 0; i < count; i++) {
    let close = f32x4.splat(0);
    for (let at = from + first; at < from + behind; at += 16)
      close = f32x4.pmax(close, f32x4.abs(v128.load(at)));
    if (maxOf(close) * rise <= known || !turns(from + middle)) {
      from += 8;
      continue;
    }
    for (let point = 0; point < points; point++) {
      const sums = manyTaps(from, weights + <usize>point * bytes, bytes);
      const value = f32x4.add(sums, v128.shuffle<f32>(sums, sums, 2, 3, 0, 1));
      peak = f32x4.pmax(peak, f32x4.abs(value));
    }
    known = max(f32x4.extract_lane(peak, 0), f32x4.extract_lane(peak, 1));
    from += 8;
  }
  return known;
}

/** Whether a top may lie between a frame and the next, on either side: one of both is one among its neighbours, or zero lies between them. */
@inline
function turns(at: usize): bool {
  const x = v128.load64_zero(at);
  const y = v128.load64_zero(at, 8);
  const a = f32x4.abs(x);
  const b = f32x4.abs(y);
  const left = v128.and(f32x4.ge(a, b), f32x4.ge(a, f32x4.abs(v128.load64_zero(at - 8))));
  const right = v128.and(f32x4.ge(b, a), f32x4.ge(b, f32x4.abs(v128.load64_zero(at, 16))));
  const crosses = f32x4.lt(f32x4.mul(x, y), f32x4.splat(0));
  // Two lanes are sound; the others are nothing.
  return i64x2.extract_lane(v128.or(v128.or(left, right), crosses), 0) != 0;
}

@inline
function maxOf(values: v128): f32 {
  return max(
    max(f32x4.extract_lane(values, 0), f32x4.extract_lane(values, 1)),
    max(f32x4.extract_lane(values, 2), f32x4.extract_lane(values, 3)),
  );
}

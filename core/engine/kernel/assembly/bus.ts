import { pair } from './vectors';

@inline
function sum(values: v128): f32 {
  return (
    f32x4.extract_lane(values, 0) +
    f32x4.extract_lane(values, 1) +
    f32x4.extract_lane(values, 2) +
    f32x4.extract_lane(values, 3)
  );
}

@inline
function highest(values: v128): f32 {
  return max(
    max(f32x4.extract_lane(values, 0), f32x4.extract_lane(values, 1)),
    max(f32x4.extract_lane(values, 2), f32x4.extract_lane(values, 3)),
  );
}

/** Adds `count` frames, scaled by gain + step · (i + 1). @returns the sum of squares of what was added */
export function addRamped(from: usize, to: usize, gain: f32, step: f32, count: i32): f32 {
  let k = f32x4(1, 1, 2, 2);
  const two = f32x4.splat(2);
  const base = f32x4.splat(gain);
  const slope = f32x4.splat(step);
  let squares = f32x4.splat(0);
  let i = 1;
  for (; i < count; i += 2) {
    const x = f32x4.mul(v128.load(from), f32x4.add(base, f32x4.mul(slope, k)));
    k = f32x4.add(k, two);
    squares = f32x4.add(squares, f32x4.mul(x, x));
    v128.store(to, f32x4.add(v128.load(to), x));
    from += 16;
    to += 16;
  }
  if (i == count) {
    const x = f32x4.mul(v128.load64_zero(from), f32x4.add(base, f32x4.mul(slope, k)));
    squares = f32x4.add(squares, f32x4.mul(x, x));
    v128.store64_lane(to, f32x4.add(v128.load64_zero(to), x), 0);
  }
  return sum(squares);
}

/**
 * Adds a position to its track through a matrix (left from left, left from right, right from left, right from right) that grows by
 * d… per frame, and clears it.
 * @param count even; @returns the highest absolute value that was added
 */
export function mixPosition(
  from: usize,
  to: usize,
  count: i32,
  ll: f32,
  lr: f32,
  rl: f32,
  rr: f32,
  dll: f32,
  dlr: f32,
  drl: f32,
  drr: f32,
): f32 {
  const same = pair(ll, rr);
  const other = pair(lr, rl);
  const nothing = f32x4.splat(0);
  let peak = nothing;
  if (dll == 0 && dlr == 0 && drl == 0 && drr == 0) {
    // It stands still, and mostly as recorded: nothing crosses over.
    const crosses = lr != 0 || rl != 0;
    for (let i = 0; i < count; i += 2) {
      const x = v128.load(from);
      let y = f32x4.mul(x, same);
      if (crosses) y = f32x4.add(y, f32x4.mul(v128.shuffle<f32>(x, x, 1, 0, 3, 2), other));
      peak = f32x4.pmax(peak, f32x4.abs(y));
      v128.store(to, f32x4.add(v128.load(to), y));
      v128.store(from, nothing);
      from += 16;
      to += 16;
    }
    return highest(peak);
  }
  const sameStep = pair(dll, drr);
  const otherStep = pair(dlr, drl);
  const two = f32x4.splat(2);
  let k = f32x4(1, 1, 2, 2);
  for (let i = 0; i < count; i += 2) {
    const x = v128.load(from);
    const y = f32x4.add(
      f32x4.mul(x, f32x4.add(same, f32x4.mul(sameStep, k))),
      f32x4.mul(v128.shuffle<f32>(x, x, 1, 0, 3, 2), f32x4.add(other, f32x4.mul(otherStep, k))),
    );
    k = f32x4.add(k, two);
    peak = f32x4.pmax(peak, f32x4.abs(y));
    v128.store(to, f32x4.add(v128.load(to), y));
    v128.store(from, nothing);
    from += 16;
    to += 16;
  }
  return highest(peak);
}

/** A frame of a ring, or what lies between frames. @param row ten weights of the frames from `place` − 5 on, or 0 for the frame itself */
@inline
function delayed(line: usize, mask: i32, place: i32, row: usize): v128 {
  if (row == 0) return v128.load64_zero(line + (<usize>(place & mask) << 3));
  let sum = f32x4.splat(0);
  for (let k = 0; k < 10; k++) {
    const x = v128.load64_zero(line + (<usize>((place - 5 + k) & mask) << 3));
    sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(row + (<usize>k << 2)), x));
  }
  return sum;
}

/**
 * Delays a sound in place, going from one delay over to another in a straight crossfade.
 * @param line a ring of `mask` + 1 frames, of which `write` is the next; @param before, after whole frames, at most `mask` − 5
 * @param beforeRow, afterRow rows of the table of interpolation for what is to be added to them, 0 for nothing; then at least 4 frames
 */
export function delay(
  sound: usize,
  line: usize,
  mask: i32,
  write: i32,
  before: i32,
  beforeRow: usize,
  after: i32,
  afterRow: usize,
  count: i32,
): void {
  for (let i = 0; i < count; i++) {
    const at = (write + i) & mask;
    v128.store64_lane(line + (<usize>at << 3), v128.load64_zero(sound), 0);
    let x = delayed(line, mask, at - before, beforeRow);
    if (before != after || beforeRow != afterRow) {
      const y = delayed(line, mask, at - after, afterRow);
      x = f32x4.add(x, f32x4.mul(f32x4.splat(<f32>(i + 1) / <f32>count), f32x4.sub(y, x)));
    }
    v128.store64_lane(sound, x, 0);
    sound += 8;
  }
}

/**
 * Gives a track its level and its send: `sound` becomes what is heard of it, `hall` what goes to the hall. Gains grow by
 * d… per frame.
 * @param count even; @returns the highest absolute value heard
 */
export function finishTrack(
  sound: usize,
  hall: usize,
  count: i32,
  left: f32,
  right: f32,
  dLeft: f32,
  dRight: f32,
  send: f32,
  dSend: f32,
): f32 {
  let k = f32x4(1, 1, 2, 2);
  const two = f32x4.splat(2);
  const gain = pair(left, right);
  const step = pair(dLeft, dRight);
  const share = f32x4.splat(send);
  const shareStep = f32x4.splat(dSend);
  let peak = f32x4.splat(0);
  for (let i = 0; i < count; i += 2) {
    const x = f32x4.mul(v128.load(sound), f32x4.add(gain, f32x4.mul(step, k)));
    peak = f32x4.pmax(peak, f32x4.abs(x));
    v128.store(sound, x);
    v128.store(hall, f32x4.mul(x, f32x4.add(share, f32x4.mul(shareStep, k))));
    k = f32x4.add(k, two);
    sound += 16;
    hall += 16;
  }
  return highest(peak);
}

/** Fills bytes with 0. */
export function clear(at: usize, bytes: usize): void {
  memory.fill(at, 0, bytes);
}

/** Takes interleaved frames apart. @param count a multiple of 4 */
export function split(from: usize, left: usize, right: usize, count: i32): void {
  for (let i = 0; i < count; i += 4) {
    const a = v128.load(from);
    const b = v128.load(from, 16);
    v128.store(left, v128.shuffle<f32>(a, b, 0, 2, 4, 6));
    v128.store(right, v128.shuffle<f32>(a, b, 1, 3, 5, 7));
    from += 32;
    left += 16;
    right += 16;
  }
}

/** Adds frames as they are. @param count even */
export function add(from: usize, to: usize, count: i32): void {
  for (let i = 0; i < count; i += 2) {
    v128.store(to, f32x4.add(v128.load(to), v128.load(from)));
    from += 16;
    to += 16;
  }
}

/** Frames with left and right exchanged. @param count even */
export function exchange(from: usize, to: usize, count: i32): void {
  for (let i = 0; i < count; i += 2) {
    const x = v128.load(from);
    v128.store(to, v128.shuffle<f32>(x, x, 1, 0, 3, 2));
    from += 16;
    to += 16;
  }
}

/** Copies bytes; both places may overlap. */
export function copy(to: usize, from: usize, bytes: usize): void {
  memory.copy(to, from, bytes);
}

/** Puts two channels together as interleaved frames. @param count a multiple of 4 */
export function join(left: usize, right: usize, to: usize, count: i32): void {
  for (let i = 0; i < count; i += 4) {
    const l = v128.load(left);
    const r = v128.load(right);
    v128.store(to, v128.shuffle<f32>(l, r, 0, 4, 1, 5));
    v128.store(to, v128.shuffle<f32>(l, r, 2, 6, 3, 7), 16);
    left += 16;
    right += 16;
    to += 32;
  }
}

/** Samples as whole numbers of 24 bits, three bytes each: rounded, and held within full scale. @param count a multiple of 4 */
export function encode24(from: usize, to: usize, count: i32): void {
  const full = f32x4.splat(8388608);
  const top = i32x4.splat(8388607);
  const bottom = i32x4.splat(-8388608);
  const half = f32x4.splat(0.5);
  for (let i = 0; i < count; i += 4) {
    // Halves go up, as everywhere: the floor of a sum that 32 bits would round is worked out in two steps.
    const scaled = f32x4.mul(v128.load(from), full);
    const floor = f32x4.floor(scaled);
    const up = f32x4.ge(f32x4.sub(scaled, floor), half);
    const whole = i32x4.sub(i32x4.trunc_sat_f32x4_s(floor), up);
    const held = i32x4.max_s(i32x4.min_s(whole, top), bottom);
    const a = i32x4.extract_lane(held, 0);
    const b = i32x4.extract_lane(held, 1);
    const c = i32x4.extract_lane(held, 2);
    const d = i32x4.extract_lane(held, 3);
    store<i32>(to, (a & 0xffffff) | (b << 24));
    store<i32>(to, ((b >> 8) & 0xffff) | (c << 16), 4);
    store<i32>(to, ((c >> 16) & 0xff) | (d << 8), 8);
    from += 16;
    to += 12;
  }
}

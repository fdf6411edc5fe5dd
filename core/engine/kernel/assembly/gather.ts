import { pair } from './vectors';

/** How a recording lies in memory: 16-bit or float, one channel or two interleaved. */
const MONO16: i32 = 0;
const STEREO16: i32 = 1;
const MONO32: i32 = 2;

/** Two frames of a recording as (l, r, l, r). */
@inline
function twoFrames(data: usize, format: i32, frame: i32): v128 {
  if (format == STEREO16) return f32x4.convert_i32x4_s(v128.load_ext<i16>(data + (<usize>frame << 2)));
  if (format == MONO16) {
    const both = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(v128.load32_zero(data + (<usize>frame << 1))));
    return v128.shuffle<f32>(both, both, 0, 0, 1, 1);
  }
  if (format == MONO32) {
    const both = v128.load64_zero(data + (<usize>frame << 2));
    return v128.shuffle<f32>(both, both, 0, 0, 1, 1);
  }
  return v128.load(data + (<usize>frame << 3));
}

/** One frame of a recording as (l, r, …); nothing behind it is read. */
@inline
function oneFrame(data: usize, format: i32, frame: i32): v128 {
  if (format == STEREO16)
    return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(v128.load32_zero(data + (<usize>frame << 2))));
  if (format == MONO16) return f32x4.splat(<f32>load<i16>(data + (<usize>frame << 1)));
  if (format == MONO32) return f32x4.splat(load<f32>(data + (<usize>frame << 2)));
  return v128.load64_zero(data + (<usize>frame << 3));
}

/** Converts and scales `count` frames that lie one behind the other. */
@inline
function run(
  out: usize,
  data: usize,
  format: i32,
  frame: i32,
  at: i32,
  count: i32,
  gain: v128,
  step: v128,
  add: i32,
): void {
  let k = f32x4.add(f32x4(0, 0, 1, 1), f32x4.splat(<f32>at));
  const two = f32x4.splat(2);
  let to = out + (<usize>at << 3);
  const last = frame + count - 1;
  if (add) {
    for (; frame < last; frame += 2) {
      const scaled = f32x4.mul(twoFrames(data, format, frame), f32x4.add(gain, f32x4.mul(step, k)));
      v128.store(to, f32x4.add(v128.load(to), scaled));
      k = f32x4.add(k, two);
      to += 16;
    }
  } else {
    for (; frame < last; frame += 2) {
      v128.store(to, f32x4.mul(twoFrames(data, format, frame), f32x4.add(gain, f32x4.mul(step, k))));
      k = f32x4.add(k, two);
      to += 16;
    }
  }
  if (frame != last) return;
  let one = f32x4.mul(oneFrame(data, format, frame), f32x4.add(gain, f32x4.mul(step, k)));
  if (add) one = f32x4.add(v128.load64_zero(to), one);
  v128.store64_lane(to, one, 0);
}

/**
 * Lays frames [first, first + count) of a recording out as they are heard, scaled by gain + step · i: round its loop, and silent
 * outside of it.
 * @param out `count` frames; added to with `add`, else overwritten
 * @param frames the recording's length
 * @param loopStart, loopEnd frames; no loop when both are 0
 * @param inLoop whether the loop's start has been passed from its end: what lies before it is then the loop's end
 */
export function gather(
  out: usize,
  data: usize,
  format: i32,
  first: i32,
  count: i32,
  frames: i32,
  loopStart: i32,
  loopEnd: i32,
  inLoop: i32,
  gainLeft: f32,
  gainRight: f32,
  stepLeft: f32,
  stepRight: f32,
  add: i32,
): void {
  const gain = pair(gainLeft, gainRight);
  const step = pair(stepLeft, stepRight);
  const round = loopEnd - loopStart;
  const end = round > 0 ? loopEnd : frames;
  let at: i32 = 0;
  while (at < count) {
    let frame = first + at;
    let length = count - at;
    if (round > 0) {
      if (frame >= loopEnd) frame = loopStart + ((frame - loopEnd) % round);
      else if (inLoop && frame < loopStart) frame = loopEnd - 1 - ((loopStart - 1 - frame) % round);
    }
    if (frame < 0 || frame >= end) {
      if (frame < 0 && length > -frame) length = -frame;
      if (!add) memory.fill(out + (<usize>at << 3), 0, <usize>length << 3);
    } else {
      if (length > end - frame) length = end - frame;
      // One loop for each format: which it is, is known outside of it.
      if (format == STEREO16) run(out, data, STEREO16, frame, at, length, gain, step, add);
      else if (format == MONO16) run(out, data, MONO16, frame, at, length, gain, step, add);
      else if (format == MONO32) run(out, data, MONO32, frame, at, length, gain, step, add);
      else run(out, data, 3, frame, at, length, gain, step, add);
    }
    at += length;
  }
}

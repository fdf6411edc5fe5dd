/** Left and right twice: (l, r, l, r). */
@inline
export function pair(left: f32, right: f32): v128 {
  return v128.shuffle<f32>(f32x4.splat(left), f32x4.splat(right), 0, 4, 1, 5);
}

/** Values nearer to 0 than `floor` become 0: numbers too small to be normal would slow every loop down. */
@inline
export function settled(values: v128, floor: f32): v128 {
  return v128.and(values, f32x4.ge(f32x4.abs(values), f32x4.splat(floor)));
}

/** Below this, in full scale 1, nothing is left of a sound: −300 dB. */
export const FLOOR: f32 = 1e-15;

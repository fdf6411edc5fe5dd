/** Below this nothing is left of a sound; numbers too small to be normal would slow the loop down. */
const FLOOR: f64 = 1e-20;

@inline
function settled(values: v128): v128 {
  return v128.and(values, f64x2.ge(f64x2.abs(values), f64x2.splat(FLOOR)));
}

/** Second-order section in place on both channels, in doubles, direct form II transposed. @param state four doubles */
export function biquad(
  sound: usize,
  state: usize,
  count: i32,
  b0: f64,
  b1: f64,
  b2: f64,
  a1: f64,
  a2: f64,
): void {
  const c0 = f64x2.splat(b0);
  const c1 = f64x2.splat(b1);
  const c2 = f64x2.splat(b2);
  const r1 = f64x2.splat(a1);
  const r2 = f64x2.splat(a2);
  let s1 = v128.load(state);
  let s2 = v128.load(state, 16);
  for (let i = 0; i < count; i++) {
    const x = f64x2.promote_low_f32x4(v128.load64_zero(sound));
    const y = f64x2.add(f64x2.mul(c0, x), s1);
    s1 = f64x2.add(f64x2.sub(f64x2.mul(c1, x), f64x2.mul(r1, y)), s2);
    s2 = f64x2.sub(f64x2.mul(c2, x), f64x2.mul(r2, y));
    v128.store64_lane(sound, f32x4.demote_f64x2_zero(y), 0);
    sound += 8;
  }
  v128.store(state, settled(s1));
  v128.store(state, settled(s2), 16);
}

/**
 * Sum of the squares of both channels after two sections in a row, which changes nothing of the sound.
 * @param sections b0, b1, b2, a1, a2 of each, doubles; @param state eight doubles
 */
export function weigh(sound: usize, count: i32, sections: usize, state: usize): f64 {
  const b0 = v128.load64_splat(sections);
  const b1 = v128.load64_splat(sections, 8);
  const b2 = v128.load64_splat(sections, 16);
  const a1 = v128.load64_splat(sections, 24);
  const a2 = v128.load64_splat(sections, 32);
  const d0 = v128.load64_splat(sections, 40);
  const d1 = v128.load64_splat(sections, 48);
  const d2 = v128.load64_splat(sections, 56);
  const e1 = v128.load64_splat(sections, 64);
  const e2 = v128.load64_splat(sections, 72);
  let s1 = v128.load(state);
  let s2 = v128.load(state, 16);
  let t1 = v128.load(state, 32);
  let t2 = v128.load(state, 48);
  let squares = f64x2.splat(0);
  for (let i = 0; i < count; i++) {
    const x = f64x2.promote_low_f32x4(v128.load64_zero(sound));
    sound += 8;
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.add(f64x2.sub(f64x2.mul(b1, x), f64x2.mul(a1, y)), s2);
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const z = f64x2.add(f64x2.mul(d0, y), t1);
    t1 = f64x2.add(f64x2.sub(f64x2.mul(d1, y), f64x2.mul(e1, z)), t2);
    t2 = f64x2.sub(f64x2.mul(d2, y), f64x2.mul(e2, z));
    squares = f64x2.add(squares, f64x2.mul(z, z));
  }
  v128.store(state, settled(s1));
  v128.store(state, settled(s2), 16);
  v128.store(state, settled(t1), 32);
  v128.store(state, settled(t2), 48);
  return f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1);
}

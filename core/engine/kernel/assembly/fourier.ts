/**
 * Fourier transform of complex 32-bit floats (real and imaginary part interleaved) after Stockham: four at a time, without
 * reordering. And what a partitioned convolution does with spectra: left and right travel as real and imaginary part of one
 * sound and are told apart afterwards.
 */

/** Complex product of two values each; `wr` = (re, re, …) and `wi` = (−im, im, …) of the factors. */
@inline
function times(x: v128, wr: v128, wi: v128): v128 {
  return f32x4.add(f32x4.mul(x, wr), f32x4.mul(v128.shuffle<f32>(x, x, 1, 0, 3, 2), wi));
}

@inline
function reals(w: v128): v128 {
  return v128.shuffle<f32>(w, w, 0, 0, 2, 2);
}

@inline
function imaginaries(w: v128): v128 {
  return f32x4.mul(v128.shuffle<f32>(w, w, 1, 1, 3, 3), f32x4(-1, 1, -1, 1));
}

/** Two factors, `step` values apart. */
@inline
function twoFactors(factors: usize, at: i32, step: i32): v128 {
  return v128.load64_lane(factors + (<usize>(at + step) << 3), v128.load64_zero(factors + (<usize>at << 3)), 1);
}

/** i · x */
@inline
function turned(x: v128): v128 {
  return f32x4.mul(v128.shuffle<f32>(x, x, 1, 0, 3, 2), f32x4(-1, 1, -1, 1));
}

/** The first pass of an odd number of doublings: by two. */
function firstByTwo(from: usize, to: usize, n: i32, factors: usize): void {
  const half = <usize>(n >> 1) << 3;
  for (let p = 0; p < n >> 1; p += 2) {
    const at = from + (<usize>p << 3);
    const a = v128.load(at);
    const b = v128.load(at + half);
    const w = twoFactors(factors, p, 1);
    const first = f32x4.add(a, b);
    const second = times(f32x4.sub(a, b), reals(w), imaginaries(w));
    const out = to + (<usize>p << 4);
    v128.store(out, v128.shuffle<f32>(first, second, 0, 1, 4, 5));
    v128.store(out, v128.shuffle<f32>(first, second, 2, 3, 6, 7), 16);
  }
}

/** The first pass by four. */
function firstByFour(from: usize, to: usize, n: i32, factors: usize): void {
  const quarter = <usize>(n >> 2) << 3;
  for (let p = 0; p < n >> 2; p += 2) {
    const at = from + (<usize>p << 3);
    const a = v128.load(at);
    const b = v128.load(at + quarter);
    const c = v128.load(at + 2 * quarter);
    const d = v128.load(at + 3 * quarter);
    const w1 = twoFactors(factors, p, 1);
    const w2 = twoFactors(factors, 2 * p, 2);
    const w3 = twoFactors(factors, 3 * p, 3);
    const ac = f32x4.add(a, c);
    const bd = f32x4.add(b, d);
    const less = f32x4.sub(a, c);
    const across = turned(f32x4.sub(b, d));
    const y0 = f32x4.add(ac, bd);
    const y1 = times(f32x4.sub(less, across), reals(w1), imaginaries(w1));
    const y2 = times(f32x4.sub(ac, bd), reals(w2), imaginaries(w2));
    const y3 = times(f32x4.add(less, across), reals(w3), imaginaries(w3));
    const out = to + (<usize>p << 5);
    v128.store(out, v128.shuffle<f32>(y0, y1, 0, 1, 4, 5));
    v128.store(out, v128.shuffle<f32>(y2, y3, 0, 1, 4, 5), 16);
    v128.store(out, v128.shuffle<f32>(y0, y1, 2, 3, 6, 7), 32);
    v128.store(out, v128.shuffle<f32>(y2, y3, 2, 3, 6, 7), 48);
  }
}

/** Every later pass: `n` values of each of `s` interleaved transforms, s even. */
function byFour(from: usize, to: usize, n: i32, s: i32, factors: usize): void {
  const m = n >> 2;
  const block = <usize>s << 3;
  for (let p = 0; p < m; p++) {
    const w1 = v128.load64_splat(factors + (<usize>(p * s) << 3));
    const w2 = v128.load64_splat(factors + (<usize>(2 * p * s) << 3));
    const w3 = v128.load64_splat(factors + (<usize>(3 * p * s) << 3));
    const r1 = reals(w1);
    const i1 = imaginaries(w1);
    const r2 = reals(w2);
    const i2 = imaginaries(w2);
    const r3 = reals(w3);
    const i3 = imaginaries(w3);
    const a = from + <usize>p * block;
    const b = a + <usize>m * block;
    const c = b + <usize>m * block;
    const d = c + <usize>m * block;
    const y = to + <usize>(4 * p) * block;
    for (let q: usize = 0; q < block; q += 16) {
      const va = v128.load(a + q);
      const vb = v128.load(b + q);
      const vc = v128.load(c + q);
      const vd = v128.load(d + q);
      const ac = f32x4.add(va, vc);
      const bd = f32x4.add(vb, vd);
      const less = f32x4.sub(va, vc);
      const across = turned(f32x4.sub(vb, vd));
      v128.store(y + q, f32x4.add(ac, bd));
      v128.store(y + block + q, times(f32x4.sub(less, across), r1, i1));
      v128.store(y + 2 * block + q, times(f32x4.sub(ac, bd), r2, i2));
      v128.store(y + 3 * block + q, times(f32x4.add(less, across), r3, i3));
    }
  }
}

/**
 * Forward transform of `n` values, a power of two from 16 on.
 * @param data the values; @param other room for as many; both are overwritten
 * @param factors e^(−2πi·k/n), k = 0 … n − 1
 * @returns which of both holds the spectrum
 */
export function transform(data: usize, other: usize, n: i32, factors: usize): usize {
  const odd = ctz(n) & 1;
  let length: i32;
  let s: i32;
  if (odd) {
    firstByTwo(data, other, n, factors);
    length = n >> 1;
    s = 2;
  } else {
    firstByFour(data, other, n, factors);
    length = n >> 2;
    s = 4;
  }
  let from = other;
  let to = data;
  while (length > 1) {
    byFour(from, to, length, s, factors);
    const swap = from;
    from = to;
    to = swap;
    length >>= 2;
    s <<= 2;
  }
  return from;
}

/**
 * Spectra of left and right from that of left + i · right. Each becomes `stride` real parts and as many imaginary parts, of which
 * n / 2 + 1 are used.
 */
export function separate(spectrum: usize, n: i32, out: usize, stride: i32): void {
  const bytes = <usize>stride << 2;
  for (let k = 0; k <= n >> 1; k++) {
    const at = spectrum + (<usize>k << 3);
    const mirror = spectrum + (<usize>((n - k) & (n - 1)) << 3);
    const ar = load<f32>(at);
    const ai = load<f32>(at, 4);
    const br = load<f32>(mirror);
    const bi = load<f32>(mirror, 4);
    const to = out + (<usize>k << 2);
    store<f32>(to, 0.5 * (ar + br));
    store<f32>(to + bytes, 0.5 * (ai - bi));
    store<f32>(to + 2 * bytes, 0.5 * (ai + bi));
    store<f32>(to + 3 * bytes, 0.5 * (br - ar));
  }
}

/** Adds gain · x · h to a sum: real and imaginary parts apart, `stride` of each, a multiple of 4. */
export function multiply(total: usize, x: usize, h: usize, gain: f32, stride: i32): void {
  const g = f32x4.splat(gain);
  const bytes = <usize>stride << 2;
  for (let k: usize = 0; k < bytes; k += 16) {
    const xr = f32x4.mul(v128.load(x + k), g);
    const xi = f32x4.mul(v128.load(x + bytes + k), g);
    const hr = v128.load(h + k);
    const hi = v128.load(h + bytes + k);
    v128.store(
      total + k,
      f32x4.add(v128.load(total + k), f32x4.sub(f32x4.mul(xr, hr), f32x4.mul(xi, hi))),
    );
    v128.store(
      total + bytes + k,
      f32x4.add(v128.load(total + bytes + k), f32x4.add(f32x4.mul(xr, hi), f32x4.mul(xi, hr))),
    );
  }
}

/**
 * Spectra of left and right become that of left + i · right with its parts exchanged and scaled by 1 / n: its forward transform is
 * then the sound with left as imaginary and right as real part.
 */
export function unite(left: usize, right: usize, stride: i32, n: i32, out: usize): void {
  const bytes = <usize>stride << 2;
  const scale: f32 = 1 / <f32>n;
  for (let k = 0; k <= n >> 1; k++) {
    const lr = load<f32>(left + (<usize>k << 2)) * scale;
    const li = load<f32>(left + bytes + (<usize>k << 2)) * scale;
    const rr = load<f32>(right + (<usize>k << 2)) * scale;
    const ri = load<f32>(right + bytes + (<usize>k << 2)) * scale;
    const to = out + (<usize>k << 3);
    store<f32>(to, li + rr);
    store<f32>(to, lr - ri, 4);
    if (k == 0 || k == n >> 1) continue;
    const mirror = out + (<usize>(n - k) << 3);
    store<f32>(mirror, rr - li);
    store<f32>(mirror, lr + ri, 4);
  }
}

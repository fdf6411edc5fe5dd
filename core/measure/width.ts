/** How wide a stereo recording stands. */
export interface Width {
  /** Correlation of left and right, −1 … 1; 1 is a bare point in the middle. */
  correlation: number;
  /** Level of the difference against the sum in dB; the lower, the narrower. */
  sideDb: number;
}

/**
 * Width of frames [from, to). A one-channel recording is a point. Undefined when silent.
 */
export function widthOf(channels: readonly Float32Array[], from: number, to: number): Width | undefined {
  const [left, right] = [channels[0], channels[channels.length - 1]];
  let lr = 0;
  let ll = 0;
  let rr = 0;
  for (let i = Math.max(0, from); i < Math.min(to, left.length); i++) {
    lr += left[i] * right[i];
    ll += left[i] * left[i];
    rr += right[i] * right[i];
  }
  if (ll + rr < 1e-12) return undefined;
  const mid = ll + rr + 2 * lr;
  const side = ll + rr - 2 * lr;
  return {
    correlation: ll > 0 && rr > 0 ? lr / Math.sqrt(ll * rr) : 0,
    sideDb: 10 * Math.log10(Math.max(side, 1e-9 * mid, 1e-20) / Math.max(mid, 1e-20)),
  };
}

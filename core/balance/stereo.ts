import type { Stereo } from './apart.ts';

/** How the two sides of a sound stand to each other. */
export interface StereoFigures {
  /** Correlation of the sides, −1 … 1; 0 where one of them is silent. */
  correlation: number;
  /** Level of the difference of the sides against their sum, dB; −90 where there is none. */
  sideDb: number;
}

/** How the sides of a sound stand to each other over all of it. */
export function stereoOf([left, right]: Stereo): StereoFigures {
  let [ll, rr, lr] = [0, 0, 0];
  for (let i = 0; i < left.length; i++) {
    ll += left[i] * left[i];
    rr += right[i] * right[i];
    lr += left[i] * right[i];
  }
  const middle = ll + rr + 2 * lr;
  const side = Math.max(ll + rr - 2 * lr, 1e-9 * middle, 1e-20);
  return {
    correlation: ll > 0 && rr > 0 ? lr / Math.sqrt(ll * rr) : 0,
    sideDb: 10 * Math.log10(side / Math.max(middle, 1e-20)),
  };
}

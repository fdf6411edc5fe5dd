import { clamp } from '../units/index.ts';

/** Normalised second-order section: y = b0·x + b1·x₁ + b2·x₂ − a1·y₁ − a2·y₂. */
export interface BiquadCoefficients {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

/** Band-pass with 0 dB at its centre (R. Bristow-Johnson's audio EQ cookbook); q is centre / bandwidth. */
export function bandPass(centreHz: number, q: number, rate: number): BiquadCoefficients {
  const w = (2 * Math.PI * clamp(centreHz, 1, rate * 0.49)) / rate;
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha;
  return { b0: alpha / a0, b1: 0, b2: -alpha / a0, a1: (-2 * Math.cos(w)) / a0, a2: (1 - alpha) / a0 };
}

/** One channel of a second-order section, transposed direct form II. */
export class Biquad {
  private s1 = 0;
  private s2 = 0;
  private c: BiquadCoefficients;
  constructor(coefficients: BiquadCoefficients) {
    this.c = coefficients;
  }
  /** Forgets the past. */
  reset(): void {
    this.s1 = 0;
    this.s2 = 0;
  }
  /** Filters frames [from, to) of `input` into `output`; both may be the same array. */
  process(input: Float32Array | Float64Array, output: Float32Array | Float64Array, from: number, to: number): void {
    const { b0, b1, b2, a1, a2 } = this.c;
    let { s1, s2 } = this;
    for (let i = from; i < to; i++) {
      const x = input[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      output[i] = y;
    }
    // Denormals would slow the loop down after the sound has ended.
    this.s1 = Math.abs(s1) < 1e-30 ? 0 : s1;
    this.s2 = Math.abs(s2) < 1e-30 ? 0 : s2;
  }
}

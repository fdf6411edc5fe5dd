/** Normalised second-order section: y = b0·x + b1·x₁ + b2·x₂ − a1·y₁ − a2·y₂. */
export interface BiquadCoefficients {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
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
  process(
    input: Float32Array | Float64Array,
    output: Float32Array | Float64Array,
    from: number,
    to: number,
  ): void {
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

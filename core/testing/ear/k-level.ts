/**
 * Meters of the tests' own: written apart from what they judge, and checked on signals of known truth (`ear.test.ts`).
 * Nothing of `core/measure`, `core/report`, `core/performance` or `core/dsp` may be used here.
 */

const RATE = 48_000;

/** The two sections of the K-weighting at 48 kHz as ITU-R BS.1770-5, annex 1, tables 1 and 2, prints them: b0 b1 b2 a1 a2. */
const SECTIONS = [
  [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585],
  [1, -2, 1, -1.99004745483398, 0.99007225036621],
] as const;

/** A signal under the K-weighting, 48 kHz. Allocates. */
export function kWeighted(signal: ArrayLike<number>): Float64Array {
  let x = Float64Array.from(signal);
  for (const [b0, b1, b2, a1, a2] of SECTIONS) {
    const y = new Float64Array(x.length);
    for (let i = 0; i < x.length; i++)
      y[i] =
        b0 * x[i] + b1 * (x[i - 1] ?? 0) + b2 * (x[i - 2] ?? 0) - a1 * (y[i - 1] ?? 0) - a2 * (y[i - 2] ?? 0);
    x = y;
  }
  return x;
}

/** Sums of squares, so that the power of any stretch is one subtraction. */
export class PowerTape {
  private readonly sums: Float64Array;

  /** @param channels 48 kHz; each is K-weighted, and their powers are added */
  constructor(channels: readonly ArrayLike<number>[]) {
    const weighted = channels.map(kWeighted);
    const frames = weighted[0].length;
    this.sums = new Float64Array(frames + 1);
    for (let i = 0; i < frames; i++) {
      let power = 0;
      for (const channel of weighted) power += channel[i] ** 2;
      this.sums[i + 1] = this.sums[i] + power;
    }
  }

  get seconds(): number {
    return (this.sums.length - 1) / RATE;
  }

  /** Mean power in dB over [from, to) seconds; −200 when it is silent or outside. */
  db(from: number, to: number): number {
    const last = this.sums.length - 1;
    const a = Math.min(last, Math.max(0, Math.round(from * RATE)));
    const b = Math.min(last, Math.max(a, Math.round(to * RATE)));
    return 10 * Math.log10((this.sums[b] - this.sums[a]) / Math.max(1, b - a) + 1e-20);
  }

  /** Lowest and highest window within [from, to): centres every 5 ms, each `width` long. */
  extremes(from: number, to: number, width = 0.05): { low: number; high: number } {
    let low = Infinity;
    let high = -Infinity;
    for (let at = from; at + width <= to + 1e-9; at += 0.005) {
      const level = this.db(at, at + width);
      low = Math.min(low, level);
      high = Math.max(high, level);
    }
    return { low, high };
  }

  /**
   * When a note speaks: its level in steps of 5 ms comes within 10 dB of its own peak of the 250 ms after it rises out
   * of what was there before. Straight between steps, each counted at its middle.
   * @param from, to where it is looked for, in seconds
   * @param floorDb level above which something is a note at all
   * @returns seconds, or undefined when nothing rises
   */
  speaks(from: number, to: number, floorDb: number): number | undefined {
    const step = 0.005;
    const level = (i: number) => this.db(from + i * step, from + (i + 1) * step);
    const steps = Math.floor((to - from) / step);
    let rises = 0;
    while (rises < steps && level(rises) < floorDb + 3) rises++;
    if (rises >= steps) return undefined;
    let peak = -Infinity;
    for (let i = rises; i < Math.min(steps, rises + 50); i++) peak = Math.max(peak, level(i));
    let at = rises;
    while (level(at) < peak - 10) at++;
    const [before, now] = [level(at - 1), level(at)];
    const share = now > before ? Math.min(1, Math.max(0, (peak - 10 - before) / (now - before))) : 1;
    return from + (at - 0.5 + share) * step;
  }
}

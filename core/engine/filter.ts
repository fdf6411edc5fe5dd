import type { FilterKind } from '../catalogue/index.ts';
import { clamp, exp10, tan } from '../units/index.ts';
import type { Kernel } from './kernel/index.ts';

/** Where a filter stands: the coefficients of a state-variable filter with trapezoidal integrators (A. Simper 2013). */
export class FilterPoint {
  /** 1 − a1: small, so that it keeps its precision in 32 bits. */
  less = 0;
  a2 = 0;
  a3 = 0;
  /** Damping: √2 is a Butterworth response. */
  k = 0;
  /** Share of a step that one pole takes. */
  share = 0;
  private cutoffHz = -1;
  private resonanceDb = -1;

  /** @param cutoffHz 20 … 0.45 · rate; @param resonanceDb above a Butterworth, 0 … 40 */
  set(cutoffHz: number, resonanceDb: number, rate: number): void {
    if (cutoffHz === this.cutoffHz && resonanceDb === this.resonanceDb) return;
    this.cutoffHz = cutoffHz;
    this.resonanceDb = resonanceDb;
    const g = tan((Math.PI * clamp(cutoffHz, 20, rate * 0.45)) / rate);
    this.k = Math.SQRT2 / exp10(clamp(resonanceDb, 0, 40) / 20);
    const a1 = 1 / (1 + g * (g + this.k));
    this.less = g * (g + this.k) * a1;
    this.a2 = g * a1;
    this.a3 = g * this.a2;
    this.share = g / (1 + g);
  }

  copy(other: FilterPoint): void {
    this.less = other.less;
    this.a2 = other.a2;
    this.a3 = other.a3;
    this.k = other.k;
    this.share = other.share;
    this.cutoffHz = other.cutoffHz;
    this.resonanceDb = other.resonanceDb;
  }
}

/**
 * Filters two stereo sounds in place, going from one setting over to another.
 * @param first, second addresses; @param state address of 8 floats
 */
export function filterPair(
  kernel: Kernel,
  kind: FilterKind,
  first: number,
  second: number,
  state: number,
  from: FilterPoint,
  to: FilterPoint,
  frames: number,
): void {
  if (kind === 'lowpass1' || kind === 'highpass1') {
    const step = (to.share - from.share) / frames;
    kernel.onePole(first, second, state, frames, from.share, step, kind === 'highpass1' ? 1 : 0);
    return;
  }
  const d1 = (to.less - from.less) / frames;
  const d2 = (to.a2 - from.a2) / frames;
  const d3 = (to.a3 - from.a3) / frames;
  if (kind === 'lowpass2') {
    kernel.lowPass(first, second, state, frames, from.less, from.a2, from.a3, d1, d2, d3);
    return;
  }
  // Output = input − k · band (− low); the band-pass is k · band alone.
  const sign = kind === 'bandpass' ? 1 : -1;
  const input = kind === 'bandpass' ? 0 : 1;
  const low = kind === 'highpass2' ? -1 : 0;
  const step = (sign * (to.k - from.k)) / frames;
  kernel.stateVariable(
    first,
    second,
    state,
    frames,
    from.less,
    from.a2,
    from.a3,
    d1,
    d2,
    d3,
    input,
    sign * from.k,
    step,
    low,
  );
}

/** Low-pass of two poles on four stereo sounds at once. @param state address of 16 floats: those of two pairs */
export function lowPassFour(
  kernel: Kernel,
  first: number,
  second: number,
  third: number,
  fourth: number,
  state: number,
  from: FilterPoint,
  to: FilterPoint,
  frames: number,
): void {
  const d1 = (to.less - from.less) / frames;
  const d2 = (to.a2 - from.a2) / frames;
  const d3 = (to.a3 - from.a3) / frames;
  const { less, a2, a3 } = from;
  kernel.lowPassFour(first, second, third, fourth, state, frames, less, a2, a3, d1, d2, d3);
}

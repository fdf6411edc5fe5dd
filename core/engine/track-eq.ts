import { MOST_BANDS, writeEqBand, type EqBand, type EqKind } from '../mixing/index.ts';

/** Share of the way to a new setting covered per block: about 10 ms. */
const GLIDE = 0.25;

/** EQ of one track, both channels. Settings glide, so that bands can be moved while they sound. */
export class TrackEq {
  private readonly shapes: EqKind[] = new Array<EqKind>(MOST_BANDS).fill('peak');
  private readonly wanted = Float64Array.from({ length: MOST_BANDS * 3 }, (_, i) => [1000, 0, 1][i % 3]);
  private readonly now = Float64Array.from(this.wanted);
  private readonly coefficients = new Float64Array(MOST_BANDS * 5);
  private readonly state = new Float64Array(MOST_BANDS * 4);
  /** Bands that are heard or were a moment ago. */
  private count = 0;

  /** Takes new bands; those beyond the eighth are passed over. */
  setBands(bands: readonly EqBand[]): void {
    const last = Math.min(MOST_BANDS, bands.length);
    for (let i = 0; i < MOST_BANDS; i++) {
      if (i >= last) {
        this.wanted[3 * i + 1] = 0;
        continue;
      }
      const band = bands[i];
      const silent = this.now[3 * i + 1] === 0;
      this.shapes[i] = band.shape;
      this.wanted[3 * i] = band.hertz;
      this.wanted[3 * i + 1] = band.gainDb;
      this.wanted[3 * i + 2] = band.q;
      // A band that does nothing yet stands at its place at once and only grows.
      if (silent) {
        this.now[3 * i] = band.hertz;
        this.now[3 * i + 2] = band.q;
      }
    }
    this.count = Math.max(this.count, last);
  }

  /** Silence, and the wanted settings at once. */
  reset(): void {
    this.now.set(this.wanted);
    this.state.fill(0);
  }

  /** Filters frames [0, frames) in place. */
  process(left: Float64Array, right: Float64Array, frames: number, rate: number): void {
    let used = 0;
    for (let b = 0; b < this.count; b++) {
      for (let k = 0; k < 3; k++) {
        const i = 3 * b + k;
        const gap = this.wanted[i] - this.now[i];
        this.now[i] = Math.abs(gap) < 1e-3 ? this.wanted[i] : this.now[i] + GLIDE * gap;
      }
      if (this.now[3 * b + 1] === 0) {
        for (let k = 0; k < 4; k++) this.state[4 * b + k] = 0;
        continue;
      }
      used = b + 1;
      this.filter(b, left, right, frames, rate);
    }
    this.count = Math.max(used, this.countWanted());
  }

  private countWanted(): number {
    let count = 0;
    for (let b = 0; b < MOST_BANDS; b++) if (this.wanted[3 * b + 1] !== 0) count = b + 1;
    return count;
  }

  /** Direct form II transposed. */
  private filter(band: number, left: Float64Array, right: Float64Array, frames: number, rate: number): void {
    const { now, coefficients: c, state } = this;
    const at = 5 * band;
    writeEqBand(this.shapes[band], now[3 * band], now[3 * band + 1], now[3 * band + 2], rate, c, at);
    const b0 = c[at];
    const b1 = c[at + 1];
    const b2 = c[at + 2];
    const a1 = c[at + 3];
    const a2 = c[at + 4];
    let l1 = state[4 * band];
    let l2 = state[4 * band + 1];
    let r1 = state[4 * band + 2];
    let r2 = state[4 * band + 3];
    for (let i = 0; i < frames; i++) {
      const x = left[i];
      const y = b0 * x + l1;
      l1 = b1 * x - a1 * y + l2;
      l2 = b2 * x - a2 * y;
      left[i] = y;
      const u = right[i];
      const v = b0 * u + r1;
      r1 = b1 * u - a1 * v + r2;
      r2 = b2 * u - a2 * v;
      right[i] = v;
    }
    state[4 * band] = quiet(l1);
    state[4 * band + 1] = quiet(l2);
    state[4 * band + 2] = quiet(r1);
    state[4 * band + 3] = quiet(r2);
  }
}

/** Denormals would slow the loop down after the sound has ended. */
function quiet(value: number): number {
  return Math.abs(value) < 1e-30 ? 0 : value;
}

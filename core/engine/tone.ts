import { MOST_BANDS, writeEqBand, type EqBand, type EqKind } from '../mixing/index.ts';
import type { Kernel } from './kernel/index.ts';

/** Share of the way to a new setting covered per block: about 10 ms. */
const GLIDE = 0.25;
/** Bytes that one band remembers: two doubles of each channel. */
const BAND_BYTES = 32;

/** Tone of a track or of one of its positions, both channels. Settings glide, so that bands can be moved while they sound. */
export class Tone {
  private readonly shapes: EqKind[] = new Array<EqKind>(MOST_BANDS).fill('peak');
  private readonly wanted = Float64Array.from({ length: MOST_BANDS * 3 }, (_, i) => [1000, 0, 1][i % 3]);
  private readonly now = Float64Array.from(this.wanted);
  private readonly coefficients = new Float64Array(MOST_BANDS * 5);
  /** 1 where a band's coefficients are those of where it stands. */
  private readonly worked = new Uint8Array(MOST_BANDS);
  private readonly state: number;
  /** Of what goes to the hall by itself. */
  private hallState = 0;
  private apart = false;
  /** Bands that are heard or were a moment ago. */
  private count = 0;

  constructor(
    private readonly kernel: Kernel,
    private readonly room: (bytes: number) => number,
  ) {
    this.state = room(MOST_BANDS * BAND_BYTES);
  }

  /** Whether it changes anything, now or at the end of a glide. */
  get works(): boolean {
    return this.count > 0;
  }

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
      this.worked[i] = 0;
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
    this.worked.fill(0);
    this.kernel.clear(this.state, MOST_BANDS * BAND_BYTES);
    if (this.hallState !== 0) this.kernel.clear(this.hallState, MOST_BANDS * BAND_BYTES);
  }

  /**
   * Filters the first `frames` frames at an address in place.
   * @param hall another sound that is to have the same tone, or 0
   */
  process(sound: number, frames: number, rate: number, hall = 0): void {
    if (hall !== 0 && this.hallState === 0) this.hallState = this.room(MOST_BANDS * BAND_BYTES);
    // Until now both were one sound.
    if (hall !== 0 && !this.apart) this.kernel.copy(this.hallState, this.state, MOST_BANDS * BAND_BYTES);
    this.apart = hall !== 0;
    let used = 0;
    for (let b = 0; b < this.count; b++) {
      for (let k = 0; k < 3; k++) {
        const i = 3 * b + k;
        const gap = this.wanted[i] - this.now[i];
        if (gap === 0) continue;
        this.worked[b] = 0;
        this.now[i] = Math.abs(gap) < 1e-3 ? this.wanted[i] : this.now[i] + GLIDE * gap;
      }
      if (this.now[3 * b + 1] === 0) {
        this.kernel.clear(this.state + b * BAND_BYTES, BAND_BYTES);
        if (this.hallState !== 0) this.kernel.clear(this.hallState + b * BAND_BYTES, BAND_BYTES);
        continue;
      }
      used = b + 1;
      const { now, coefficients: c } = this;
      const at = 5 * b;
      if (this.worked[b] === 0)
        writeEqBand(this.shapes[b], now[3 * b], now[3 * b + 1], now[3 * b + 2], rate, c, at);
      this.worked[b] = 1;
      const own = b * BAND_BYTES;
      this.kernel.biquad(sound, this.state + own, frames, c[at], c[at + 1], c[at + 2], c[at + 3], c[at + 4]);
      if (hall !== 0)
        this.kernel.biquad(
          hall,
          this.hallState + own,
          frames,
          c[at],
          c[at + 1],
          c[at + 2],
          c[at + 3],
          c[at + 4],
        );
    }
    this.count = Math.max(used, this.countWanted());
  }

  private countWanted(): number {
    let count = 0;
    for (let b = 0; b < MOST_BANDS; b++) if (this.wanted[3 * b + 1] !== 0) count = b + 1;
    return count;
  }
}

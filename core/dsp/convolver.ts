import FFT from 'fft.js';

const SMALL = 128;
const LARGE = 1024;
const RATIO = LARGE / SMALL;
/** The first 2 × LARGE frames are convolved in small partitions, so that large ones have time to be computed. */
const SMALL_PARTS = (2 * LARGE) / SMALL;

/** Impulse responses of a hall, left and right, equal length, at the engine's rate. */
export interface HallResponse {
  left: Float32Array;
  right: Float32Array;
  /** Frame at which the early part ends and the tail begins. */
  earlyFrames: number;
}

/** Spectra of one response in partitions of one size. */
class Partitions {
  readonly spectra: Float64Array[] = [];
  constructor(response: Float32Array, from: number, to: number, size: number) {
    const fft = new FFT(2 * size);
    for (let start = from; start < to; start += size) {
      const padded = new Float64Array(2 * size);
      padded.set(response.subarray(start, Math.min(start + size, to)));
      const spectrum = new Float64Array(4 * size);
      fft.realTransform(spectrum, padded);
      this.spectra.push(spectrum.slice(0, 2 * size + 2));
    }
  }
}

/** Uniformly partitioned overlap-save convolution of one input with one response, whose work can be spread. */
class Stage {
  private readonly fft: FFT;
  private readonly history: Float64Array[];
  private readonly window: Float64Array;
  private readonly spectrum: Float64Array;
  private readonly sum: Float64Array;
  private readonly time: Float64Array;
  private newest = 0;

  constructor(
    private readonly size: number,
    private readonly count: number,
  ) {
    this.fft = new FFT(2 * size);
    this.history = Array.from({ length: Math.max(1, count) }, () => new Float64Array(2 * size + 2));
    this.window = new Float64Array(2 * size);
    this.spectrum = new Float64Array(4 * size);
    this.sum = new Float64Array(4 * size);
    this.time = new Float64Array(4 * size);
  }

  reset(): void {
    for (const past of this.history) past.fill(0);
    this.window.fill(0);
    this.sum.fill(0);
  }

  /** Takes the next `size` input frames and forgets the sum of the last round. */
  push(block: Float64Array): void {
    const { size, window, spectrum } = this;
    window.copyWithin(0, size);
    window.set(block, size);
    this.fft.realTransform(spectrum, window);
    this.newest = (this.newest + 1) % this.history.length;
    const past = this.history[this.newest];
    for (let i = 0; i < past.length; i++) past[i] = spectrum[i];
    this.sum.fill(0);
  }

  /** Adds partitions [from, to) of the response, each scaled by its gain. */
  multiply(spectra: readonly Float64Array[], gains: Float64Array, from: number, to: number): void {
    const { sum, history } = this;
    const length = 2 * this.size + 2;
    for (let p = from; p < Math.min(to, this.count); p++) {
      const gain = gains[p];
      if (gain === 0) continue;
      const x = history[(this.newest - p + history.length) % history.length];
      const h = spectra[p];
      for (let i = 0; i < length; i += 2) {
        const xr = x[i];
        const xi = x[i + 1];
        const hr = h[i] * gain;
        const hi = h[i + 1] * gain;
        sum[i] += xr * hr - xi * hi;
        sum[i + 1] += xr * hi + xi * hr;
      }
    }
  }

  /** Writes the `size` frames of the round that was summed. */
  finish(out: Float64Array): void {
    this.fft.completeSpectrum(this.sum);
    this.fft.inverseTransform(this.time, this.sum);
    for (let i = 0; i < this.size; i++) out[i] = this.time[2 * (this.size + i)];
  }
}

/** One channel: small partitions at once, large ones spread over eight blocks. */
class Channel {
  private readonly small: Stage;
  private readonly large: Stage;
  private readonly smallSpectra: Float64Array[];
  private readonly largeSpectra: Float64Array[];
  private readonly gathered = new Float64Array(LARGE);
  private readonly ready = new Float64Array(LARGE);
  private readonly block = new Float64Array(SMALL);

  constructor(response: Float32Array) {
    const split = SMALL_PARTS * SMALL;
    this.smallSpectra = new Partitions(response, 0, Math.min(split, response.length), SMALL).spectra;
    this.largeSpectra = new Partitions(response, split, response.length, LARGE).spectra;
    this.small = new Stage(SMALL, this.smallSpectra.length);
    this.large = new Stage(LARGE, this.largeSpectra.length);
  }

  get largeCount(): number {
    return this.largeSpectra.length;
  }

  reset(): void {
    this.small.reset();
    this.large.reset();
    this.gathered.fill(0);
    this.ready.fill(0);
  }

  /** @param slot which eighth of the large round this block is */
  process(input: Float64Array, output: Float64Array, slot: number, smallGains: Float64Array, largeGains: Float64Array): void {
    const { small, large, block } = this;
    small.push(input);
    small.multiply(this.smallSpectra, smallGains, 0, this.smallSpectra.length);
    small.finish(block);
    const offset = slot * SMALL;
    for (let i = 0; i < SMALL; i++) output[i] = block[i] + this.ready[offset + i];
    this.gathered.set(input, offset);
    const share = Math.ceil(this.largeSpectra.length / RATIO);
    large.multiply(this.largeSpectra, largeGains, slot * share, (slot + 1) * share);
    if (slot === RATIO - 1) {
      large.finish(this.ready);
      large.push(this.gathered);
    }
  }
}

/**
 * Stereo hall: each channel convolved with its own response by non-uniform partitions in blocks of 128
 * (overlap-save; large partitions are multiplied over the eight blocks before they are due, so that the
 * work per block is even). Early part and tail have their own gains. No latency.
 */
export class HallConvolver {
  private readonly left: Channel;
  private readonly right: Channel;
  private readonly smallGains: Float64Array;
  private readonly largeGains: Float64Array;
  private readonly earlyLargeParts: number;
  private earlyGain = 1;
  private tailGain = 1;
  private slot = 0;

  constructor(response: HallResponse) {
    this.left = new Channel(response.left);
    this.right = new Channel(response.right);
    this.smallGains = new Float64Array(SMALL_PARTS).fill(1);
    this.largeGains = new Float64Array(this.left.largeCount).fill(1);
    this.earlyLargeParts = Math.max(0, Math.round((response.earlyFrames - 2 * LARGE) / LARGE));
  }

  /** Linear gains of the early part and the tail, approached over a few blocks. */
  setGains(early: number, tail: number): void {
    this.earlyGain = early;
    this.tailGain = tail;
  }

  /** Forgets all sound and takes the wanted gains at once. */
  reset(): void {
    this.left.reset();
    this.right.reset();
    this.slot = 0;
    this.glide(1);
  }

  /** Convolves one block of 128 frames. */
  process(inLeft: Float64Array, inRight: Float64Array, outLeft: Float64Array, outRight: Float64Array): void {
    this.glide(0.1);
    this.left.process(inLeft, outLeft, this.slot, this.smallGains, this.largeGains);
    this.right.process(inRight, outRight, this.slot, this.smallGains, this.largeGains);
    this.slot = (this.slot + 1) % RATIO;
  }

  private glide(share: number): void {
    const { smallGains, largeGains } = this;
    for (let i = 0; i < smallGains.length; i++) smallGains[i] += share * (this.earlyGain - smallGains[i]);
    for (let i = 0; i < largeGains.length; i++) {
      const target = i < this.earlyLargeParts ? this.earlyGain : this.tailGain;
      largeGains[i] += share * (target - largeGains[i]);
    }
  }
}

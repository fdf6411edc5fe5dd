import FFT from 'fft.js';

const BLOCK = 128;
/**
 * Partition sizes and the frame of the response from which each is used. A partition of n frames is gathered for
 * n frames and multiplied over the next n, so that it may begin at 2n at the earliest; the first runs at once.
 */
const TIERS = [
  { size: BLOCK, from: 0 },
  { size: 1024, from: 2048 },
  { size: 4096, from: 8192 },
] as const;

/** Impulse responses of a hall, left and right, equal length, at the engine's rate. */
export interface HallResponse {
  left: Float32Array;
  right: Float32Array;
  /** Frame at which the early part ends and the tail begins. */
  earlyFrames: number;
}

/** Spectra of frames [from, to) of a response in partitions of one size, kept in 32 bits: the cache is what limits. */
function partitionSpectra(response: Float32Array, from: number, to: number, size: number): Float32Array[] {
  const fft = new FFT(2 * size);
  const spectra: Float32Array[] = [];
  for (let start = from; start < Math.min(to, response.length); start += size) {
    const padded = new Float64Array(2 * size);
    padded.set(response.subarray(start, Math.min(start + size, to)));
    const spectrum = new Float64Array(4 * size);
    fft.realTransform(spectrum, padded);
    spectra.push(Float32Array.from(spectrum.subarray(0, 2 * size + 2)));
  }
  return spectra;
}

/** Uniformly partitioned overlap-save convolution of one input with one response, whose work can be spread. */
class Partitioned {
  private readonly fft: FFT;
  private readonly history: Float32Array[];
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
    this.history = Array.from({ length: Math.max(1, count) }, () => new Float32Array(2 * size + 2));
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
  multiply(spectra: readonly Float32Array[], gains: Float64Array, from: number, to: number): void {
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

/** One tier of one channel. The first tier answers at once, the others spread each round over their blocks. */
class Tier {
  private readonly stage: Partitioned;
  private readonly spectra: Float32Array[];
  private readonly rounds: number;
  private readonly gathered: Float64Array;
  private readonly ready: Float64Array;
  private readonly gains: Float64Array;
  private readonly early: number;
  private slot = 0;

  /**
   * @param to frame of the response where the next tier takes over
   * @param shift blocks by which rounds are moved, so that channels do not transform in the same block
   */
  constructor(
    response: HallResponse,
    channel: Float32Array,
    size: number,
    from: number,
    to: number,
    private readonly shift: number,
  ) {
    this.spectra = partitionSpectra(channel, from, to, size);
    this.stage = new Partitioned(size, this.spectra.length);
    this.rounds = size / BLOCK;
    this.gathered = new Float64Array(size);
    this.ready = new Float64Array(size);
    this.gains = new Float64Array(this.spectra.length).fill(1);
    this.early = Math.round((response.earlyFrames - from) / size);
    this.slot = shift;
  }

  reset(early: number, tail: number): void {
    this.stage.reset();
    this.gathered.fill(0);
    this.ready.fill(0);
    this.slot = this.shift;
    this.glide(early, tail, 1);
  }

  /** Brings the partitions' gains nearer to those of the early part or the tail, whichever they belong to. */
  glide(early: number, tail: number, share: number): void {
    for (let i = 0; i < this.gains.length; i++)
      this.gains[i] += share * ((i < this.early ? early : tail) - this.gains[i]);
  }

  /** Adds this tier's part of the answer to one block. */
  process(input: Float64Array, output: Float64Array): void {
    const { stage, spectra, ready, gathered } = this;
    if (spectra.length === 0) return;
    if (this.rounds === 1) {
      stage.push(input);
      stage.multiply(spectra, this.gains, 0, spectra.length);
      stage.finish(ready);
    }
    const offset = this.slot * BLOCK;
    for (let i = 0; i < BLOCK; i++) output[i] += ready[offset + i];
    if (this.rounds === 1) return;
    gathered.set(input, offset);
    const portion = Math.ceil(spectra.length / this.rounds);
    stage.multiply(spectra, this.gains, this.slot * portion, (this.slot + 1) * portion);
    this.slot++;
    if (this.slot < this.rounds) return;
    this.slot = 0;
    stage.finish(ready);
    stage.push(gathered);
  }
}

/**
 * Stereo hall: each channel convolved with its own response by non-uniform partitions in blocks of 128
 * (overlap-save; W. G. Gardner 1995). Large partitions are multiplied over the blocks before they are due, so that
 * the work per block is even. Early part and tail have their own gains. No latency.
 */
export class HallConvolver {
  private readonly left: Tier[];
  private readonly right: Tier[];
  private earlyGain = 1;
  private tailGain = 1;

  constructor(response: HallResponse) {
    const tiers = (channel: Float32Array, side: number) =>
      TIERS.map(
        ({ size, from }, i) =>
          new Tier(
            response,
            channel,
            size,
            from,
            TIERS[i + 1]?.from ?? Infinity,
            ((size / BLOCK) >> 1) * side,
          ),
      );
    this.left = tiers(response.left, 0);
    this.right = tiers(response.right, 1);
  }

  /** Linear gains of the early part and the tail, approached over a few blocks. */
  setGains(early: number, tail: number): void {
    this.earlyGain = early;
    this.tailGain = tail;
  }

  /** Forgets all sound and takes the wanted gains at once. */
  reset(): void {
    for (const tier of this.left) tier.reset(this.earlyGain, this.tailGain);
    for (const tier of this.right) tier.reset(this.earlyGain, this.tailGain);
  }

  /** Convolves one block of 128 frames. */
  process(inLeft: Float64Array, inRight: Float64Array, outLeft: Float64Array, outRight: Float64Array): void {
    this.channel(this.left, inLeft, outLeft);
    this.channel(this.right, inRight, outRight);
  }

  private channel(tiers: readonly Tier[], input: Float64Array, output: Float64Array): void {
    output.fill(0);
    for (const tier of tiers) {
      tier.glide(this.earlyGain, this.tailGain, 0.1);
      tier.process(input, output);
    }
  }
}

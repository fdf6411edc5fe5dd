import type { HallResponse } from '../dsp/index.ts';
import { cos, sin } from '../units/index.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

/**
 * Partition sizes and the frame of the response from which each is used. A partition of n frames is gathered for
 * n frames and multiplied over the next n, so that it may begin at 2n at the earliest; the first runs at once.
 */
const TIERS = [
  { size: BLOCK, from: 0 },
  { size: 1024, from: 2048 },
  { size: 4096, from: 8192 },
] as const;
/** Share of the way to new gains per block. */
const GLIDE = 0.1;

/** e^(−2πi·k/n) for every k, real and imaginary part after each other. */
function turnFactors(n: number): Float32Array {
  const factors = new Float32Array(2 * n);
  for (let k = 0; k < n; k++) {
    factors[2 * k] = cos((2 * Math.PI * k) / n);
    factors[2 * k + 1] = -sin((2 * Math.PI * k) / n);
  }
  return factors;
}

/**
 * Partitions of one size: overlap-save convolution of both channels, each with its own response and, in a room in which sides
 * meet, with that of the other side. Left and right travel through one transform as real and imaginary part. A spectrum is
 * `stride` real parts, then as many imaginary ones; left before right.
 */
class Tier {
  private readonly kernel: Kernel;
  private readonly n: number;
  private readonly stride: number;
  /** Bytes of the spectra of both channels. */
  private readonly bytes: number;
  private readonly rounds: number;
  private readonly count: number;
  private readonly end: number;
  private readonly gains: Float64Array;
  private readonly early: number;
  private readonly responses: number;
  /** What is heard of the right at the left, and of the left at the right; 0 when sides do not meet. */
  private readonly crossing: number;
  private readonly history: number;
  private readonly factors: number;
  private readonly window: number;
  private readonly work: number;
  private readonly other: number;
  private readonly sum: number;
  private readonly gathered: number;
  private readonly ready: number;
  private newest = 0;
  private slot = 0;
  /** Partitions of the response that are transformed. */
  private taken = 0;

  /** @param from, to frames of the response that this tier answers for */
  constructor(
    private readonly sound: SoundMemory,
    room: (bytes: number) => number,
    private readonly response: HallResponse,
    private readonly size: number,
    private readonly from: number,
    to: number,
  ) {
    this.kernel = kernelIn(sound.memory);
    this.n = 2 * size;
    this.stride = size + 4;
    this.bytes = this.stride * 16;
    this.rounds = size / BLOCK;
    this.end = Math.min(to, response.left.length);
    this.count = Math.max(0, Math.ceil((this.end - from) / size));
    this.gains = new Float64Array(this.count).fill(1);
    this.early = Math.round((response.earlyFrames - from) / size);
    this.factors = room(this.n * 8);
    sound.floats(this.factors, 2 * this.n).set(turnFactors(this.n));
    this.window = room(this.n * FRAME_BYTES);
    this.work = room(this.n * FRAME_BYTES);
    this.other = room(this.n * FRAME_BYTES);
    this.sum = room(this.bytes);
    this.gathered = room(size * FRAME_BYTES);
    this.ready = room(size * FRAME_BYTES);
    this.responses = room(this.count * this.bytes);
    this.history = room(Math.max(1, this.count) * this.bytes);
    this.crossing = response.cross ? room(this.count * this.bytes) : 0;
  }

  /** Takes the next partition of the response. @returns frames of it, 0 when all are taken */
  prepare(): number {
    if (this.taken === this.count) return 0;
    const { left, right, cross } = this.response;
    const p = this.taken++;
    this.take(left, right, p, this.responses);
    if (cross) this.take(cross.rightToLeft, cross.leftToRight, p, this.crossing);
    return this.size;
  }

  private take(left: Float32Array, right: Float32Array, p: number, to: number): void {
    const { n, size, end } = this;
    const from = this.from + p * size;
    const work = this.sound.floats(this.work, 2 * n);
    work.fill(0);
    for (let i = 0; i < size && from + i < end; i++) {
      work[2 * i] = left[from + i];
      work[2 * i + 1] = right[from + i];
    }
    const spectrum = this.kernel.transform(this.work, this.other, n, this.factors);
    this.kernel.separate(spectrum, n, to + p * this.bytes, this.stride);
  }

  reset(early: number, tail: number): void {
    const { kernel } = this;
    kernel.clear(this.history, Math.max(1, this.count) * this.bytes);
    kernel.clear(this.window, this.n * FRAME_BYTES);
    kernel.clear(this.sum, this.bytes);
    kernel.clear(this.gathered, this.size * FRAME_BYTES);
    kernel.clear(this.ready, this.size * FRAME_BYTES);
    this.slot = 0;
    this.glide(early, tail, 1);
  }

  /** Brings the partitions' gains nearer to those of the early part or the tail, whichever they belong to. */
  glide(early: number, tail: number, share: number): void {
    for (let i = 0; i < this.gains.length; i++)
      this.gains[i] += share * ((i < this.early ? early : tail) - this.gains[i]);
  }

  /** Takes the next `size` frames and forgets the sum of the last round. */
  private push(block: number): void {
    const { kernel } = this;
    const half = this.size * FRAME_BYTES;
    kernel.copy(this.window, this.window + half, half);
    kernel.copy(this.window + half, block, half);
    kernel.copy(this.work, this.window, 2 * half);
    const spectrum = kernel.transform(this.work, this.other, this.n, this.factors);
    this.newest = (this.newest + 1) % Math.max(1, this.count);
    kernel.separate(spectrum, this.n, this.history + this.newest * this.bytes, this.stride);
    kernel.clear(this.sum, this.bytes);
  }

  /** Adds partitions [from, to) of the response. */
  private multiply(from: number, to: number): void {
    const { kernel } = this;
    const side = this.stride * 8;
    for (let p = from; p < Math.min(to, this.count); p++) {
      const gain = this.gains[p];
      if (gain === 0) continue;
      const x = this.history + ((this.newest - p + this.count) % this.count) * this.bytes;
      const h = this.responses + p * this.bytes;
      kernel.multiply(this.sum, x, h, gain, this.stride);
      kernel.multiply(this.sum + side, x + side, h + side, gain, this.stride);
      if (this.crossing === 0) continue;
      const c = this.crossing + p * this.bytes;
      kernel.multiply(this.sum, x + side, c, gain, this.stride);
      kernel.multiply(this.sum + side, x, c + side, gain, this.stride);
    }
  }

  /** Makes the `size` frames of the round that was summed. */
  private finish(): void {
    const { kernel } = this;
    kernel.unite(this.sum, this.sum + this.stride * 8, this.stride, this.n, this.work);
    const sound = kernel.transform(this.work, this.other, this.n, this.factors);
    kernel.exchange(sound + this.size * FRAME_BYTES, this.ready, this.size);
  }

  /** Adds this tier's part of the answer to a block. */
  process(input: number, output: number): void {
    if (this.count === 0) return;
    const { kernel } = this;
    if (this.rounds === 1) {
      this.push(input);
      this.multiply(0, this.count);
      this.finish();
    }
    const offset = this.slot * BLOCK * FRAME_BYTES;
    kernel.add(this.ready + offset, output, BLOCK);
    if (this.rounds === 1) return;
    kernel.copy(this.gathered + offset, input, BLOCK * FRAME_BYTES);
    const portion = Math.ceil(this.count / this.rounds);
    this.multiply(this.slot * portion, (this.slot + 1) * portion);
    this.slot++;
    if (this.slot < this.rounds) return;
    this.slot = 0;
    this.finish();
    this.push(this.gathered);
  }
}

/**
 * Stereo hall: each channel convolved with its own response by non-uniform partitions in blocks of 128
 * (overlap-save; W. G. Gardner 1995). Large partitions are multiplied over the blocks before they are due, so that
 * the work per block is even. Early part and tail have their own gains. No latency.
 */
export class HallConvolver {
  /** For how long it goes on to answer. */
  readonly frames: number;
  private readonly tiers: Tier[];
  private earlyGain = 1;
  private tailGain = 1;

  /** It answers nothing before it is prepared. */
  constructor(
    private readonly sound: SoundMemory,
    response: HallResponse,
  ) {
    this.frames = response.left.length;
    const room = sound.roomOf(this);
    try {
      this.tiers = TIERS.map(
        ({ size, from }, i) => new Tier(sound, room, response, size, from, TIERS[i + 1]?.from ?? Infinity),
      );
    } catch (error) {
      this.release();
      throw error;
    }
  }

  /**
   * Transforms some of the response.
   * @param frames how many, about
   * @returns whether all of it is
   */
  prepare(frames = Infinity): boolean {
    let left = frames;
    for (const tier of this.tiers)
      for (let done = tier.prepare(); done > 0; done = tier.prepare()) if ((left -= done) <= 0) return false;
    return true;
  }

  /** Gives its place back; it is not used any more. */
  release(): void {
    this.sound.giveBack(this);
  }

  /** Linear gains of the early part and the tail, approached over a few blocks. */
  setGains(early: number, tail: number): void {
    this.earlyGain = early;
    this.tailGain = tail;
  }

  /** Forgets all sound and takes the wanted gains at once. */
  reset(): void {
    for (const tier of this.tiers) tier.reset(this.earlyGain, this.tailGain);
  }

  /** Adds what the hall answers to a block of 128 stereo frames. @param input, output addresses */
  process(input: number, output: number): void {
    for (const tier of this.tiers) {
      tier.glide(this.earlyGain, this.tailGain, GLIDE);
      tier.process(input, output);
    }
  }
}

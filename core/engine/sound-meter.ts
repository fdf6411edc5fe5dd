import {
  K_WEIGHTING,
  LoudnessSteps,
  PEAK_BOUND,
  PEAK_NEAR,
  PEAK_POINTS,
  PEAK_RISE,
  PEAK_TABLE,
  PEAK_TAPS,
} from '../dsp/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

const PAST_BYTES = (PEAK_TAPS - 1) * FRAME_BYTES;

/** Loudness and true peak of blocks in the sound's memory, worked out by the kernel: the figures of `LoudnessMeter`. */
export class SoundMeter extends LoudnessSteps {
  private readonly kernel: Kernel;
  private readonly sections: number;
  private readonly state: number;
  private readonly weights: number;
  /** A block, before it the frames that came before. */
  private readonly window: number;

  /** @param keepAll as for the steps */
  constructor(sound: SoundMemory, keepAll = false) {
    super(ENGINE_RATE, keepAll);
    this.kernel = kernelIn(sound.memory);
    const room = sound.roomOf(this);
    this.sections = room(K_WEIGHTING.length * 8);
    sound.doubles(this.sections, K_WEIGHTING.length).set(K_WEIGHTING);
    this.state = room(64);
    this.weights = room(PEAK_TABLE.length * 8);
    const weights = sound.floats(this.weights, PEAK_TABLE.length * 2);
    PEAK_TABLE.forEach((value, i) => (weights[2 * i] = weights[2 * i + 1] = value));
    this.window = room(PAST_BYTES + BLOCK * FRAME_BYTES);
  }

  override reset(): void {
    super.reset();
    this.kernel.clear(this.state, 64);
    this.kernel.clear(this.window, PAST_BYTES);
  }

  /** Takes a block of stereo frames at an address. */
  process(address: number): void {
    const { kernel, window } = this;
    if (this.keepAll) {
      kernel.copy(window + PAST_BYTES, address, BLOCK * FRAME_BYTES);
      this.highest = kernel.truePeak(
        window,
        BLOCK,
        this.weights,
        PEAK_POINTS,
        PEAK_TAPS,
        this.highest,
        PEAK_BOUND,
        PEAK_NEAR,
        PEAK_RISE,
      );
      kernel.copy(window, window + BLOCK * FRAME_BYTES, PAST_BYTES);
    }
    for (let at = 0; at < BLOCK;) {
      const frames = Math.min(BLOCK - at, this.framesLeft);
      this.take(kernel.weigh(address + at * FRAME_BYTES, frames, this.sections, this.state), frames);
      at += frames;
    }
  }
}

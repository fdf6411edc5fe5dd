import { K_WEIGHTING, LoudnessSteps, PHASES, TAP_TABLE, TAPS } from '../dsp/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

/** Points between frames at which the true peak is looked for. */
const POINTS = 4;
const PAST_BYTES = (TAPS - 1) * FRAME_BYTES;

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
    this.weights = room(POINTS * TAPS * 8);
    const weights = sound.floats(this.weights, POINTS * TAPS * 2);
    for (let point = 0; point < POINTS; point++)
      for (let tap = 0; tap < TAPS; tap++) {
        const at = 2 * (point * TAPS + tap);
        weights[at] = weights[at + 1] = TAP_TABLE[(point * PHASES * TAPS) / POINTS + tap];
      }
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
      this.highest = Math.max(this.highest, kernel.truePeak(window, BLOCK, this.weights));
      kernel.copy(window, window + BLOCK * FRAME_BYTES, PAST_BYTES);
    }
    for (let at = 0; at < BLOCK;) {
      const frames = Math.min(BLOCK - at, this.framesLeft);
      this.take(kernel.weigh(address + at * FRAME_BYTES, frames, this.sections, this.state), frames);
      at += frames;
    }
  }
}

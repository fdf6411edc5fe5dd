import { PLAIN_POSITION, positionMatrix, type PositionMix } from '../mixing/index.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { BLOCK, FRAME_BYTES, type PositionPlace } from './voice-renderer.ts';

/** Longest delay of a position. */
const LONGEST_MS = 100;
/** Share of the way to a new mix per block: about 10 ms, too slow to click and quick enough to follow a hand. */
const GLIDE = 0.25;
/** A glide that has come this near, −120 dB, is over, so that silence becomes exact. */
const NEAR = 1e-6;

/** One microphone position of one track: level, balance, width, polarity and delay of the summed voices. */
export class PositionBus implements PositionPlace {
  /** Where voices add their sound: a block of stereo frames. */
  readonly input: number;
  /** Highest absolute output since the last read. */
  peak = 0;
  private readonly kernel: Kernel;
  private readonly target = new Float64Array(4);
  private readonly now = new Float64Array(4);
  /** A ring of `ringFrames` frames; none until something is delayed. */
  private ring = 0;
  private ringFrames = 0;
  private write = 0;
  /** Frames of the past that the ring knows. */
  private known = 0;
  private delay = 0;
  private delayTarget = 0;

  constructor(
    private readonly sound: SoundMemory,
    private readonly room: (bytes: number) => number,
  ) {
    this.kernel = kernelIn(sound.memory);
    // One frame more than a block, which the kernel may touch.
    this.input = room((BLOCK + 2) * FRAME_BYTES);
    this.setMix(PLAIN_POSITION, 48_000);
    this.reset();
  }

  /** Takes a mix, which is approached while it sounds. Allocates where the delay is longer than any before. */
  setMix(mix: PositionMix, rate: number): void {
    positionMatrix(mix, this.target);
    const frames = Math.round((Math.min(LONGEST_MS, Math.max(0, mix.delayMs)) * rate) / 1000);
    if (frames >= this.ringFrames && frames > 0) this.makeRing(frames);
    this.delayTarget = frames;
  }

  /** A ring that holds so many frames, with what the one before held. */
  private makeRing(frames: number): void {
    const { ring, ringFrames, sound } = this;
    this.ringFrames = BLOCK;
    while (this.ringFrames <= frames) this.ringFrames *= 2;
    this.ring = this.room(this.ringFrames * FRAME_BYTES);
    if (ring !== 0) {
      const old = sound.floats(ring, 2 * ringFrames);
      const fresh = sound.floats(this.ring, 2 * this.ringFrames);
      const end = 2 * (this.ringFrames - ringFrames + this.write);
      fresh.set(old.subarray(0, 2 * this.write), end - 2 * this.write);
      fresh.set(old.subarray(2 * this.write), end - 2 * ringFrames);
      this.write = (this.ringFrames - ringFrames + this.write) % this.ringFrames;
    }
  }

  /** Whether anything of it is heard, now or at the end of a glide. */
  get isHeard(): boolean {
    const { now, target } = this;
    for (let i = 0; i < 4; i++) if (now[i] !== 0 || target[i] !== 0) return true;
    return false;
  }

  /** Power with which it is heard. */
  get power(): number {
    const { target } = this;
    return (target[0] ** 2 + target[1] ** 2 + target[2] ** 2 + target[3] ** 2) / 2;
  }

  /** Gain with which it is heard as one channel, for comparing sounds. */
  get loudness(): number {
    const { target } = this;
    return Math.abs(target[0] + target[1]) + Math.abs(target[2] + target[3]);
  }

  /** Frames for which it goes on to sound after its last input. */
  get tailFrames(): number {
    return Math.max(this.delay, this.delayTarget);
  }

  /** Forgets all sound and takes the wanted mix at once. */
  reset(): void {
    this.silence();
    this.kernel.clear(this.input, BLOCK * FRAME_BYTES);
    this.peak = 0;
    this.settle();
  }

  /** Forgets the past: from now on it was silent. */
  silence(): void {
    if (this.ring !== 0) this.kernel.clear(this.ring, this.ringFrames * FRAME_BYTES);
    this.known = this.ringFrames;
  }

  /** Takes the wanted mix at once: nothing sounds that it could jump in. */
  settle(): void {
    this.now.set(this.target);
    this.delay = this.delayTarget;
  }

  /** Adds a block to the track's sound at `to` and clears its input. Changes glide over the block. */
  mixInto(to: number): void {
    const { kernel, now, target } = this;
    // Written on without a delay too: the next one finds what was before it.
    if (this.ring !== 0) {
      // A delay longer than what is known of the past is taken up as soon as it is.
      const next = this.delayTarget <= this.known ? this.delayTarget : this.delay;
      kernel.delay(this.input, this.ring, this.ringFrames - 1, this.write, this.delay, next, BLOCK);
      this.write = (this.write + BLOCK) & (this.ringFrames - 1);
      this.known = Math.min(this.ringFrames, this.known + BLOCK);
      this.delay = next;
    }
    const share = GLIDE / BLOCK;
    const peak = kernel.mixPosition(
      this.input,
      to,
      BLOCK,
      now[0],
      now[1],
      now[2],
      now[3],
      (target[0] - now[0]) * share,
      (target[1] - now[1]) * share,
      (target[2] - now[2]) * share,
      (target[3] - now[3]) * share,
    );
    if (peak > this.peak) this.peak = peak;
    for (let i = 0; i < 4; i++) {
      const next = now[i] + GLIDE * (target[i] - now[i]);
      now[i] = Math.abs(next - target[i]) < NEAR ? target[i] : next;
    }
  }
}

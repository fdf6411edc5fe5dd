import type { HallResponse } from '../dsp/index.ts';
import { levelGain, type HallMix } from '../mixing/index.ts';
import { HallConvolver } from './hall.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { SoundMeter } from './sound-meter.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

const BLOCK_BYTES = BLOCK * FRAME_BYTES;

/** Adds tracks block by block, in the order in which they come, and what the hall answers to them. */
export class Desk {
  readonly meter: SoundMeter;
  private readonly kernel: Kernel;
  private hall: HallConvolver | null = null;
  private hallMix: HallMix = { earlyDb: 0, tailDb: 0 };
  /** Addresses of a block each: the sum, what the hall is given, and what it answers. */
  private readonly sum: number;
  private readonly hallIn: number;
  private readonly hallOut: number;
  private readonly left: Float32Array;
  private readonly right: Float32Array;
  private readonly apart: number;

  /** @param keepAll keeps what tells the loudness of all of it, and its true peak */
  constructor(
    private readonly sound: SoundMemory,
    keepAll = false,
  ) {
    this.meter = new SoundMeter(sound, keepAll);
    this.kernel = kernelIn(sound.memory);
    this.sum = sound.roomOf(this)(4 * BLOCK_BYTES);
    this.hallIn = this.sum + BLOCK_BYTES;
    this.hallOut = this.sum + 2 * BLOCK_BYTES;
    this.apart = this.sum + 3 * BLOCK_BYTES;
    this.left = sound.floats(this.apart, BLOCK);
    this.right = sound.floats(this.apart + BLOCK_BYTES / 2, BLOCK);
  }

  setHall(response: HallResponse): void {
    this.hall = new HallConvolver(this.sound, response);
    this.setHallMix(this.hallMix);
    this.hall.reset();
  }

  setHallMix(mix: HallMix): void {
    this.hallMix = mix;
    this.hall?.setGains(levelGain(mix.earlyDb), levelGain(mix.tailDb));
  }

  /** Forgets all sound. */
  reset(): void {
    this.hall?.reset();
    this.meter.reset();
  }

  /** Begins a block. */
  begin(): void {
    this.kernel.clear(this.sum, 2 * BLOCK_BYTES);
  }

  /** Adds a track's block. @param sound, hall addresses of what is heard of it and what goes to the hall */
  add(sound: number, hall: number): void {
    this.kernel.add(sound, this.sum, BLOCK);
    this.kernel.add(hall, this.hallIn, BLOCK);
  }

  /** Works out and adds what the hall answers. */
  addHall(): void {
    if (!this.hall) return;
    this.kernel.clear(this.hallOut, BLOCK_BYTES);
    this.hall.process(this.hallIn, this.hallOut);
    this.kernel.add(this.hallOut, this.sum, BLOCK);
  }

  /** Writes the sum, channels apart. */
  write(outLeft: Float32Array, outRight: Float32Array): void {
    this.writeApart(this.sum, outLeft, outRight);
  }

  /** Meters the sum, or what has become of it. */
  measure(outLeft?: Float32Array, outRight?: Float32Array): void {
    if (outLeft && outRight) {
      this.left.set(outLeft);
      this.right.set(outRight);
      this.kernel.join(this.apart, this.apart + BLOCK_BYTES / 2, this.sum, BLOCK);
    }
    this.meter.process(this.sum);
  }

  /** Writes what the hall answered, channels apart. */
  writeHall(outLeft: Float32Array, outRight: Float32Array): void {
    this.writeApart(this.hallOut, outLeft, outRight);
  }

  private writeApart(from: number, outLeft: Float32Array, outRight: Float32Array): void {
    this.kernel.split(from, this.apart, this.apart + BLOCK_BYTES / 2, BLOCK);
    outLeft.set(this.left);
    outRight.set(this.right);
  }
}

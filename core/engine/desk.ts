import type { HallResponse } from '../dsp/index.ts';
import type { HallMix } from '../mixing/index.ts';
import { fadeOut } from './fades.ts';
import { Halls } from './halls.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { SoundMeter } from './sound-meter.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

const BLOCK_BYTES = BLOCK * FRAME_BYTES;
/** What rings when a performance begins anew is faded out over so many blocks: 21 ms. */
const LEAVING_BLOCKS = 8;

/** Adds tracks block by block, in the order in which they come, and what the hall answers to them. */
export class Desk {
  readonly meter: SoundMeter;
  private readonly kernel: Kernel;
  private readonly halls: Halls;
  /** Addresses of a block each: the sum, what the hall is given, and what it answers. */
  private readonly sum: number;
  private readonly hallIn: number;
  private readonly hallOut: number;
  /** What still leaves from before a performance began anew. */
  private readonly leaving: number;
  private leavingAt = LEAVING_BLOCKS;
  private readonly left: Float32Array;
  private readonly right: Float32Array;
  private readonly apart: number;

  /** @param keepAll keeps what tells the loudness of all of it, and its true peak */
  constructor(sound: SoundMemory, keepAll = false) {
    this.meter = new SoundMeter(sound, keepAll);
    this.kernel = kernelIn(sound.memory);
    this.halls = new Halls(sound);
    this.sum = sound.roomOf(this)((4 + LEAVING_BLOCKS) * BLOCK_BYTES);
    this.hallIn = this.sum + BLOCK_BYTES;
    this.hallOut = this.sum + 2 * BLOCK_BYTES;
    this.apart = this.sum + 3 * BLOCK_BYTES;
    this.leaving = this.sum + 4 * BLOCK_BYTES;
    this.left = sound.floats(this.apart, BLOCK);
    this.right = sound.floats(this.apart + BLOCK_BYTES / 2, BLOCK);
  }

  /** Takes a hall; while it sounds, what rings rings on. */
  setHall(response: HallResponse): void {
    this.halls.set(response);
  }

  setHallMix(mix: HallMix): void {
    this.halls.setMix(mix);
  }

  /** Forgets all sound. */
  reset(): void {
    this.halls.reset();
    this.meter.reset();
  }

  /**
   * Forgets all sound, as `reset`; what still rings in the hall leaves by a fade in the blocks to come.
   * @param add adds to a block what is to leave with it
   */
  startOver(add: () => void): void {
    const { kernel, leaving } = this;
    const left = LEAVING_BLOCKS - this.leavingAt;
    for (let i = 0; i < LEAVING_BLOCKS; i++) {
      const to = leaving + i * BLOCK_BYTES;
      if (i < left) kernel.copy(to, to + this.leavingAt * BLOCK_BYTES, BLOCK_BYTES);
      else kernel.clear(to, BLOCK_BYTES);
      this.begin();
      add();
      this.addHall();
      const gain = fadeOut(i / LEAVING_BLOCKS);
      kernel.addRamped(this.sum, to, gain, (fadeOut((i + 1) / LEAVING_BLOCKS) - gain) / BLOCK, BLOCK);
    }
    this.leavingAt = 0;
    this.reset();
  }

  /** Adds what still leaves. */
  addLeaving(): void {
    if (this.leavingAt < LEAVING_BLOCKS)
      this.kernel.add(this.leaving + this.leavingAt++ * BLOCK_BYTES, this.sum, BLOCK);
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

  /** Adds a track's block while it goes from one gain to another. */
  addFading(sound: number, hall: number, from: number, to: number): void {
    const step = (to - from) / BLOCK;
    this.kernel.addRamped(sound, this.sum, from, step, BLOCK);
    this.kernel.addRamped(hall, this.hallIn, from, step, BLOCK);
  }

  /** Works out and adds what the hall answers. */
  addHall(): void {
    this.kernel.clear(this.hallOut, BLOCK_BYTES);
    this.halls.process(this.hallIn, this.hallOut);
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

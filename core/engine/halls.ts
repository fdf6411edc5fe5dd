import type { HallResponse } from '../dsp/index.ts';
import { levelGain, type HallMix } from '../mixing/index.ts';
import { HallConvolver } from './hall.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { BLOCK, FRAME_BYTES } from './voice-renderer.ts';

const BLOCK_BYTES = BLOCK * FRAME_BYTES;
/** What is sent goes over from one hall to the next within so many blocks: 43 ms. */
const OVER_BLOCKS = 16;
/** Frames of a coming hall that are transformed in a block: what the audio thread has time for. */
const PREPARED_FRAMES = 2048;

/**
 * The shared hall, which may be changed for another while it sounds: the next one is prepared block by block, then what is sent
 * goes over to it, and what rings in the old one rings on.
 */
export class Halls {
  private readonly kernel: Kernel;
  /** What is sent, as one hall hears it. */
  private readonly fed: number;
  private current: HallConvolver | null = null;
  private coming: HallConvolver | null = null;
  private leaving: HallConvolver | null = null;
  /** Blocks since the change began. */
  private over = 0;
  private hasSounded = false;
  private early = 1;
  private tail = 1;

  constructor(private readonly sound: SoundMemory) {
    this.kernel = kernelIn(sound.memory);
    this.fed = sound.roomOf(this)(BLOCK_BYTES);
  }

  /** Takes another hall, at once while nothing has sounded. @throws FarloError when there is no memory for it; the one before stays */
  set(response: HallResponse): void {
    const next = new HallConvolver(this.sound, response);
    next.setGains(this.early, this.tail);
    this.coming?.release();
    this.coming = next;
    if (this.hasSounded) return;
    next.prepare();
    this.change();
    this.drop();
  }

  setMix({ earlyDb, tailDb }: HallMix): void {
    this.early = levelGain(earlyDb);
    this.tail = levelGain(tailDb);
    for (const hall of [this.current, this.coming, this.leaving]) hall?.setGains(this.early, this.tail);
  }

  /** Forgets all sound; a hall that is coming is there. */
  reset(): void {
    if (this.coming?.prepare()) this.change();
    this.drop();
    this.current?.reset();
    this.hasSounded = false;
  }

  /** Adds what the halls answer to a block. @param input, output addresses */
  process(input: number, output: number): void {
    this.hasSounded = true;
    // One after the other: the next change waits until what rang has ended.
    if (this.coming && !this.leaving && this.coming.prepare(PREPARED_FRAMES)) this.change();
    const { leaving } = this;
    if (!leaving) {
      this.current?.process(input, output);
      return;
    }
    const [from, to] = [fadeIn(this.over), fadeIn(this.over + 1)];
    this.feed(input, from, to);
    this.current?.process(this.fed, output);
    this.feed(input, 1 - from, 1 - to);
    leaving.process(this.fed, output);
    if (++this.over * BLOCK > leaving.frames + (OVER_BLOCKS + 1) * BLOCK) this.drop();
  }

  private feed(input: number, from: number, to: number): void {
    this.kernel.clear(this.fed, BLOCK_BYTES);
    if (from !== 0 || to !== 0) this.kernel.addRamped(input, this.fed, from, (to - from) / BLOCK, BLOCK);
  }

  private change(): void {
    this.leaving = this.current;
    this.current = this.coming;
    this.coming = null;
    this.current?.reset();
    this.over = 0;
  }

  private drop(): void {
    this.leaving?.release();
    this.leaving = null;
  }
}

/** Straight: both halls are given the same sound, so that its sum stays what it was. */
function fadeIn(blocks: number): number {
  return Math.min(1, blocks / OVER_BLOCKS);
}

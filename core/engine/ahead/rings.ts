import type { SoundMemory } from '../memory/index.ts';
import { BLOCK, FRAME_BYTES, MAX_POSITIONS } from '../voice-renderer.ts';

/** Blocks of a track that are rendered ahead at most: 43 ms. A power of two. */
export const AHEAD_BLOCKS = 16;
/** Tracks whose rings lie in one place; more places are added as there are more tracks. */
export const PLACE_TRACKS = 16;

const SOUND_BYTES = BLOCK * FRAME_BYTES;
/** Whether there is sound, the peak of the track and those of its positions. */
const NOTES = 2 + MAX_POSITIONS;
const NOTE_BYTES = 48;
const BLOCK_BYTES = 2 * SOUND_BYTES + NOTE_BYTES;
const RING_BYTES = AHEAD_BLOCKS * BLOCK_BYTES;

/** Bytes of one place. */
export const PLACE_BYTES = PLACE_TRACKS * RING_BYTES;

/**
 * Rings of blocks, one for each track, in the memory that all threads share: what is heard of the track, what goes to the hall, and
 * how loud it is. One thread writes a track's ring and one reads it; how far they are is told elsewhere (`AheadWords`).
 */
export class Rings {
  private readonly addresses: number[] = [];
  private readonly marks: Int32Array[] = [];
  private readonly peaks: Float32Array[] = [];

  constructor(private readonly sound: SoundMemory) {}

  /** Tracks that have a ring: 0 … tracks − 1. */
  get tracks(): number {
    return this.addresses.length * PLACE_TRACKS;
  }

  /** Rings for the next tracks. @param address of `PLACE_BYTES` bytes, filled with 0 */
  add(address: number): void {
    this.addresses.push(address);
    this.marks.push(new Int32Array(this.sound.memory.buffer, address, PLACE_BYTES / 4));
    this.peaks.push(new Float32Array(this.sound.memory.buffer, address, PLACE_BYTES / 4));
  }

  private offset(track: number, block: number): number {
    return (track % PLACE_TRACKS) * RING_BYTES + (block & (AHEAD_BLOCKS - 1)) * BLOCK_BYTES;
  }

  /** Address of what is heard. */
  soundAt(track: number, block: number): number {
    return this.addresses[(track / PLACE_TRACKS) | 0] + this.offset(track, block);
  }

  /** Address of what goes to the hall. */
  hallAt(track: number, block: number): number {
    return this.soundAt(track, block) + SOUND_BYTES;
  }

  private notesAt(track: number, block: number): number {
    return (this.offset(track, block) + 2 * SOUND_BYTES) / 4;
  }

  /** Says whether there is sound in a block. */
  mark(track: number, block: number, sounds: boolean): void {
    this.marks[(track / PLACE_TRACKS) | 0][this.notesAt(track, block)] = sounds ? 1 : 0;
  }

  sounds(track: number, block: number): boolean {
    return this.marks[(track / PLACE_TRACKS) | 0][this.notesAt(track, block)] === 1;
  }

  /** Keeps a peak of a block. @param which 0 for the track, 1 + position for a position */
  setPeak(track: number, block: number, which: number, peak: number): void {
    if (1 + which < NOTES)
      this.peaks[(track / PLACE_TRACKS) | 0][this.notesAt(track, block) + 1 + which] = peak;
  }

  peak(track: number, block: number, which: number): number {
    return 1 + which < NOTES
      ? this.peaks[(track / PLACE_TRACKS) | 0][this.notesAt(track, block) + 1 + which]
      : 0;
  }
}

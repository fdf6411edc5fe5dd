import {
  BLOCK,
  deal,
  FRAME_BYTES,
  kernelIn,
  type Kernel,
  type Players,
  type SoundMemory,
} from '../engine/index.ts';
import { playersFor, type BounceOrder } from './order.ts';

/** A bounce goes in stretches of so many blocks. */
export const STRETCH_BLOCKS = 64;
export const STRETCH_FRAMES = STRETCH_BLOCKS * BLOCK;
const BLOCK_BYTES = BLOCK * FRAME_BYTES;
const STRETCH_BYTES = STRETCH_BLOCKS * BLOCK_BYTES;
/** Two stretches of a track at a time: one is written while the other is read. */
const HALVES = 2;
/** A stretch: what is heard, what goes to the hall, and one byte for each block: 1 where there is sound. */
const HALF_BYTES = 2 * STRETCH_BYTES + STRETCH_BLOCKS;

/** Tracks of an order that something plays on, in order. */
export function playedTracks(order: BounceOrder): number[] {
  const played = new Set<number>();
  for (const event of order.events) if (event.kind === 'start') played.add(event.track);
  return [...played].filter((track) => track < order.tracks.length).sort((a, b) => a - b);
}

/**
 * Divides tracks into shares of about equal work: a track costs what its sounds last together.
 * @returns as many shares as asked for, or as there are tracks
 */
export function divide(order: BounceOrder, tracks: readonly number[], shares: number): number[][] {
  const cost = new Map(tracks.map((track) => [track, 0]));
  const began = new Map<string, number>();
  for (const event of order.events) {
    if (event.kind !== 'start' && event.kind !== 'stop') continue;
    const key = `${event.track} ${event.sound}`;
    if (event.kind === 'start') began.set(key, event.frame);
    else {
      const lasts = event.frame - (began.get(key) ?? event.frame);
      cost.set(event.track, (cost.get(event.track) ?? 0) + lasts);
    }
  }
  const count = Math.max(1, Math.min(shares, tracks.length));
  // One more, so that tracks of which nothing is known are spread too.
  const owners = deal(
    tracks.map((track) => 1 + (cost.get(track) ?? 0)),
    count,
  );
  return Array.from({ length: count }, (_, share) => tracks.filter((_t, i) => owners[i] === share));
}

/** Where the stretches of all played tracks lie, one behind the other, in a memory that all threads share. */
export class Stretches {
  private readonly slots: ReadonlyMap<number, number>;

  /** @param address of `Stretches.bytes(tracks.length)` bytes; @param tracks those that are played, in order */
  constructor(
    private readonly address: number,
    readonly tracks: readonly number[],
  ) {
    this.slots = new Map(tracks.map((track, slot) => [track, slot]));
  }

  /** Bytes that the stretches of so many tracks take. */
  static bytes(tracks: number): number {
    return tracks * HALVES * HALF_BYTES;
  }

  /** What is heard of a track; stretches of even and odd number lie apart. */
  sound(track: number, stretch: number): number {
    return this.address + ((this.slots.get(track) ?? 0) * HALVES + (stretch % HALVES)) * HALF_BYTES;
  }

  hall(track: number, stretch: number): number {
    return this.sound(track, stretch) + STRETCH_BYTES;
  }

  /** One byte a block: whether there is sound in it. */
  marks(track: number, stretch: number): number {
    return this.sound(track, stretch) + 2 * STRETCH_BYTES;
  }
}

/** Some tracks of a bounce, rendered stretch by stretch; each by itself, so that it matters to none who renders the others. */
export class BounceShare {
  private readonly players: Players;
  private readonly kernel: Kernel;
  private stretch = 0;
  private block = 0;

  /** @param tracks those of this share; @param sound the memory they work in, the stretches among it */
  constructor(
    order: BounceOrder,
    private readonly tracks: readonly number[],
    private readonly places: Stretches,
    private readonly sound: SoundMemory,
  ) {
    this.players = playersFor(order, tracks, sound);
    this.kernel = kernelIn(sound.memory);
  }

  /** Voices that had to be given up so far. */
  get stolen(): number {
    return this.players.stolen;
  }

  /** Renders the next stretch of every track. What is silent is silence, and marked so. */
  render(): void {
    const { kernel, tracks, places, stretch } = this;
    for (const track of tracks) kernel.clear(places.marks(track, stretch), STRETCH_BLOCKS);
    const marks = new Uint8Array(this.sound.memory.buffer);
    const take = (index: number, sound: number, hall: number) => {
      const at = this.block * BLOCK_BYTES;
      const track = tracks[index];
      kernel.copy(places.sound(track, stretch) + at, sound, BLOCK_BYTES);
      kernel.copy(places.hall(track, stretch) + at, hall, BLOCK_BYTES);
      marks[places.marks(track, stretch) + this.block] = 1;
    };
    for (this.block = 0; this.block < STRETCH_BLOCKS; this.block++) this.players.render(take);
    // Memory is slow: only what nothing was written to is cleared.
    for (const track of tracks)
      for (let block = 0; block < STRETCH_BLOCKS; block++) {
        if (marks[places.marks(track, stretch) + block] === 1) continue;
        kernel.clear(places.sound(track, stretch) + block * BLOCK_BYTES, BLOCK_BYTES);
        kernel.clear(places.hall(track, stretch) + block * BLOCK_BYTES, BLOCK_BYTES);
      }
    this.stretch++;
  }
}

import { kernelIn, type Kernel } from '../kernel/index.ts';
import type { SoundMemory } from '../memory/index.ts';
import type { EngineEvent } from '../events.ts';
import type { Players } from '../players.ts';
import { BLOCK, FRAME_BYTES } from '../voice-renderer.ts';
import { AHEAD_BLOCKS, type Rings } from './rings.ts';
import type { AheadWords } from './words.ts';

/** Who was overtaken begins again so many blocks before the reader comes by. */
const REJOIN_BLOCKS = 4;
/** Who was overtaken twice within so many blocks (2 s) plays no more than this share of what sounded. */
const TROUBLED_BLOCKS = 750;
const RELIEF = 0.8;
/** In time again, it plays more by this share every so many blocks (1 s). */
const RECOVERY = 1.2;
const RECOVERY_BLOCKS = 375;
const LEAST_VOICES = 8;

/** Renders its tracks of a performance ahead of the reader, block by block, into their rings. */
export class AheadWriter {
  private readonly kernel: Kernel;
  private owned: readonly number[] = [];
  private next = 0;
  private epoch = 0;
  /** Blocks that another left end here, and are read first; 0 when none are. */
  private gapFrom = 0;
  private limit = Infinity;
  /** Blocks since it was overtaken. */
  private calm = TROUBLED_BLOCKS;
  private busyMicroseconds = 0;
  /** Milliseconds that tracks have cost since they were last asked for. */
  private costs: number[] = [];
  private readonly sounding: boolean[] = [];

  /**
   * @param players tracks as the reader counts them; those of others have no instrument
   * @param index its place among the writers
   * @param sound the memory in which players and rings lie
   */
  constructor(
    private readonly players: Players,
    private readonly words: AheadWords,
    private readonly index: number,
    private readonly rings: Rings,
    sound: SoundMemory,
  ) {
    this.kernel = kernelIn(sound.memory);
  }

  /** Takes over tracks; it writes these and no others. */
  own(tracks: readonly number[]): void {
    this.owned = tracks;
  }

  /** Voices that may sound at once. Fewer do for a while after it was overtaken. */
  setLimit(voices: number): void {
    this.limit = voices;
    this.players.voiceLimit = voices;
  }

  /**
   * Begins a performance. @param events from that block on
   * @param block where to begin; beyond 0 it takes the place of another of this index, who has left
   */
  begin(epoch: number, events: readonly EngineEvent[], block = 0): void {
    const { players, words, index } = this;
    this.epoch = epoch;
    this.next = block;
    this.calm = TROUBLED_BLOCKS;
    players.voiceLimit = this.limit;
    // Whatever was ridden before: a performance is what is written, as a bounce is.
    for (const track of players.tracks) track.restControllers();
    players.reset(block * BLOCK);
    players.setEvents(events);
    // What it left is still to be read.
    const left = words.epochOf(index) === epoch ? words.writtenBy(index) : 0;
    for (; this.next < left; this.next++) players.pass();
    this.gapFrom = this.next > left ? left : 0;
  }

  /** Whether the next block may be written now. */
  get hasRoom(): boolean {
    const { words } = this;
    if (this.epoch === 0 || words.epoch !== this.epoch) return false;
    const { read } = words;
    return this.next < read + AHEAD_BLOCKS && read >= this.gapFrom;
  }

  /** Renders the next block. Call it while there is room. @param now a clock, in milliseconds */
  render(now: () => number): void {
    const began = now();
    const { players, words, index, rings, sounding } = this;
    // Not before the reader has begun: what it knows of the performance before is needed until then.
    if (words.epochOf(index) !== this.epoch) words.enter(index, this.epoch);
    if (this.next > words.writtenBy(index)) words.leaveOut(index, this.next);
    this.gapFrom = 0;
    this.catchUp();
    const block = this.next;
    sounding.length = 0;
    players.render((track, sound, hall) => {
      if (track >= rings.tracks) return;
      this.kernel.copy(rings.soundAt(track, block), sound, BLOCK * FRAME_BYTES);
      this.kernel.copy(rings.hallAt(track, block), hall, BLOCK * FRAME_BYTES);
      sounding[track] = true;
    });
    for (const track of this.owned) {
      if (track >= rings.tracks) continue;
      rings.mark(track, block, sounding[track] ?? false);
      if (sounding[track]) this.keepPeaks(track, block);
    }
    this.next++;
    words.wrote(index, this.next);
    this.charge(now() - began);
    words.tell(index, players.voiceCount, players.stolen, this.busyMicroseconds);
  }

  /** Charges time to the tracks whose voices took it: as many times as it has voices and positions. */
  private charge(milliseconds: number): void {
    this.busyMicroseconds += milliseconds * 1000;
    const { players, owned, costs } = this;
    let sum = 0;
    for (const track of owned) sum += players.weightOf(track);
    if (sum === 0) return;
    for (const track of owned)
      costs[track] = (costs[track] ?? 0) + (milliseconds * players.weightOf(track)) / sum;
  }

  /** Milliseconds that each track has cost since this was asked before, by track. */
  takeCosts(): number[] {
    const { costs } = this;
    this.costs = [];
    return Array.from(costs, (cost) => cost ?? 0);
  }

  private keepPeaks(index: number, block: number): void {
    const track = this.players.tracks[index];
    this.rings.setPeak(index, block, 0, track.peak);
    track.peak = 0;
    track.buses.forEach((bus, position) => {
      this.rings.setPeak(index, block, 1 + position, bus.peak);
      bus.peak = 0;
    });
  }

  /** Passes over what the reader has passed already. Who is too slow plays fewer voices for a while. */
  private catchUp(): void {
    const { players, words } = this;
    const { read } = words;
    this.calm++;
    if (this.next > read || read === 0) {
      if (this.calm % RECOVERY_BLOCKS === 0 && players.voiceLimit < this.limit)
        players.voiceLimit = Math.min(this.limit, Math.ceil(players.voiceLimit * RECOVERY));
      return;
    }
    // Once may be the machine's doing; twice is too much to play.
    if (this.calm < TROUBLED_BLOCKS)
      players.voiceLimit = Math.min(
        this.limit,
        Math.max(LEAST_VOICES, Math.floor(players.voiceCount * RELIEF)),
      );
    this.calm = 0;
    const until = read + REJOIN_BLOCKS;
    words.leaveOut(this.index, until);
    for (; this.next < until; this.next++) players.pass();
  }
}

import type { Desk } from '../desk.ts';
import { fadeOut } from '../fades.ts';
import { kernelIn, type Kernel } from '../kernel/index.ts';
import type { SoundMemory } from '../memory/index.ts';
import { BLOCK, FRAME_BYTES, MAX_POSITIONS } from '../voice-renderer.ts';
import { AHEAD_BLOCKS, type Rings } from './rings.ts';
import { MOST_WRITERS, type AheadWords } from './words.ts';

/** Blocks that every writer must have ready before a performance begins. */
const READY_BLOCKS = 6;
/** Whoever has nothing ready after so many blocks (half a second) is not waited for. */
const MOST_WAIT = 188;
const BLOCK_BYTES = BLOCK * FRAME_BYTES;
const LEVELS = 1 + MAX_POSITIONS;

/**
 * Takes what was rendered ahead block by block and gives it to the desk, tracks in their order. Who is late is faded out before the
 * gap and in after it: what is there one block ahead is known. Allocates nothing while it plays.
 */
export class AheadReader {
  /** Blocks that were not there in time, of all writers together. */
  lateBlocks = 0;
  private readonly kernel: Kernel;
  private owners: readonly number[] = [];
  private readonly owning = new Uint8Array(MOST_WRITERS);
  private readonly before = new Float64Array(MOST_WRITERS);
  private readonly after = new Float64Array(MOST_WRITERS);
  private state: 'rest' | 'waits' | 'plays' = 'rest';
  private waited = 0;
  private epoch = 0;
  private block = 0;
  /** Highest levels since they were last taken, by track: its own, then those of its positions. */
  private levels = new Float32Array(0);
  /** What is left of what was stopped: blocks of sound and of what goes to the hall. */
  private readonly leaving: number;
  private leavingAt = 0;
  private leavingUntil = 0;

  constructor(
    private readonly words: AheadWords,
    private readonly rings: Rings,
    sound: SoundMemory,
  ) {
    this.kernel = kernelIn(sound.memory);
    this.leaving = sound.roomOf(this)(AHEAD_BLOCKS * 2 * BLOCK_BYTES);
  }

  /** Says who writes which track; −1 for none. Allocates. */
  setOwners(owners: readonly number[]): void {
    this.owners = owners.slice(0, this.rings.tracks);
    this.owning.fill(0);
    for (const writer of this.owners) if (writer >= 0) this.owning[writer] = 1;
    if (this.levels.length < owners.length * LEVELS) {
      const { levels } = this;
      this.levels = new Float32Array(owners.length * LEVELS);
      this.levels.set(levels);
    }
  }

  /** Whether a performance is played or about to begin. */
  get plays(): boolean {
    return this.state !== 'rest';
  }

  /** Whether the first block of a performance has been heard, or is next. */
  get runs(): boolean {
    return this.state === 'plays';
  }

  /** Frames heard of the performance. */
  get frame(): number {
    return this.block * BLOCK;
  }

  /** Voices that sound at the writers. */
  get voiceCount(): number {
    return this.state === 'rest' ? 0 : this.sum('voices');
  }

  /** Voices that had to be given up at the writers. */
  get stolen(): number {
    return this.sum('stolen');
  }

  private sum(what: 'voices' | 'stolen'): number {
    let sum = 0;
    for (let writer = 0; writer < MOST_WRITERS; writer++)
      if (this.owning[writer] === 1 && this.words.epochOf(writer) === this.epoch)
        sum += this.words[what](writer);
    return sum;
  }

  /** Highest level of a track since it was last asked for. @param which 0 for the track, 1 + position for a position */
  takeLevel(track: number, which: number): number {
    const at = track * LEVELS + which;
    if (which >= LEVELS || at >= this.levels.length) return 0;
    const level = this.levels[at];
    this.levels[at] = 0;
    return level;
  }

  /** Begins a performance as soon as its first blocks are there; what plays stops. */
  begin(epoch: number): void {
    this.stop();
    this.epoch = epoch;
    this.block = 0;
    this.waited = 0;
    this.before.fill(1);
    this.state = 'waits';
    this.words.begin(epoch);
  }

  /** Stops: what was rendered ahead is faded out over as much as there is of it. Nothing of the rings is read after that. */
  stop(): void {
    const { kernel, words, epoch, rings, owners, block, before } = this;
    const left = this.leavingUntil - this.leavingAt;
    for (let i = 0; i < AHEAD_BLOCKS; i++) {
      const to = this.leaving + i * 2 * BLOCK_BYTES;
      if (i < left) kernel.copy(to, to + this.leavingAt * 2 * BLOCK_BYTES, 2 * BLOCK_BYTES);
      else kernel.clear(to, 2 * BLOCK_BYTES);
    }
    this.leavingAt = 0;
    this.leavingUntil = AHEAD_BLOCKS;
    const plays = this.state === 'plays';
    this.state = 'rest';
    if (!plays) return;
    for (let track = 0; track < owners.length; track++) {
      const writer = owners[track];
      if (writer < 0) continue;
      let there = 0;
      while (there < AHEAD_BLOCKS && words.has(writer, epoch, block + there)) there++;
      for (let i = 0; i < there; i++) {
        if (!rings.sounds(track, block + i)) continue;
        const gain = before[writer] * fadeOut(i / there);
        const step = (before[writer] * fadeOut((i + 1) / there) - gain) / BLOCK;
        const to = this.leaving + i * 2 * BLOCK_BYTES;
        kernel.addRamped(rings.soundAt(track, block + i), to, gain, step, BLOCK);
        kernel.addRamped(rings.hallAt(track, block + i), to + BLOCK_BYTES, gain, step, BLOCK);
      }
    }
  }

  /** Adds the next block of what was stopped. */
  private addLeaving(desk: Desk): void {
    if (this.leavingAt >= this.leavingUntil) return;
    const at = this.leaving + this.leavingAt++ * 2 * BLOCK_BYTES;
    desk.add(at, at + BLOCK_BYTES);
  }

  private get isReady(): boolean {
    for (let writer = 0; writer < MOST_WRITERS; writer++)
      if (this.owning[writer] === 1 && !this.words.has(writer, this.epoch, READY_BLOCKS - 1)) return false;
    return true;
  }

  /** Adds the next block to the desk and goes on. */
  addTo(desk: Desk): void {
    if (this.state === 'waits' && (this.isReady || this.waited++ >= MOST_WAIT)) {
      // A performance begins with a hall in which nothing rings, or it would not be the bounce bit for bit.
      desk.startOver(() => this.addLeaving(desk));
      this.leavingAt = this.leavingUntil;
      desk.begin();
      this.state = 'plays';
    }
    this.addLeaving(desk);
    if (this.state !== 'plays') return;
    this.aim();
    const { rings, owners, block, before, after } = this;
    for (let track = 0; track < owners.length; track++) {
      const writer = owners[track];
      if (writer < 0 || (before[writer] === 0 && after[writer] === 0) || !rings.sounds(track, block))
        continue;
      const [sound, hall] = [rings.soundAt(track, block), rings.hallAt(track, block)];
      if (before[writer] === 1 && after[writer] === 1) desk.add(sound, hall);
      else desk.addFading(sound, hall, before[writer], after[writer]);
      this.keepLevels(track);
    }
    before.set(after);
    this.block++;
    this.words.readOn(this.block);
  }

  /** Decides who is heard in this block, and whether they still are at its end. */
  private aim(): void {
    const { words, epoch, block, before, after } = this;
    for (let writer = 0; writer < MOST_WRITERS; writer++) {
      if (this.owning[writer] === 0) continue;
      const here = words.has(writer, epoch, block);
      if (!here) {
        before[writer] = 0;
        this.lateBlocks++;
      }
      after[writer] = here && words.has(writer, epoch, block + 1) ? 1 : 0;
    }
  }

  private keepLevels(track: number): void {
    const { levels, rings, block } = this;
    for (let which = 0; which < LEVELS; which++) {
      const level = rings.peak(track, block, which);
      const at = track * LEVELS + which;
      if (level > levels[at]) levels[at] = level;
    }
  }
}

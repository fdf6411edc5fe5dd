/** Writers there may be. */
export const MOST_WRITERS = 31;

/** What the reader tells: which performance is played, and the block it is at. */
const EPOCH = 0;
const READ = 1;
const FIRST = 2;
/** What each writer tells. */
const OWN_EPOCH = 0;
const FROM = 1;
const UNTIL = 2;
const VOICES = 3;
const STOLEN = 4;
const BUSY = 5;
const WORDS = 6;

/**
 * Words in shared memory by which one reader and several writers tell each other how far they are. A performance (from Play to
 * Stop or to the next Play) has a number of its own, its epoch; blocks are counted from its beginning.
 */
export class AheadWords {
  constructor(readonly words: Int32Array) {}

  static create(): AheadWords {
    return new AheadWords(new Int32Array(new SharedArrayBuffer(4 * (FIRST + MOST_WRITERS * WORDS))));
  }

  private at(writer: number, word: number): number {
    return FIRST + writer * WORDS + word;
  }

  /** Reader: begins a performance at block 0. */
  begin(epoch: number): void {
    Atomics.store(this.words, READ, 0);
    Atomics.store(this.words, EPOCH, epoch);
    Atomics.notify(this.words, READ);
  }

  get epoch(): number {
    return Atomics.load(this.words, EPOCH);
  }

  /** Block that is read next. */
  get read(): number {
    return Atomics.load(this.words, READ);
  }

  /** Reader: goes on to a block. */
  readOn(block: number): void {
    Atomics.store(this.words, READ, block);
    Atomics.notify(this.words, READ);
  }

  /** Waits until the reader has gone on from a block, or a while has passed. Not in the audio thread. */
  waitFrom(block: number, milliseconds: number): void {
    Atomics.wait(this.words, READ, block, milliseconds);
  }

  /** Writer: has nothing of a performance yet. */
  enter(writer: number, epoch: number): void {
    Atomics.store(this.words, this.at(writer, FROM), 0);
    Atomics.store(this.words, this.at(writer, UNTIL), 0);
    Atomics.store(this.words, this.at(writer, OWN_EPOCH), epoch);
  }

  epochOf(writer: number): number {
    return Atomics.load(this.words, this.at(writer, OWN_EPOCH));
  }

  /** Writer: leaves blocks out; the next it writes is this. Told before the block itself is there. */
  leaveOut(writer: number, until: number): void {
    Atomics.store(this.words, this.at(writer, FROM), until);
  }

  /** Writer: blocks before this are there. */
  wrote(writer: number, until: number): void {
    Atomics.store(this.words, this.at(writer, UNTIL), until);
  }

  /** Blocks before this are there, but for those that were left out. */
  writtenBy(writer: number): number {
    return Atomics.load(this.words, this.at(writer, UNTIL));
  }

  /** Whether a block of a performance is there. */
  has(writer: number, epoch: number, block: number): boolean {
    const { words } = this;
    return (
      Atomics.load(words, this.at(writer, OWN_EPOCH)) === epoch &&
      Atomics.load(words, this.at(writer, UNTIL)) > block &&
      Atomics.load(words, this.at(writer, FROM)) <= block
    );
  }

  /** Writer: how many voices sound, how many were given up so far, and for how many microseconds it has worked. */
  tell(writer: number, voices: number, stolen: number, busyMicroseconds: number): void {
    Atomics.store(this.words, this.at(writer, VOICES), voices);
    Atomics.store(this.words, this.at(writer, STOLEN), stolen);
    Atomics.store(this.words, this.at(writer, BUSY), busyMicroseconds | 0);
  }

  voices(writer: number): number {
    return Atomics.load(this.words, this.at(writer, VOICES));
  }

  stolen(writer: number): number {
    return Atomics.load(this.words, this.at(writer, STOLEN));
  }

  /** Microseconds of work so far; counts round at 2³². */
  busy(writer: number): number {
    return Atomics.load(this.words, this.at(writer, BUSY)) >>> 0;
  }
}

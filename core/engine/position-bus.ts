import { PHASES, TAPS } from '../dsp/index.ts';
import { levelGain, PLAIN_POSITION, positionMatrix, type PositionMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { CurveTables } from './curves.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { Tone } from './tone.ts';
import { BLOCK, FRAME_BYTES, type PositionPlace } from './voice-renderer.ts';

/** Longest delay of a position. */
const LONGEST_MS = 100;
/** Share of the way to a new mix per block: about 10 ms, too slow to click and quick enough to follow a hand. */
const GLIDE = 0.25;
/** A glide that has come this near, −120 dB, is over, so that silence becomes exact. */
const NEAR = 1e-6;

/** Frames that a delay between frames looks to either side. */
const REACH_FRAMES = 5;
const NO_BANDS: readonly never[] = [];

/** One microphone position of one track: tone, delay, level, balance, width and polarity of the summed voices, and its send. */
export class PositionBus implements PositionPlace {
  /** Where voices add their sound: a block of stereo frames. */
  readonly input: number;
  /** Highest absolute output since the last read. */
  peak = 0;
  /** Whether anything of it is heard, now or at the end of a glide. */
  isHeard = true;
  /** Power with which it is heard. */
  power = 1;
  /** Whether everything stands where it is wanted. */
  private isStill = false;
  private readonly kernel: Kernel;
  /** What the mix asks for, that where the level moves, and what is wanted of it here. */
  private readonly still = new Float64Array(4);
  private readonly meant = new Float64Array(4);
  private readonly target = new Float64Array(4);
  private elsewhere = false;
  private move = 1;
  private readonly now = new Float64Array(4);
  private readonly after = new Float64Array(4);
  /** A ring of `ringFrames` frames; none until something is delayed. */
  private ring = 0;
  private ringFrames = 0;
  private write = 0;
  /** Frames of the past that the ring knows. */
  private known = 0;
  private delay = 0;
  private delayTarget = 0;
  /** Rows of weights for what comes to whole frames of the delays, 0 for nothing. */
  private delayRow = 0;
  private delayTargetRow = 0;
  private tone: Tone | null = null;
  private send = 1;
  private sendTarget = 1;

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
    positionMatrix(mix, this.still);
    this.sendTarget = levelGain(mix.sendDb ?? 0);
    this.elsewhere = mix.elsewhere ?? false;
    this.aim();
    const bands = mix.eq ?? NO_BANDS;
    if (bands.length > 0) this.tone ??= new Tone(this.kernel, this.room);
    this.tone?.setBands(bands);
    this.setDelay((Math.min(LONGEST_MS, Math.max(0, mix.delayMs)) * rate) / 1000);
  }

  /** Takes a level beside that of the mix, which is approached while it sounds. @param db −60 and below is silence */
  setMove(db: number): void {
    this.move = levelGain(db);
    this.aim();
  }

  private aim(): void {
    for (let i = 0; i < 4; i++) {
      this.meant[i] = this.still[i] * this.move;
      this.target[i] = this.elsewhere ? 0 : this.meant[i];
    }
    this.look();
  }

  /** Notes what follows from where the gains are and where they go: it is asked for by every voice. */
  private look(): void {
    const { now, target } = this;
    let [heard, power] = [false, 0];
    let still = this.send === this.sendTarget;
    for (let i = 0; i < 4; i++) {
      if (now[i] !== 0 || target[i] !== 0) heard = true;
      if (now[i] !== target[i]) still = false;
      power += target[i] ** 2;
    }
    this.isHeard = heard;
    this.power = power / 2;
    this.isStill = still;
  }

  /** Delays shorter than the curve of interpolation reaches are rounded to frames: what comes next is not known yet. */
  private setDelay(exactFrames: number): void {
    const phases = Math.round(exactFrames * PHASES);
    const between = phases % PHASES;
    const apart = between !== 0 && exactFrames >= REACH_FRAMES;
    const frames = apart ? Math.floor(exactFrames) : Math.round(exactFrames);
    if (frames > 0 && frames + REACH_FRAMES >= this.ringFrames) this.makeRing(frames + REACH_FRAMES);
    this.delayTarget = frames;
    // Between frame n and n + 1 before, the curve's own place lies after n + 1.
    this.delayTargetRow = apart ? CurveTables.in(this.sound).plain + (PHASES - between) * TAPS * 4 : 0;
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

  /** Gain with which it is heard as one channel, here or elsewhere, for comparing sounds. */
  get loudness(): number {
    const { meant } = this;
    return Math.abs(meant[0] + meant[1]) + Math.abs(meant[2] + meant[3]);
  }

  /** Frames for which it goes on to sound after its last input. */
  get tailFrames(): number {
    return Math.max(this.delay, this.delayTarget) + REACH_FRAMES;
  }

  /** Whether something else of it goes to the hall than of the rest of its track, now or at the end of a glide. */
  get sendsApart(): boolean {
    return this.send !== 1 || this.sendTarget !== 1;
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
    this.delayRow = this.delayTargetRow;
    this.send = this.sendTarget;
    this.look();
    this.tone?.reset();
  }

  /**
   * Adds a block to the track's sound at `to` and clears its input. Changes glide over the block.
   * @param hall where what goes to the hall is added, with `copy` to work in; 0 when it is the same
   */
  mixInto(to: number, hall = 0, copy = 0): void {
    const { kernel, now, target } = this;
    if (this.tone?.works) this.tone.process(this.input, BLOCK, ENGINE_RATE);
    // Written on without a delay too: the next one finds what was before it.
    if (this.ring !== 0) {
      // A delay longer than what is known of the past is taken up as soon as it is.
      const isKnown = this.delayTarget + REACH_FRAMES <= this.known || this.delayTarget <= this.delay;
      const next = isKnown ? this.delayTarget : this.delay;
      const nextRow = isKnown ? this.delayTargetRow : this.delayRow;
      const mask = this.ringFrames - 1;
      kernel.delay(this.input, this.ring, mask, this.write, this.delay, this.delayRow, next, nextRow, BLOCK);
      this.write = (this.write + BLOCK) & (this.ringFrames - 1);
      this.known = Math.min(this.ringFrames, this.known + BLOCK);
      this.delay = next;
      this.delayRow = nextRow;
    }
    const { isStill } = this;
    if (!isStill) for (let i = 0; i < 4; i++) this.after[i] = glided(now[i], target[i]);
    const sendAfter = isStill ? this.send : glided(this.send, this.sendTarget);
    if (hall !== 0) {
      kernel.copy(copy, this.input, BLOCK * FRAME_BYTES);
      this.add(copy, hall, this.send, sendAfter);
    }
    const peak = this.add(this.input, to, 1, 1);
    if (peak > this.peak) this.peak = peak;
    if (isStill) return;
    for (let i = 0; i < 4; i++) now[i] = this.after[i];
    this.send = sendAfter;
    this.look();
  }

  /** Adds a block and clears it, with gains that grow from one factor to another. @returns the highest absolute value */
  private add(from: number, to: number, factor: number, factorAfter: number): number {
    const { now, kernel } = this;
    const after = this.isStill ? now : this.after;
    return kernel.mixPosition(
      from,
      to,
      BLOCK,
      now[0] * factor,
      now[1] * factor,
      now[2] * factor,
      now[3] * factor,
      (after[0] * factorAfter - now[0] * factor) / BLOCK,
      (after[1] * factorAfter - now[1] * factor) / BLOCK,
      (after[2] * factorAfter - now[2] * factor) / BLOCK,
      (after[3] * factorAfter - now[3] * factor) / BLOCK,
    );
  }
}

/** A block nearer to what is wanted. */
function glided(now: number, wanted: number): number {
  const next = now + GLIDE * (wanted - now);
  return Math.abs(next - wanted) < NEAR ? wanted : next;
}

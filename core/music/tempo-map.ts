import { TICKS_PER_QUARTER, type Seconds, type Ticks } from '../units/index.ts';

/** A change of tempo: from `tick` on, `bpm` quarter notes a minute. */
export interface TempoChange {
  tick: number;
  bpm: number;
  /** From here to the next change the tempo moves evenly, so much for every quarter; without it, it holds. The last one holds. */
  ramp?: boolean;
}

/** A change of metre: from `tick` on, bars of `numerator`/`denominator`. */
export interface MetreChange {
  tick: number;
  numerator: number;
  denominator: number;
}

/** Musical position, all counted from 1 but `tick`. */
export interface BarBeat {
  bar: number;
  beat: number;
  tick: number;
}

/** A beat as it is counted. */
export interface Pulse {
  tick: number;
  beginsBar: boolean;
}

/** Quarter notes a minute where none are set, says the standard of MIDI files. */
export const STANDARD_BPM = 120;
/** Quarter notes a minute that a cue can have. */
export const BPM = { low: 5, high: 999 } as const;
/** Beats of a bar, and the notes that may be beats. */
export const METRE = { mostBeats: 64, beats: [1, 2, 4, 8, 16, 32, 64] as readonly number[] } as const;

/** From a change of tempo to the next. */
interface Segment {
  tick: number;
  seconds: number;
  secondsPerTick: number;
  /** By which share of the first tempo it changes from tick to tick; 0 where it holds. */
  growth: number;
}

/**
 * Converts between ticks and seconds over tempos that hold or move. Immutable.
 *
 * Where the tempo moves evenly, b(x) = b₀·(1 + g·x) after x ticks, time is the integral of 1/b: t(x) = t₁·ln(1 + g·x)/g with t₁ the
 * seconds of a tick at first; written with log1p and expm1, so that it stays exact while g becomes small.
 */
export class TempoMap {
  private readonly segments: Segment[] = [];
  private readonly startTicks: number[];
  private readonly startSeconds: number[];

  /** @param changes any order; before the first change its tempo already holds; none gives 120 bpm. */
  constructor(changes: readonly TempoChange[]) {
    const sorted = [...changes].sort((a, b) => a.tick - b.tick);
    const [first] = sorted;
    // A tempo that moves begins to do so where it stands.
    if (!first || first.tick > 0) sorted.unshift({ tick: 0, bpm: first?.bpm ?? STANDARD_BPM });
    let seconds = 0;
    sorted.forEach((change, i) => {
      const { tick, bpm } = change;
      if (!(bpm > 0)) throw new RangeError(`tempo must be above 0 bpm, got ${bpm}`);
      const before = this.segments.at(-1);
      if (before) seconds = secondsAfter(before, tick - before.tick);
      this.segments.push({
        tick,
        seconds,
        secondsPerTick: 60 / (bpm * TICKS_PER_QUARTER),
        growth: growthTo(change, sorted[i + 1]),
      });
    });
    this.startTicks = this.segments.map(({ tick }) => tick);
    this.startSeconds = this.segments.map(({ seconds: at }) => at);
  }

  /** Time of a tick; ticks before 0 extend the first tempo backwards. */
  toSeconds(tick: number): Seconds {
    const segment = this.segments[segmentAt(this.startTicks, tick)];
    return secondsAfter(segment, tick - segment.tick) as Seconds;
  }

  /** Fractional tick at a time; inverse of `toSeconds`. */
  toTicks(time: number): Ticks {
    const { tick, seconds, secondsPerTick, growth } = this.segments[segmentAt(this.startSeconds, time)];
    const even = (time - seconds) / secondsPerTick;
    if (growth === 0 || even <= 0) return (tick + even) as Ticks;
    return (tick + Math.expm1(even * growth) / growth) as Ticks;
  }

  /** Tempo at a tick, in quarter notes a minute. */
  bpmAt(tick: number): number {
    const segment = this.segments[segmentAt(this.startTicks, tick)];
    const moved = 1 + segment.growth * Math.max(0, tick - segment.tick);
    return (60 * moved) / (segment.secondsPerTick * TICKS_PER_QUARTER);
  }
}

function growthTo({ tick, bpm, ramp }: TempoChange, next: TempoChange | undefined): number {
  return ramp && next && next.tick > tick ? (next.bpm / bpm - 1) / (next.tick - tick) : 0;
}

/** Time of a segment after so many ticks of it; before its beginning the first tempo holds. */
function secondsAfter({ seconds, secondsPerTick, growth }: Segment, ticks: number): number {
  if (growth === 0 || ticks <= 0) return seconds + ticks * secondsPerTick;
  return seconds + (Math.log1p(growth * ticks) / growth) * secondsPerTick;
}

/** Index of the last start at or before `at`, never below 0. Starts ascend. */
function segmentAt(starts: readonly number[], at: number): number {
  let low = 0;
  let high = starts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle] <= at) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** Ticks of one bar and of one beat (the denominator's note) of a metre. */
export function metreTicks(metre: Pick<MetreChange, 'numerator' | 'denominator'>): {
  bar: number;
  beat: number;
} {
  const beat = (TICKS_PER_QUARTER * 4) / metre.denominator;
  return { bar: beat * metre.numerator, beat };
}

/** True for bars that are counted in threes: 6/8, 9/8, 12/16 … */
function isCompound({ numerator, denominator }: MetreChange): boolean {
  return denominator >= 8 && numerator > 3 && numerator % 3 === 0;
}

/** Walks bars over metre changes (a change takes effect at its tick and starts a new bar). Immutable. */
export class MetreMap {
  private readonly changes: MetreChange[];
  private readonly firstBars: number[] = [];

  constructor(changes: readonly MetreChange[]) {
    this.changes = [...changes].sort((a, b) => a.tick - b.tick);
    if (this.changes.length === 0 || this.changes[0].tick > 0)
      this.changes.unshift({ tick: 0, numerator: 4, denominator: 4 });
    let bar = 1;
    this.changes.forEach((change, i) => {
      if (i > 0) {
        const before = this.changes[i - 1];
        bar += Math.ceil((change.tick - before.tick) / metreTicks(before).bar - 1e-9);
      }
      this.firstBars.push(bar);
    });
  }

  /** Metre in force at a tick. */
  at(tick: number): MetreChange {
    return this.changes[this.indexAt(tick)];
  }

  /** Bar and beat (from 1) of a tick at or after 0, with the ticks past that beat. */
  toBarBeat(tick: number): BarBeat {
    const i = this.indexAt(tick);
    const { bar, beat } = metreTicks(this.changes[i]);
    const past = Math.max(0, tick - this.changes[i].tick);
    const bars = Math.floor(past / bar);
    const inBar = past - bars * bar;
    const beats = Math.floor(inBar / beat);
    return { bar: this.firstBars[i] + bars, beat: beats + 1, tick: Math.round(inBar - beats * beat) };
  }

  /** Tick at which a bar (from 1) starts. */
  barStart(bar: number): Ticks {
    let i = this.firstBars.length - 1;
    while (i > 0 && this.firstBars[i] > bar) i--;
    return (this.changes[i].tick + (bar - this.firstBars[i]) * metreTicks(this.changes[i]).bar) as Ticks;
  }

  /**
   * Pulses of [from, to): beats, or threes of them where bars of eighths or shorter are made of those. Before the beginning the first
   * metre goes on backwards.
   */
  pulses(from: number, to: number): Pulse[] {
    return this.changes.flatMap((change, i) => {
      const { bar, beat } = metreTicks(change);
      const step = isCompound(change) ? 3 * beat : beat;
      const first = i === 0 ? from : Math.max(from, change.tick);
      const end = Math.min(to, this.changes[i + 1]?.tick ?? to);
      const pulses: Pulse[] = [];
      let at = change.tick + Math.ceil((first - change.tick) / step) * step;
      // A bar that a change cuts short has no pulse of the next.
      for (; at < end; at += step) pulses.push({ tick: at, beginsBar: (at - change.tick) % bar === 0 });
      return pulses;
    });
  }

  private indexAt(tick: number): number {
    let i = this.changes.length - 1;
    while (i > 0 && this.changes[i].tick > tick) i--;
    return i;
  }
}

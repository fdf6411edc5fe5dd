import { TICKS_PER_QUARTER, type Seconds, type Ticks } from '../units/index.ts';

/** A change of tempo: from `tick` on, `bpm` quarter notes a minute. */
export interface TempoChange {
  tick: number;
  bpm: number;
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

const DEFAULT_BPM = 120;

/** Converts between ticks and seconds over stepwise tempo changes. Immutable. */
export class TempoMap {
  private readonly startTicks: number[] = [];
  private readonly startSeconds: number[] = [];
  private readonly secondsPerTick: number[] = [];

  /** @param changes any order; before the first change its tempo already holds; none gives 120 bpm. */
  constructor(changes: readonly TempoChange[]) {
    const sorted = [...changes].sort((a, b) => a.tick - b.tick);
    if (sorted.length === 0) sorted.push({ tick: 0, bpm: DEFAULT_BPM });
    let at = 0;
    sorted.forEach((change, i) => {
      if (!(change.bpm > 0)) throw new RangeError(`tempo must be above 0 bpm, got ${change.bpm}`);
      const tick = i === 0 ? Math.min(0, change.tick) : change.tick;
      if (i > 0) at += (tick - this.startTicks[i - 1]) * this.secondsPerTick[i - 1];
      this.startTicks.push(tick);
      this.startSeconds.push(at);
      this.secondsPerTick.push(60 / (change.bpm * TICKS_PER_QUARTER));
    });
  }

  /** Time of a tick; ticks before 0 extend the first tempo backwards. */
  toSeconds(tick: number): Seconds {
    const i = segmentAt(this.startTicks, tick);
    return (this.startSeconds[i] + (tick - this.startTicks[i]) * this.secondsPerTick[i]) as Seconds;
  }

  /** Fractional tick at a time; inverse of `toSeconds`. */
  toTicks(time: number): Ticks {
    const i = segmentAt(this.startSeconds, time);
    return (this.startTicks[i] + (time - this.startSeconds[i]) / this.secondsPerTick[i]) as Ticks;
  }

  /** Tempo in force at a tick, in quarter notes a minute. */
  bpmAt(tick: number): number {
    return 60 / (this.secondsPerTick[segmentAt(this.startTicks, tick)] * TICKS_PER_QUARTER);
  }
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

  private indexAt(tick: number): number {
    let i = this.changes.length - 1;
    while (i > 0 && this.changes[i].tick > tick) i--;
    return i;
  }
}

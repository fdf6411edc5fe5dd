import { Biquad } from './biquad.ts';
import { TruePeak } from './true-peak.ts';

/** K-weighting at 48 kHz: the two sections printed in ITU-R BS.1770-5, annex 1. */
const SHELF = {
  b0: 1.53512485958697,
  b1: -2.69169618940638,
  b2: 1.19839281085285,
  a1: -1.69065929318241,
  a2: 0.73248077421585,
};
const HIGH_PASS = { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 };

const STEP_SECONDS = 0.1;
const MOMENTARY_STEPS = 4;
const SHORT_TERM_STEPS = 30;

/** Loudness in LUFS of a mean square power: −0.691 + 10·log10(power). */
export function toLufs(power: number): number {
  return power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity;
}

/** A signal at 48 kHz under the K-weighting. Allocates. */
export function kWeighted(signal: Float32Array | Float64Array): Float64Array {
  const out = Float64Array.from(signal);
  for (const section of [SHELF, HIGH_PASS]) new Biquad(section).process(out, out, 0, out.length);
  return out;
}

/** Power gain of the K-weighting at a frequency, from the same two sections. @param hz above 0, below 24 kHz */
export function kWeightingPower(hz: number): number {
  const w = (2 * Math.PI * hz) / 48_000;
  let gain = 1;
  for (const { b0, b1, b2, a1, a2 } of [SHELF, HIGH_PASS]) {
    const power = (c0: number, c1: number, c2: number) =>
      (c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w)) ** 2 + (c1 * Math.sin(w) + c2 * Math.sin(2 * w)) ** 2;
    gain *= power(b0, b1, b2) / power(1, a1, a2);
  }
  return gain;
}

/** The two sections of the K-weighting, b0, b1, b2, a1, a2 of each. */
export const K_WEIGHTING = /* @__PURE__ */ [SHELF, HIGH_PASS].flatMap(({ b0, b1, b2, a1, a2 }) => [
  b0,
  b1,
  b2,
  a1,
  a2,
]);

/** Loudness from sums of squares of K-weighted sound, in steps of 100 ms; who weighs it tells them. 48 kHz. */
export class LoudnessSteps {
  /** Highest absolute value between the samples. */
  protected highest = 0;
  private readonly stepFrames: number;
  private sum = 0;
  private inStep = 0;
  /** Mean square of every finished step; kept with `keepAll` only. */
  private readonly steps: number[] = [];
  private readonly recent = new Float64Array(SHORT_TERM_STEPS);
  private count = 0;

  /**
   * @param rate must be 48000
   * @param keepAll keeps every step so that `integrated` and true peak can be told; leave off in live playing
   */
  constructor(
    rate: number,
    protected readonly keepAll: boolean,
  ) {
    this.stepFrames = Math.round(STEP_SECONDS * rate);
  }

  reset(): void {
    this.sum = 0;
    this.inStep = 0;
    this.count = 0;
    this.recent.fill(0);
    this.steps.length = 0;
    this.highest = 0;
  }

  /** Frames that may be told at once: none goes beyond a step. */
  protected get framesLeft(): number {
    return this.stepFrames - this.inStep;
  }

  /** Takes the sum of squares of both channels over some frames, at most `framesLeft`. */
  protected take(squares: number, frames: number): void {
    this.sum += squares;
    this.inStep += frames;
    if (this.inStep < this.stepFrames) return;
    const power = this.sum / this.stepFrames;
    this.recent[this.count % SHORT_TERM_STEPS] = power;
    this.count++;
    if (this.keepAll) this.steps.push(power);
    this.sum = 0;
    this.inStep = 0;
  }

  /** Loudness of the last 400 ms in LUFS. */
  get momentary(): number {
    return toLufs(this.meanOfLast(MOMENTARY_STEPS));
  }

  /** Loudness of the last 3 s in LUFS. */
  get shortTerm(): number {
    return toLufs(this.meanOfLast(SHORT_TERM_STEPS));
  }

  /** Programme loudness in LUFS, gated at −70 LUFS and 10 LU below the ungated mean. Needs `keepAll`. */
  get integrated(): number {
    const blocks: number[] = [];
    for (let i = MOMENTARY_STEPS; i <= this.steps.length; i++) {
      let sum = 0;
      for (let k = i - MOMENTARY_STEPS; k < i; k++) sum += this.steps[k];
      blocks.push(sum / MOMENTARY_STEPS);
    }
    const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    const loud = blocks.filter((power) => toLufs(power) > -70);
    if (loud.length === 0) return -Infinity;
    const gate = toLufs(mean(loud)) - 10;
    return toLufs(mean(loud.filter((power) => toLufs(power) > gate)));
  }

  /**
   * Loudness range in LU after EBU Tech 3342: from the 10th to the 95th percentile of the short-term values, gated at −70 LUFS
   * and 20 LU below their mean. 0 for less than 3 s. Needs `keepAll`.
   */
  get range(): number {
    const list: number[] = [];
    for (let i = SHORT_TERM_STEPS; i <= this.steps.length; i++) {
      let sum = 0;
      for (let k = i - SHORT_TERM_STEPS; k < i; k++) sum += this.steps[k];
      if (toLufs(sum / SHORT_TERM_STEPS) > -70) list.push(sum / SHORT_TERM_STEPS);
    }
    if (list.length === 0) return 0;
    const gate = toLufs(list.reduce((a, b) => a + b, 0) / list.length) - 20;
    const kept = list.map(toLufs).filter((value) => value > gate);
    kept.sort((a, b) => a - b);
    const at = (share: number) => kept[Math.round(share * (kept.length - 1))];
    return at(0.95) - at(0.1);
  }

  /** Highest level between the samples, in dBTP. Needs `keepAll`. */
  get truePeakDb(): number {
    return 20 * Math.log10(Math.max(this.highest, 1e-10));
  }

  private meanOfLast(steps: number): number {
    let sum = 0;
    for (let i = 1; i <= Math.min(steps, this.count); i++)
      sum += this.recent[(this.count - i) % SHORT_TERM_STEPS];
    return sum / steps;
  }
}

/** Stereo loudness after ITU-R BS.1770-5 and EBU Tech 3341, and true peak. 48 kHz. */
export class LoudnessMeter extends LoudnessSteps {
  private readonly filters = [
    new Biquad(SHELF),
    new Biquad(SHELF),
    new Biquad(HIGH_PASS),
    new Biquad(HIGH_PASS),
  ];
  private scratch = new Float64Array(128);
  private readonly peaks = [new TruePeak(), new TruePeak()];

  /** @param keepAll as for the steps */
  constructor(rate: number, keepAll = false) {
    super(rate, keepAll);
  }

  override reset(): void {
    super.reset();
    for (const filter of this.filters) filter.reset();
    for (const peak of this.peaks) peak.reset();
  }

  /** Takes frames [from, to) of both channels. */
  process(
    left: Float32Array | Float64Array,
    right: Float32Array | Float64Array,
    from: number,
    to: number,
  ): void {
    if (this.keepAll)
      this.highest = this.peaks[1].take(right, from, to, this.peaks[0].take(left, from, to, this.highest));
    for (let at = from; at < to;) {
      const end = Math.min(to, at + Math.min(128, this.framesLeft));
      this.take(this.weighted(left, 0, at, end) + this.weighted(right, 1, at, end), end - at);
      at = end;
    }
  }

  private weighted(input: Float32Array | Float64Array, channel: number, from: number, to: number): number {
    const { scratch } = this;
    const count = to - from;
    for (let i = 0; i < count; i++) scratch[i] = input[from + i];
    this.filters[channel].process(scratch, scratch, 0, count);
    this.filters[2 + channel].process(scratch, scratch, 0, count);
    let sum = 0;
    for (let i = 0; i < count; i++) sum += scratch[i] * scratch[i];
    return sum;
  }
}

import { kWeighted, toLufs } from '../dsp/index.ts';
import { decayOf } from '../measure/index.ts';
import { levelGain, PLAIN_POSITION, positionMatrix, type TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { isHeard, prepared, type Apart } from './apart.ts';

/**
 * Mean products of all channels of a section, two by two: what any mix of them amounts to follows at once, since a mix is a sum and
 * its power a quadratic form of its gains.
 */
class Products {
  private readonly values: Float64Array;

  /** @param channels left and right of each position by turns */
  constructor(private readonly channels: number) {
    this.values = new Float64Array(channels * channels);
  }

  /** Adds products over frames [from, to), times a weight. */
  take(sides: readonly ArrayLike<number>[], from: number, to: number, weight: number): void {
    const { channels, values } = this;
    for (let a = 0; a < channels; a++)
      for (let b = 0; b <= a; b++) {
        const [x, y] = [sides[a], sides[b]];
        let sum = 0;
        for (let i = from; i < to; i++) sum += x[i] * y[i];
        values[a * channels + b] += sum * weight;
        if (a !== b) values[b * channels + a] += sum * weight;
      }
  }

  /** Mean product of two weighted sums of the channels. */
  of(u: ArrayLike<number>, v: ArrayLike<number>): number {
    const { channels, values } = this;
    let sum = 0;
    for (let a = 0; a < channels; a++) {
      if (u[a] === 0) continue;
      for (let b = 0; b < channels; b++) sum += u[a] * v[b] * values[a * channels + b];
    }
    return sum;
  }
}

/** A note of a section that was held and let go, its positions apart. */
export interface LetGo {
  apart: Apart;
  /** Frames at which it begins and is let go, where it is heard first. */
  onset: number;
  letGo: number;
  /** How many frames later positions hear it, by id; 0 unless given. */
  late?: Readonly<Record<string, number>>;
}

/** What the hall gives back of what it is sent: power against power, by the side it comes from. */
export interface HallPower {
  fromLeft: number;
  fromRight: number;
}

/** Figures of a mix of one section. */
export interface MixFigures {
  /** Programme loudness of the passage, LUFS (ITU-R BS.1770-5, gated by where the section plays). */
  loudness: number;
  /** Level of the difference of the sides against their sum, dB. */
  sideDb: number;
  /** Correlation of the sides, −1 … 1. */
  correlation: number;
  /** Direct sound against the room, dB; undefined when no decay was heard. */
  depthDb: number | undefined;
}

const STEP = ENGINE_RATE / 10;
const BLOCK_STEPS = 4;
const ABSOLUTE_LUFS = -70;
const RELATIVE_LU = -10;
const SETTLE_SECONDS = 0.02;
const TAIL_SECONDS = 0.12;
const BEFORE_SECONDS = 0.2;
const HOP_SECONDS = 0.005;

/**
 * How one section sums: figures of any levels, widths and sends of its positions within microseconds. Delays, tone and polarity
 * are those of the mix it was made with.
 */
export class SectionForms {
  /** Positions it knows, in order. */
  readonly ids: readonly string[];
  private readonly loudness: Products;
  private readonly plain: Products;
  private readonly whole: Products | undefined;
  private readonly room: Products | undefined;
  private readonly filled: number;

  /**
   * @param passage what it plays; @param note a note held and let go, for its depth
   * @param mix whose delays and tone are taken; positions that are silent in it are known as well
   */
  constructor(
    passage: Apart,
    note: LetGo | undefined,
    mix: TrackMix,
    private readonly hall: HallPower = { fromLeft: 0, fromRight: 0 },
  ) {
    const open = opened(mix, passage);
    const heard = prepared(passage, open);
    this.ids = heard.map(({ id }) => id);
    const sides = heard.flatMap(({ left, right }) => [left, right]);
    this.loudness = new Products(sides.length);
    this.plain = new Products(sides.length);
    const steps = gated(sides);
    const total = steps.reduce((sum, one) => sum + one, 0);
    const weighted = sides.map((side) => kWeighted(side));
    steps.forEach((count, s) => {
      if (count === 0) return;
      const weight = count / total / STEP;
      this.loudness.take(weighted, s * STEP, (s + 1) * STEP, weight);
      this.plain.take(sides, s * STEP, (s + 1) * STEP, weight);
    });
    const room = note && roomOf(prepared(note.apart, open), note, open);
    this.whole = room?.whole;
    this.room = room?.room;
    this.filled = room?.filled ?? 1;
  }

  /** Figures of a mix. The track's own balance and level count as well. */
  figures(mix: TrackMix): MixFigures {
    const { left, right } = this.weights(mix);
    const send = levelGain(mix.hallSendDb) ** 2;
    const wet = send * (this.hall.fromLeft + this.hall.fromRight);
    const wetOf = (products: Products) =>
      send * (this.hall.fromLeft * products.of(left, left) + this.hall.fromRight * products.of(right, right));
    const [ll, rr, lr] = [this.plain.of(left, left), this.plain.of(right, right), this.plain.of(left, right)];
    // What the hall gives back is as loud in the sum of the sides as in their difference.
    const hall = wetOf(this.plain);
    const middle = ll + rr + 2 * lr + hall;
    const side = ll + rr - 2 * lr + hall;
    return {
      loudness: toLufs(this.loudness.of(left, left) + this.loudness.of(right, right) + wetOf(this.loudness)),
      sideDb: 10 * Math.log10(Math.max(side, 1e-9 * middle, 1e-20) / Math.max(middle, 1e-20)),
      correlation: ll > 0 && rr > 0 ? lr / Math.sqrt((ll + hall / 2) * (rr + hall / 2)) : 0,
      depthDb: this.depth(left, right, wet > 0 ? wetOf : undefined),
    };
  }

  private depth(
    left: Float64Array,
    right: Float64Array,
    wetOf: ((products: Products) => number) | undefined,
  ): number | undefined {
    const { whole, room } = this;
    if (!whole || !room) return undefined;
    const roomPower = room.of(left, left) + room.of(right, right);
    const wholePower = whole.of(left, left) + whole.of(right, right);
    if (!(wholePower > 0)) return undefined;
    const direct = Math.max(wholePower - roomPower, wholePower * 1e-3);
    return 10 * Math.log10(direct / Math.max(roomPower / this.filled + (wetOf?.(whole) ?? 0), 1e-20));
  }

  /** What each channel weighs in the left and in the right of the mix. */
  private weights(mix: TrackMix): { left: Float64Array; right: Float64Array } {
    const [left, right] = [new Float64Array(2 * this.ids.length), new Float64Array(2 * this.ids.length)];
    const matrix = new Float64Array(4);
    const gain = levelGain(mix.gainDb);
    this.ids.forEach((id, i) => {
      const own = mix.positions[id];
      if (!isHeard(own)) return;
      positionMatrix(own, matrix);
      left[2 * i] = gain * matrix[0];
      left[2 * i + 1] = gain * matrix[1];
      right[2 * i] = gain * matrix[2];
      right[2 * i + 1] = gain * matrix[3];
    });
    return { left, right };
  }
}

/** A mix in which every position there is can be heard, with its own delay and tone. */
function opened(mix: TrackMix, apart: Apart): TrackMix {
  const positions = Object.fromEntries(
    apart.map(({ id }) => [id, { ...PLAIN_POSITION, ...mix.positions[id], levelDb: 0, muted: false }]),
  );
  return { ...mix, positions };
}

/** How many of the blocks of 400 ms that pass both gates hold each step of 100 ms. */
function gated(sides: readonly Float32Array[]): number[] {
  const count = Math.floor((sides[0]?.length ?? 0) / STEP);
  const power = new Float64Array(count);
  for (const side of sides) {
    const weighted = kWeighted(side);
    for (let s = 0; s < count; s++)
      for (let i = s * STEP; i < (s + 1) * STEP; i++) power[s] += (weighted[i] * weighted[i]) / STEP;
  }
  const blocks: { at: number; power: number }[] = [];
  for (let at = 0; at + BLOCK_STEPS <= count; at++)
    blocks.push({ at, power: power.subarray(at, at + BLOCK_STEPS).reduce((a, b) => a + b, 0) / BLOCK_STEPS });
  const mean = (list: typeof blocks) => list.reduce((sum, one) => sum + one.power, 0) / list.length;
  const loud = blocks.filter((one) => toLufs(one.power) > ABSOLUTE_LUFS);
  const gate = loud.length > 0 ? toLufs(mean(loud)) + RELATIVE_LU : Infinity;
  const steps = new Array<number>(count).fill(0);
  for (const { at, power: own } of loud)
    if (toLufs(own) > gate) for (let s = at; s < at + BLOCK_STEPS; s++) steps[s]++;
  return steps;
}

/**
 * What is heard of all while a note is held, and what of it is the room: the line of its decay drawn back to where it was let go,
 * as `directToRoomDb` does it. Each position is looked at from when the note ends for it.
 */
function roomOf(
  heard: Apart,
  { onset, letGo, late }: LetGo,
  mix: TrackMix,
): { whole: Products; room: Products; filled: number } | undefined {
  if (heard.length === 0) return undefined;
  const lateOf = (id: string) =>
    Math.round((late?.[id] ?? 0) + (mix.positions[id].delayMs * ENGINE_RATE) / 1000);
  const latest = Math.max(...heard.map(({ id }) => lateOf(id)));
  const frames = (seconds: number) => Math.round(seconds * ENGINE_RATE);
  // Steady in all positions: after the last has begun, and before the first ends.
  const from = Math.max(onset + latest, letGo - frames(BEFORE_SECONDS));
  if (from >= letGo) return undefined;
  const sides = heard.flatMap(({ left, right }) => [left, right]);
  const whole = new Products(sides.length);
  whole.take(sides, from, letGo, 1 / (letGo - from));
  const settle = letGo + frames(SETTLE_SECONDS);
  const ends = heard.flatMap(({ id, left, right }) =>
    [left, right].map((side) => side.subarray(settle + lateOf(id), side.length - latest + lateOf(id))),
  );
  const length = ends[0].length;
  const decay = decayOf(ends, ENGINE_RATE, 0, length);
  if (!decay) return undefined;
  const perSecond = Math.log(1e6) / decay.seconds;
  const room = new Products(sides.length);
  const hop = frames(HOP_SECONDS);
  const hops = Math.min(frames(TAIL_SECONDS), length) / hop;
  for (let h = 0; h < Math.floor(hops); h++) {
    const back = Math.exp(perSecond * (SETTLE_SECONDS + (h + 0.5) * HOP_SECONDS));
    room.take(ends, h * hop, (h + 1) * hop, back / hop / Math.floor(hops));
  }
  return { whole, room, filled: 1 - Math.exp((-perSecond * (letGo - onset)) / ENGINE_RATE) };
}

import { kWeighted, toLufs } from '../dsp/index.ts';
import { balanceGains, levelGain, PLAIN_POSITION, positionMatrix, type TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { isHeard, prepared, type Apart } from './apart.ts';
import { LEAST_CERTAINTY, type Arrival } from './arrival.ts';
import { directToRoom, TAIL_DEVIATION, type PositionPowers } from './depth.ts';

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

  at(a: number, b: number): number {
    return this.values[a * this.channels + b];
  }

  set(a: number, b: number, value: number): void {
    this.values[a * this.channels + b] = this.values[b * this.channels + a] = value;
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
  /** Frame at which its direct sound has ended, where it is heard first. */
  letGo: number;
  /** Frame at which a hand lets go; as its sound ends unless given. */
  stop?: number;
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
  /** Right against left, dB: of the direct sound where that is known, by which a place is heard, else of all but the hall. */
  balanceDb: number;
}

const sounds = ({ left, right }: Apart[number]) =>
  [left, right].some((side) => side.some((value) => value !== 0));

const STEP = ENGINE_RATE / 10;
const BLOCK_STEPS = 4;
const ABSOLUTE_LUFS = -70;
const RELATIVE_LU = -10;
/** After the end of a note players have stopped, and it is the room that is heard. */
const TAIL_FROM_SECONDS = 0.1;
const TAIL_TO_SECONDS = 0.35;
/** Microphones stand no further behind the nearest than about 17 m: a slow rise is no long way. */
const FURTHEST_SECONDS = 0.05;
/** So long before its end a note is held steadily. */
const HELD_SECONDS = 0.6;

/**
 * How one section sums: figures of any levels, widths and sends of its positions within microseconds. Delays, tone and polarity
 * are those of the mix it was made with.
 */
export class SectionForms {
  /** Positions it knows, in order; those that were recorded silent change nothing and are none of them. */
  readonly ids: readonly string[];
  /** Direct sound against the room, power against power, of each position; none where no decay was heard. */
  readonly ratios: ReadonlyMap<string, number>;
  private readonly loudness: Products;
  private readonly plain: Products;
  /** Direct sound and room, position by position: combs of several are no part of a depth. */
  private direct: Products | undefined;
  private room: Products | undefined;

  /**
   * @param passage what it plays; @param notes some notes held and let go, and `arrivals`, for its depth: the more, the surer
   * @param mix whose delays and tone are taken; positions that are silent in it are known as well
   * @param told ratios as they were told by more positions of the same recordings, which are surer: what is switched off since then
   * makes no difference to what the others heard
   */
  constructor(
    passage: Apart,
    notes: readonly LetGo[],
    arrivals: readonly Arrival[],
    mix: TrackMix,
    private readonly hall: HallPower = { fromLeft: 0, fromRight: 0 },
    told: ReadonlyMap<string, number> = new Map(),
  ) {
    const open = opened(mix, passage);
    const heard = prepared(passage, open).filter(sounds);
    this.ids = heard.map(({ id }) => id);
    const sides = heard.flatMap(({ left, right }) => [left, right]);
    this.loudness = new Products(sides.length);
    this.plain = new Products(sides.length);
    const weighted = sides.map((side) => kWeighted(side));
    const steps = gated(weighted);
    const total = steps.reduce((sum, one) => sum + one, 0);
    steps.forEach((count, s) => {
      if (count === 0) return;
      const weight = count / total / STEP;
      this.loudness.take(weighted, s * STEP, (s + 1) * STEP, weight);
      this.plain.take(sides, s * STEP, (s + 1) * STEP, weight);
    });
    this.ratios = this.takeDepth(
      notes.map((note) =>
        tailsOf(
          prepared(note.apart, open).filter(({ id }) => this.ids.includes(id)),
          note,
          open,
        ),
      ),
      this.ids.map((id) => latenessOf(id, arrivals, notes)),
      told,
    );
  }

  /** The room in what the passage sounds like: of each position as much as its tails and arrivals tell, its sides as they are in the tails. */
  private takeDepth(
    tails: readonly (readonly Tail[])[],
    late: readonly number[],
    told: ReadonlyMap<string, number>,
  ): ReadonlyMap<string, number> {
    const heard = tails.filter((all) => all.length === this.ids.length);
    if (heard.length === 0) return new Map();
    // Of the same notes, held and let go: what a room makes of one pitch it does not make of another. Every note counts alike.
    const logs = heard.map((all) => all.map(({ held, ll, rr }) => Math.log(held / (ll + rr))));
    const deviation = Math.max(TAIL_DEVIATION, deviationOf(logs));
    const powers = this.ids.map((_, p): PositionPowers => {
      const mean = logs.reduce((sum, all) => sum + all[p], 0) / logs.length;
      return { power: Math.exp(mean), tail: 1, lateSeconds: late[p], deviation };
    });
    const known = this.ids.flatMap((id) => told.get(id) ?? []);
    const ratios =
      known.length === this.ids.length && told.size > known.length ? known : directToRoom(powers);
    if (!ratios) return new Map();
    const direct = new Products(2 * this.ids.length);
    const room = new Products(2 * this.ids.length);
    ratios.forEach((ratio, p) => {
      const share = (this.plain.at(2 * p, 2 * p) + this.plain.at(2 * p + 1, 2 * p + 1)) / (1 + ratio);
      const sum = (name: 'll' | 'rr' | 'lr') => heard.reduce((all, one) => all + one[p][name], 0);
      const scale = share / (sum('ll') + sum('rr'));
      const places = [
        [2 * p, 2 * p, sum('ll') * scale],
        [2 * p + 1, 2 * p + 1, sum('rr') * scale],
        [2 * p, 2 * p + 1, sum('lr') * scale],
      ] as const;
      for (const [a, b, own] of places) {
        room.set(a, b, own);
        direct.set(a, b, this.plain.at(a, b) - own);
      }
    });
    this.direct = direct;
    this.room = room;
    return new Map(ratios.map((ratio, p) => [this.ids[p], ratio]));
  }

  /** Figures of a mix. The track's own balance and level count as well. */
  figures(mix: TrackMix): MixFigures {
    const { left, right } = this.weights(mix);
    const send = levelGain(mix.hallSendDb) ** 2;
    const wet = send * (this.hall.fromLeft + this.hall.fromRight);
    const sent = wet > 0 ? this.weights(mix, true) : { left, right };
    const wetOf = (products: Products) =>
      send *
      (this.hall.fromLeft * products.of(sent.left, sent.left) +
        this.hall.fromRight * products.of(sent.right, sent.right));
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
      balanceDb: balanceOf(this.direct ?? this.plain, left, right),
    };
  }

  private depth(
    left: Float64Array,
    right: Float64Array,
    wetOf: ((products: Products) => number) | undefined,
  ): number | undefined {
    const { direct, room } = this;
    if (!direct || !room) return undefined;
    const roomPower = room.of(left, left) + room.of(right, right) + (wetOf?.(this.plain) ?? 0);
    const directPower = direct.of(left, left) + direct.of(right, right);
    return roomPower > 0 && directPower > 0 ? 10 * Math.log10(directPower / roomPower) : undefined;
  }

  /** What each channel weighs in the left and in the right of the mix, or of what is sent to the hall. */
  private weights(mix: TrackMix, sent = false): { left: Float64Array; right: Float64Array } {
    const [left, right] = [new Float64Array(2 * this.ids.length), new Float64Array(2 * this.ids.length)];
    const matrix = new Float64Array(4);
    const gain = levelGain(mix.gainDb);
    const balance = balanceGains(mix.pan);
    const [toLeft, toRight] = [gain * balance.left, gain * balance.right];
    this.ids.forEach((id, i) => {
      const own = mix.positions[id];
      if (!isHeard(own)) return;
      positionMatrix(own, matrix);
      if (sent) for (let k = 0; k < 4; k++) matrix[k] *= levelGain(own.sendDb ?? 0);
      left[2 * i] = toLeft * matrix[0];
      left[2 * i + 1] = toLeft * matrix[1];
      right[2 * i] = toRight * matrix[2];
      right[2 * i + 1] = toRight * matrix[3];
    });
    return { left, right };
  }
}

function balanceOf(products: Products, left: Float64Array, right: Float64Array): number {
  const [ll, rr] = [products.of(left, left), products.of(right, right)];
  const least = 1e-9 * (Math.abs(ll) + Math.abs(rr));
  return least > 0 ? 10 * Math.log10(Math.max(rr, least) / Math.max(ll, least)) : 0;
}

/**
 * How far the mean over notes may be off at a position: what is left of each value when what its note and its position have in common
 * is taken away (two-way layout), as a standard error. 0 where there are too few to tell.
 * @param values note by note, position by position
 */
function deviationOf(values: readonly (readonly number[])[]): number {
  const [notes, positions] = [values.length, values[0].length];
  if (notes < 2 || positions < 2) return 0;
  const mean = (list: readonly number[]) => list.reduce((sum, one) => sum + one, 0) / list.length;
  const byNote = values.map(mean);
  const byPosition = values[0].map((_, p) => mean(values.map((all) => all[p])));
  const whole = mean(byNote);
  let squares = 0;
  values.forEach((all, n) =>
    all.forEach((value, p) => (squares += (value - byNote[n] - byPosition[p] + whole) ** 2)),
  );
  return Math.sqrt(squares / ((notes - 1) * (positions - 1)) / notes);
}

/** When a position hears the section, in seconds: by its arrival where that is sure, else by when notes rise in it. */
function latenessOf(id: string, arrivals: readonly Arrival[], notes: readonly LetGo[]): number {
  const arrival = arrivals.find((one) => one.id === id);
  const rises = notes.flatMap(({ late }) => late?.[id] ?? []).sort((a, b) => a - b);
  if (rises.length === 0 || (arrival && arrival.certainty >= LEAST_CERTAINTY))
    return arrival?.delaySeconds ?? 0;
  return Math.min(FURTHEST_SECONDS, rises[rises.length >> 1] / ENGINE_RATE);
}

/** A mix in which every position there is can be heard, with its own delay and tone. */
function opened(mix: TrackMix, apart: Apart): TrackMix {
  const positions = Object.fromEntries(
    apart.map(({ id }) => [id, { ...PLAIN_POSITION, ...mix.positions[id], levelDb: 0, muted: false }]),
  );
  return { ...mix, positions };
}

/** How many of the blocks of 400 ms that pass both gates hold each step of 100 ms. */
function gated(weighted: readonly Float64Array[]): number[] {
  const count = Math.floor((weighted[0]?.length ?? 0) / STEP);
  const power = new Float64Array(count);
  for (const side of weighted)
    for (let s = 0; s < count; s++)
      for (let i = s * STEP; i < (s + 1) * STEP; i++) power[s] += (side[i] * side[i]) / STEP;
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

/** Power of one position while a note is held, and mean products of its sides after it has ended. */
interface Tail {
  held: number;
  ll: number;
  rr: number;
  lr: number;
}

/** The rooms of all positions after a note has ended for each of them, over the same time; none when nothing is left by then. */
function tailsOf(heard: Apart, { letGo, stop = letGo, late }: LetGo, mix: TrackMix): Tail[] {
  const [heldFrom, heldTo] = [stop - HELD_SECONDS * ENGINE_RATE, stop];
  const lateOf = (id: string) =>
    Math.round((late?.[id] ?? 0) + (mix.positions[id].delayMs * ENGINE_RATE) / 1000);
  const [from, to] = [TAIL_FROM_SECONDS, TAIL_TO_SECONDS].map((seconds) =>
    Math.round(letGo + seconds * ENGINE_RATE),
  );
  const tails = heard.map(({ id, left, right }): Tail => {
    const own: Tail = { held: 0, ll: 0, rr: 0, lr: 0 };
    for (let i = Math.max(0, heldFrom + lateOf(id)); i < heldTo + lateOf(id); i++)
      own.held += left[i] * left[i] + right[i] * right[i];
    for (let i = from + lateOf(id); i < Math.min(to + lateOf(id), left.length); i++) {
      own.ll += left[i] * left[i];
      own.rr += right[i] * right[i];
      own.lr += left[i] * right[i];
    }
    return own;
  });
  return tails.every(({ held, ll, rr }) => held > 0 && ll + rr > 0) ? tails : [];
}

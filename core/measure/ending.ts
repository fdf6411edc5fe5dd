import { solved } from '../dsp/index.ts';
import { noiseOf, SETTLE_SECONDS } from './decay.ts';

/** How a sound that is let go ends in a room, in steps of 5 ms of the powers it was told by. */
export interface Ending {
  /** Step at which its direct sound has ended and the room alone dies away. */
  ended: number;
  /** False where nothing falls more steeply before it dies away: no direct sound stands out of the room. */
  standsOut: boolean;
  /** Step at which the room's line ends: in noise, or because whoever cut the recording faded it out. */
  until: number;
  /** True where it was faded out: what is beyond says nothing of the room. */
  isFaded: boolean;
  /** Share of its power that the room keeps from step to step. */
  keeps: number;
}

/** So much of the sound before its end tells how loud it was. */
const PLATEAU_STEPS = 40;
/** Steps that are looked at as one: a single one tells more of the beats of a tone than of how it ends. */
const JOINED = 2;
/** Above what is there in the end a line is looked for, dB: nearer to it, it is bent. */
const OUT_OF_NOISE_DB = 4;
/** A position that sinks into its hiss before so much of what others tell is left out. */
const SOON = 0.5;
/** What ends at once has ended after so many steps. */
const SETTLE_STEPS = Math.round(SETTLE_SECONDS / 0.005);
/** Nobody takes longer to let go, in joined steps; what bends later is a room of two slopes, or something that rings. */
const LATEST_END = 20;
/** The room's line is at least so many joined steps long, or half of what is there, and falls by so much, dB. */
const SHORTEST_LINE = 16;
const LEAST_FALL_DB = 4;
/** What lies further below the end of the sound is not looked at, dB. */
const LOOKED_DB = 45;
/** A direct sound that does not end at once falls so much more steeply than the room. */
const STEEPER = 1.3;
/** What ends at once is as loud as before in its last steps, within so much, and stands so much above the room's line, dB. */
const LAST_STEPS = 2;
const STEADY_DB = 2;
const LEAST_ABOVE_DB = 0.4;
/** An end at once must fit so much better: to look for the room too late does little harm, too soon much. */
const CLEARLY = 1.5;
/** A line that becomes so much steeper was faded out: a room's own becomes slower. */
const FADED = 1.6;

/**
 * Finds the end of a direct sound, the room's line, and noise or a fade behind it: of three straight lines in decibels, joined at their
 * ends, those that fit all positions best (least squares), the first steeper than the second. What ends at once has no first line.
 * @param powers of each position every 5 ms, all from the moment at which the sound comes there
 * @param over step at which the sound was still about as loud as before
 * @returns undefined where nothing dies away
 */
export function endingOf(powers: readonly Float64Array[], over: number): Ending | undefined {
  const clear = clearOnes(powers, over);
  const count = Math.min(...clear.map(({ reach }) => reach));
  const sums = clear.map(({ levels }) => sumsFrom(levels.subarray(0, count)));
  const atOnce = bestOf(sums, count, 0);
  const falling = bestOf(sums, count, Math.min(count, LATEST_END));
  const above = atOnce
    ? aboveTheRoom(
        clear.map(({ power }) => power),
        over,
        atOnce,
      )
    : 0;
  const isFalling = falling !== undefined && (above <= 0 || !atOnce || falling.cost < CLEARLY * atOnce.cost);
  const best = isFalling ? falling : atOnce;
  if (best === undefined) return undefined;
  const isFaded = best.until < count && best.slopes[2] < FADED * best.slopes[1];
  return {
    ended: over + Math.max(SETTLE_STEPS, best.ended * JOINED),
    standsOut: isFalling || above > LEAST_ABOVE_DB,
    until: isFaded ? over + best.until * JOINED : Math.min(...powers.map(({ length }) => length)),
    isFaded,
    keeps: 10 ** (best.slopes[1] / JOINED / 10),
  };
}

/** By how much a sound that ends at once stood above the room's line, dB, where it does most; 0 for one that falls before its end. */
function aboveTheRoom(powers: readonly Float64Array[], over: number, { bases }: Fit): number {
  const loud = (power: Float64Array, steps: number) => {
    const from = Math.max(0, over - steps);
    return 10 * Math.log10(sumOf(power, from, over) / (over - from));
  };
  const falls = loud(powers[0], PLATEAU_STEPS) - loud(powers[0], LAST_STEPS);
  if (falls > STEADY_DB) return 0;
  return Math.max(...powers.map((power, i) => loud(power, PLATEAU_STEPS) - bases[i]));
}

/** Levels in dB of joined steps, and how far they have not sunk too low or into noise: of those positions where that is not very soon. */
function clearOnes(
  powers: readonly Float64Array[],
  from: number,
): { power: Float64Array; levels: Float64Array; reach: number }[] {
  const all = powers.map((power) => {
    const count = Math.floor((power.length - from) / JOINED);
    const levels = Float64Array.from({ length: count }, (_, n) => {
      const sum = sumOf(power, from + n * JOINED, from + (n + 1) * JOINED);
      return 10 * Math.log10(Math.max(sum / JOINED, 1e-30));
    });
    const noiseDb = 10 * Math.log10(Math.max(noiseOf(power), 1e-30));
    const loudest = Math.max(...levels.subarray(0, SHORTEST_LINE));
    const least = Math.max(loudest - LOOKED_DB, noiseDb + OUT_OF_NOISE_DB);
    const low = levels.findIndex((level) => level < least);
    return { power, levels, reach: low < 0 ? count : low };
  });
  const longest = Math.max(...all.map(({ reach }) => reach));
  return all.filter(({ reach }) => reach >= SOON * longest);
}

/** Sums from each step on: of levels, of them times their step, of their squares. */
interface Sums {
  y: Float64Array;
  ny: Float64Array;
  yy: Float64Array;
}

function sumsFrom(levels: Float64Array): Sums {
  const [y, ny, yy] = [0, 1, 2].map(() => new Float64Array(levels.length + 1));
  for (let n = levels.length - 1; n >= 0; n--) {
    y[n] = y[n + 1] + levels[n];
    ny[n] = ny[n + 1] + n * levels[n];
    yy[n] = yy[n + 1] + levels[n] ** 2;
  }
  return { y, ny, yy };
}

interface Fit {
  /** Joined steps at which the first and the second line end. */
  ended: number;
  until: number;
  /** Sum of squares that is left. */
  cost: number;
  /** Of the three lines, dB per joined step, middle of the positions. */
  slopes: [number, number, number];
  /** Where the line at the end of the sound begins, by position, dB. */
  bases: number[];
}

/** @param latest joined step at which the first line ends at the latest; 0 for none: then what settles is left out */
function bestOf(sums: readonly Sums[], count: number, latest: number): Fit | undefined {
  const shortest = Math.max(4, Math.min(SHORTEST_LINE, count >> 1));
  const start = latest > 0 ? 0 : SETTLE_STEPS / JOINED;
  let best: Fit | undefined;
  for (let ended = Math.min(1, latest); ended <= Math.min(latest, count - shortest); ended++)
    for (let until = Math.max(start, ended) + shortest; until <= count; until++) {
      const fit = lines(sums, count, start, ended, until);
      const [first, second] = fit.slopes;
      const falls = second * (until - ended) < -LEAST_FALL_DB && (ended === 0 || first < STEEPER * second);
      if (falls && (!best || fit.cost < best.cost)) best = fit;
    }
  return best;
}

/** Fits 1, n, (n − ended)₊ and (n − until)₊ to all levels from a start on, as far as these lie within them. */
function lines(sums: readonly Sums[], count: number, start: number, ended: number, until: number): Fit {
  const knees = [0, ...(ended > 0 ? [ended] : []), ...(until < count ? [until] : [])];
  const firstOf = (knee: number) => Math.max(knee, start);
  // Σ (n − p)(n − q) over what both have.
  const both = (p: number, q: number) => {
    const [from, to] = [Math.max(firstOf(p), firstOf(q)), count - 1];
    const many = to - from + 1;
    const squares = (n: number) => (n * (n + 1) * (2 * n + 1)) / 6;
    return squares(to) - squares(from - 1) - ((p + q) * (from + to) * many) / 2 + p * q * many;
  };
  const single = (p: number) => {
    const [from, to] = [firstOf(p), count - 1];
    return ((from + to - 2 * p) * (to - from + 1)) / 2;
  };
  const gram = [
    [count - start, ...knees.map(single)],
    ...knees.map((p) => [single(p), ...knees.map((q) => both(p, q))]),
  ];
  const fit: Fit = { ended, until, cost: 0, slopes: [0, 0, 0], bases: [] };
  for (const { y, ny, yy } of sums) {
    const right = [y[start], ...knees.map((p) => ny[firstOf(p)] - p * y[firstOf(p)])];
    const found = solved(gram.map((row, i) => [...row, right[i]]));
    fit.cost += yy[start] - found.reduce((sum, value, i) => sum + value * right[i], 0);
    const own = [found[1]];
    own.push(own[0] + (ended > 0 ? found[2] : 0));
    own.push(own[1] + (until < count ? found[found.length - 1] : 0));
    own.forEach((slope, k) => (fit.slopes[k] += slope / sums.length));
    fit.bases.push(found[0]);
  }
  return fit;
}

/** What one position hears of a sound: powers per power of what is played. */
export interface Heard {
  direct: number;
  /** All of the room, of a sound held for ever. */
  room: number;
}

/** The room is told by so many steps after the direct sound has ended. */
const TOLD_STEPS = 30;
/** Room against direct sound of the nearest position: between these it is looked for, halving so often. */
const [LEAST_ROOM, MOST_ROOM] = [1e-4, 1e2];
const HALVINGS = 40;

/**
 * What each position hears directly and by the room, the nearest first. What is played is what the nearest hears without its room, until
 * the direct sound has ended; the room fills and dies away by it (statistical room of W. C. Sabine: r' = k·(f − r)), and after the end
 * there is nothing else. So much room is assumed as leaves nothing over then.
 * @param powers of each position every 5 ms, all from the moment at which the sound comes there, without noise
 * @param over step at which the sound was still about as loud as before
 * @param isHeld true when the sound was held before it begins here, so that it has filled the room
 */
export function heardOf(
  powers: readonly Float64Array[],
  over: number,
  { ended, until, keeps }: Pick<Ending, 'ended' | 'until' | 'keeps'>,
  isHeld: boolean,
): Heard[] {
  const stop = Math.min(until, ended + TOLD_STEPS, ...powers.map(({ length }) => length));
  const [near] = powers;
  const held = isHeld ? sumOf(near, 0, over) / over : 0;
  const apartBy = (share: number) => playedIn(near, share, keeps, held / (1 + share), ended, stop);
  const tail = sumOf(near, ended, stop);
  let [low, high] = [LEAST_ROOM, MOST_ROOM];
  for (let i = 0; i < HALVINGS; i++) {
    const middle = Math.sqrt(low * high);
    if (middle * sumOf(apartBy(middle).room, ended, stop) < tail) low = middle;
    else high = middle;
  }
  const { played, room } = apartBy(low);
  return powers.map((power) => {
    const share = sumOf(power, ended, stop) / sumOf(room, ended, stop);
    const direct = (sumOf(power, 0, over) - share * sumOf(room, 0, over)) / sumOf(played, 0, over);
    return { direct, room: share };
  });
}

/** What is played, by what a position hears of it with so much room, and a room of power 1 that it fills. @param full at the beginning */
function playedIn(
  power: Float64Array,
  share: number,
  keeps: number,
  full: number,
  ended: number,
  stop: number,
): { played: Float64Array; room: Float64Array } {
  const [played, room] = [new Float64Array(ended), new Float64Array(stop)];
  // In the middle of a step so much is left of what the room was at its beginning.
  const half = (1 - keeps) / -Math.log(keeps);
  let at = full;
  for (let i = 0; i < stop; i++) {
    // power = played + share · room, room = half · at + (1 − half) · played
    const sound = i < ended ? Math.max(0, power[i] - share * half * at) / (1 + share * (1 - half)) : 0;
    room[i] = half * at + (1 - half) * sound;
    at = keeps * at + (1 - keeps) * sound;
    if (i < ended) played[i] = sound;
  }
  return { played, room };
}

function sumOf(values: Float64Array, from: number, to: number): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += values[i];
  return sum;
}

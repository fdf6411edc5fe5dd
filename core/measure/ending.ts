import { noiseOf, SETTLE_SECONDS, STEP_SECONDS } from './decay.ts';
import { threeLines, type ThreeLines } from './three-lines.ts';

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
const SETTLE_STEPS = Math.round(SETTLE_SECONDS / STEP_SECONDS);
/** Nobody takes longer to let go, in joined steps; what bends later is a room of two slopes, or something that rings. */
const LATEST_END = 20;
/** What lies further below the first joined steps is not looked at, dB. */
const LOUD_STEPS = 16;
const LOOKED_DB = 45;
/** What ends at once is as loud as before in its last steps, within so much, and stands so much above the room's line, dB. */
const LAST_STEPS = 2;
const STEADY_DB = 2;
const LEAST_ABOVE_DB = 0.4;
/** An end at once must fit so much better: to look for the room too late does little harm, too soon much. */
const CLEARLY = 1.5;
/** A line that becomes so much steeper was faded out: a room's own becomes slower. */
const FADED = 1.6;

/**
 * Finds the end of a direct sound, the room's line, and noise or a fade behind it, by three straight lines through the levels of all
 * positions. What ends at once has no first line.
 * @param powers of each position every 5 ms, all from the moment at which the sound comes there
 * @param over step at which the sound was still about as loud as before
 * @returns undefined where nothing dies away
 */
export function endingOf(powers: readonly Float64Array[], over: number): Ending | undefined {
  const clear = clearOnes(powers, over);
  const count = Math.min(...clear.map(({ reach }) => reach));
  const levels = clear.map((one) => one.levels.subarray(0, count));
  const atOnce = threeLines(levels, SETTLE_STEPS / JOINED, 0);
  const falling = threeLines(levels, 0, LATEST_END);
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
  const isFaded = best.slopes[2] < FADED * best.slopes[1];
  return {
    ended: over + Math.max(SETTLE_STEPS, best.ended * JOINED),
    standsOut: isFalling || above > LEAST_ABOVE_DB,
    until: isFaded ? over + best.until * JOINED : Math.min(...powers.map(({ length }) => length)),
    isFaded,
    keeps: 10 ** (best.slopes[1] / JOINED / 10),
  };
}

/** By how much a sound that ends at once stood above the room's line, dB, where it does most; 0 for one that falls before its end. */
function aboveTheRoom(powers: readonly Float64Array[], over: number, { bases }: ThreeLines): number {
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
    const loudest = Math.max(...levels.subarray(0, LOUD_STEPS));
    const least = Math.max(loudest - LOOKED_DB, noiseDb + OUT_OF_NOISE_DB);
    const low = levels.findIndex((level) => level < least);
    return { power, levels, reach: low < 0 ? count : low };
  });
  const longest = Math.max(...all.map(({ reach }) => reach));
  return all.filter(({ reach }) => reach >= SOON * longest);
}

/** Sum of values from one to before another. */
export function sumOf(values: Float64Array, from: number, to: number): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += values[i];
  return sum;
}

import { noiseOf } from './decay.ts';
import { sumOf, type Ending } from './ending.ts';

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

/** Powers less what is there when all has died away; where a recording was faded out, that cannot be told, and nothing is taken. */
export function withoutNoise(power: Float64Array, { isFaded }: Pick<Ending, 'isFaded'>): Float64Array {
  const noise = isFaded ? 0 : noiseOf(power);
  return power.map((value) => Math.max(0, value - noise));
}

/** True where a room dies away that is not louder than what is there in the end. */
export function isLostInHiss(
  power: Float64Array,
  { ended, isFaded }: Pick<Ending, 'ended' | 'isFaded'>,
): boolean {
  if (isFaded) return false;
  const stop = Math.min(power.length, ended + TOLD_STEPS);
  return sumOf(power, ended, stop) < 2 * (stop - ended) * noiseOf(power);
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

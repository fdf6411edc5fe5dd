import { clamp, SPEED_OF_SOUND } from '../units/index.ts';

/** What is known of one position of a section. */
export interface PositionPowers {
  /** Mean power of all that it hears of the section. */
  power: number;
  /** Power of its room after notes have ended; the unit is the same for all positions. */
  tail: number;
  /** When the sound comes to it, after the position it comes to first; undefined where that is not known. */
  lateSeconds: number | undefined;
}

/** How far a close position stands from players, usually: middle, and factor of a deviation. */
const USUAL_METRES = 2;
const USUAL_FACTOR = 1.5;
/** Direct sound against the room there, usually: middle and deviation, dB. */
const USUAL_DB = 8;
const USUAL_DEVIATION_DB = 5;
/** Deviation of a tail's level against another's, somewhat less than a decibel: players ring on, and rooms are uneven. */
const TAIL_DEVIATION = 0.25;
/** Deviation of the law of distance in real rooms, as a factor of power. */
const LAW_DEVIATION = 0.5;
const [LEAST, MOST] = [1e-3, 1e4];
const METRES = Array.from({ length: 25 }, (_, i) => 0.7 * 1.09 ** i);

/**
 * Direct sound against the room, power against power, of each position.
 *
 * The diffuse room is as strong everywhere in a hall while direct sound falls with the square of the distance (W. C. Sabine's
 * statistical room, H. Kuttruff, “Room acoustics”). Tails of two positions differ by their gains alone, so that power against tail
 * tells how much more than the room each of them hears: (1 + x_i) / (1 + x_k) for any two. How far apart they stand is told by their
 * arrivals: x_i / x_k = (d_k / d_i)², d_i = d + c · late_i. What fits both best is taken, with the distance of the nearest, d, and its
 * ratio near what is usual (least squares of logarithms, each against its deviation). Where an arrival is not known, a position's tail
 * alone tells.
 * @returns undefined where fewer than two positions are known
 */
export function directToRoom(positions: readonly PositionPowers[]): number[] | undefined {
  const known = positions.filter(({ power, tail }) => power > 0 && tail > 0);
  if (known.length < 2 || known.length < positions.length) return undefined;
  let best: { cost: number; ratios: (number | undefined)[] } | undefined;
  for (const metres of METRES)
    for (let db = -10; db <= 25; db += 0.25) {
      const nearest = 10 ** (db / 10);
      const ratios = positions.map(({ lateSeconds }) =>
        lateSeconds === undefined
          ? undefined
          : nearest * (metres / (metres + SPEED_OF_SOUND * Math.max(0, lateSeconds))) ** 2,
      );
      const cost =
        spreadOf(positions, ratios) / TAIL_DEVIATION ** 2 +
        (Math.log(metres / USUAL_METRES) / Math.log(USUAL_FACTOR)) ** 2 +
        ((db - USUAL_DB) / USUAL_DEVIATION_DB) ** 2;
      if (!best || cost < best.cost) best = { cost, ratios };
    }
  return best && refined(positions, best.ratios);
}

/** Logarithms of the room's power as the positions tell it whose ratio is known. */
function roomsTold(positions: readonly PositionPowers[], ratios: readonly (number | undefined)[]): number[] {
  return positions.flatMap(({ power, tail }, i) => {
    const ratio = ratios[i];
    return ratio === undefined ? [] : [Math.log(power / tail / (1 + ratio))];
  });
}

const meanOf = (list: readonly number[]) => list.reduce((sum, one) => sum + one, 0) / list.length;

/**
 * How far the room's power, told by each position, is from being the same: squares of logarithms against their mean. A position that
 * hears less than the room has it alone counts by what is missing.
 */
function spreadOf(positions: readonly PositionPowers[], ratios: readonly (number | undefined)[]): number {
  const logs = roomsTold(positions, ratios);
  if (logs.length === 0) return 0;
  const mean = meanOf(logs);
  const missing = positions.reduce((sum, { power, tail }, i) => {
    const over = ratios[i] === undefined ? Math.log(power / tail) - mean : 0;
    return sum + Math.min(0, over) ** 2;
  }, 0);
  return logs.reduce((sum, one) => sum + (one - mean) ** 2, missing);
}

/** Each position's own ratio, between what its power says and what the law of distance says, by how sure either is. */
function refined(
  positions: readonly PositionPowers[],
  ratios: readonly (number | undefined)[],
): number[] | undefined {
  const logs = roomsTold(positions, ratios);
  if (logs.length === 0) return undefined;
  const room = meanOf(logs);
  return positions.map(({ power, tail }, i) => {
    const told = power / tail / Math.exp(room) - 1;
    const law = ratios[i];
    if (law === undefined) return clamp(told, LEAST, MOST);
    if (!(told > 0)) return clamp(law, LEAST, MOST);
    const own = (told / (TAIL_DEVIATION * (1 + told))) ** 2;
    const general = 1 / LAW_DEVIATION ** 2;
    const log = (own * Math.log(told) + general * Math.log(law)) / (own + general);
    return clamp(Math.exp(log), LEAST, MOST);
  });
}

import { clamp, SPEED_OF_SOUND } from '../units/index.ts';

/** What is known of one position of a section. */
export interface PositionPowers {
  /** Mean power of all that it hears of the section. */
  power: number;
  /** Power of its room after notes have ended; the unit is the same for all positions. */
  tail: number;
  /** When the sound comes to it, after the position it comes to first. */
  lateSeconds: number;
  /** How far power against tail may be off, as a deviation of its logarithm. */
  deviation?: number;
}

/** How far a close position stands from players, usually: middle, and factor of a deviation. */
const USUAL_METRES = 2;
const USUAL_FACTOR = 1.5;
/** Direct sound against the room there, usually: middle and deviation, dB. */
const USUAL_DB = 8;
const USUAL_DEVIATION_DB = 5;
/** Least deviation of power against tail, about a decibel: players ring on, and rooms are uneven. */
export const TAIL_DEVIATION = 0.25;
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
 * ratio near what is usual (least squares of logarithms, each against its deviation).
 * @returns undefined where fewer than two positions are known
 */
export function directToRoom(positions: readonly PositionPowers[]): number[] | undefined {
  const known = positions.filter(({ power, tail }) => power > 0 && tail > 0);
  if (known.length < 2 || known.length < positions.length) return undefined;
  let best: { cost: number; ratios: number[] } | undefined;
  for (const metres of METRES)
    for (let db = -10; db <= 25; db += 0.25) {
      const nearest = 10 ** (db / 10);
      const ratios = positions.map(
        ({ lateSeconds }) => nearest * (metres / (metres + SPEED_OF_SOUND * Math.max(0, lateSeconds))) ** 2,
      );
      const cost =
        spreadOf(positions, ratios) +
        (Math.log(metres / USUAL_METRES) / Math.log(USUAL_FACTOR)) ** 2 +
        ((db - USUAL_DB) / USUAL_DEVIATION_DB) ** 2;
      if (!best || cost < best.cost) best = { cost, ratios };
    }
  return best && refined(positions, best.ratios);
}

/** What each position says of the room's power, as a logarithm, and what they say together: the surer, the more it counts. */
function roomOf(
  positions: readonly PositionPowers[],
  ratios: readonly number[],
): { logs: number[]; weights: number[]; mean: number } {
  const logs = positions.map(({ power, tail }, i) => Math.log(power / tail / (1 + ratios[i])));
  const weights = positions.map(({ deviation = TAIL_DEVIATION }) => 1 / deviation ** 2);
  const total = weights.reduce((sum, one) => sum + one, 0);
  return { logs, weights, mean: logs.reduce((sum, one, i) => sum + weights[i] * one, 0) / total };
}

/** How far the room's power, told by each position, is from being the same: squares of logarithms against their deviations. */
function spreadOf(positions: readonly PositionPowers[], ratios: readonly number[]): number {
  const { logs, weights, mean } = roomOf(positions, ratios);
  return logs.reduce((sum, one, i) => sum + weights[i] * (one - mean) ** 2, 0);
}

/** Each position's own ratio, between what its power says and what the law of distance says, by how sure either is. */
function refined(positions: readonly PositionPowers[], ratios: readonly number[]): number[] {
  const { mean } = roomOf(positions, ratios);
  return positions.map(({ power, tail, deviation = TAIL_DEVIATION }, i) => {
    const told = power / tail / Math.exp(mean) - 1;
    const law = ratios[i];
    if (!(told > 0)) return clamp(law, LEAST, MOST);
    const own = (told / (deviation * (1 + told))) ** 2;
    const general = 1 / LAW_DEVIATION ** 2;
    const log = (own * Math.log(told) + general * Math.log(law)) / (own + general);
    return clamp(Math.exp(log), LEAST, MOST);
  });
}

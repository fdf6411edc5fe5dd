import { mix } from '../dsp/index.ts';

/** A round of blind listening as it was answered. */
export interface BlindRound {
  /** Contenders by id in the order of the answer, best first; one when only a favourite was named. */
  ranking: readonly string[];
}

/** What several rounds say of one contender. */
export interface TallyLine {
  contender: string;
  /** Rounds in which it came first. */
  firsts: number;
  /** Mean place in the rounds that ranked it, 1 best; null when none did. */
  meanPlace: number | null;
}

/** What several rounds say together. */
export interface Tally {
  rounds: number;
  lines: TallyLine[];
  /** How likely the leading contender's count is by guessing alone, 0…1. */
  chance: number;
  /** True when that is below one in twenty. */
  beatsGuessing: boolean;
}

/** A shuffled order of 0 … count − 1, the same for the same seed (Fisher & Yates). Allocates. */
export function shuffledOrder(count: number, seed: number): number[] {
  const order = Array.from({ length: count }, (_, i) => i);
  for (let i = count - 1; i > 0; i--) {
    const j = mix(seed + i * 7919) % (i + 1);
    [order[i], order[j]] = [order[j], order[i]];
  }
  return order;
}

/** Probability of at least `hits` in `rounds` when each has the chance `p`: the upper tail of the binomial distribution. */
export function binomialTail(hits: number, rounds: number, p: number): number {
  if (hits <= 0) return 1;
  let term = (1 - p) ** rounds;
  let below = 0;
  for (let k = 0; k < Math.min(hits, rounds + 1); k++) {
    below += term;
    term *= ((rounds - k) / (k + 1)) * (p / (1 - p));
  }
  return Math.min(1, Math.max(0, 1 - below));
}

/**
 * Adds rounds up. With several contenders any of them might have led by chance, so the leader's probability counts once for
 * each of them (Bonferroni).
 */
export function tallyOf(contenders: readonly string[], rounds: readonly BlindRound[]): Tally {
  const lines = contenders.map((contender) => {
    const places = rounds.flatMap(({ ranking }) => {
      const place = ranking.indexOf(contender);
      return place < 0 || ranking.length < 2 ? [] : [place + 1];
    });
    return {
      contender,
      firsts: rounds.filter((round) => round.ranking[0] === contender).length,
      meanPlace: places.length === 0 ? null : places.reduce((sum, place) => sum + place, 0) / places.length,
    };
  });
  const most = Math.max(0, ...lines.map((line) => line.firsts));
  const chance =
    contenders.length < 2 || rounds.length === 0
      ? 1
      : Math.min(1, contenders.length * binomialTail(most, rounds.length, 1 / contenders.length));
  return { rounds: rounds.length, lines, chance, beatsGuessing: chance < 0.05 };
}

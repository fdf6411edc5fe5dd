import { TICKS_PER_QUARTER } from '../units/index.ts';
import { TempoMap, type TempoChange } from './tempo-map.ts';

/** By so much a step may be early or late in its middle; its ends are exact. */
const MOST_SECONDS = 0.0005;

/**
 * Tempos that hold only, in place of those that move: steps so short that no tick stands more than half a millisecond beside its
 * time, each as fast as takes the time it has. For formats that know no other.
 */
export function steppedTempos(changes: readonly TempoChange[]): TempoChange[] {
  const map = new TempoMap(changes);
  const sorted = [...changes].sort((a, b) => a.tick - b.tick);
  const [first] = sorted;
  // Before the first change its tempo holds already, also where it then begins to move.
  if (first?.ramp && first.tick > 0) sorted.unshift({ tick: 0, bpm: first.bpm });
  return sorted.flatMap(({ tick, bpm, ramp }, i) => {
    const next = sorted[i + 1];
    if (!ramp || !next || next.tick <= tick || next.bpm === bpm) return [{ tick, bpm }];
    const length = next.tick - tick;
    const count = Math.min(length, Math.ceil(length / longestStep(bpm, next.bpm, length)));
    const edges = Array.from({ length: count + 1 }, (_, k) => tick + Math.round((k * length) / count));
    return edges.slice(0, -1).map((from, k) => {
      const seconds = map.toSeconds(edges[k + 1]) - map.toSeconds(from);
      return { tick: from, bpm: (60 * (edges[k + 1] - from)) / (TICKS_PER_QUARTER * seconds) };
    });
  });
}

/** Ticks over which a chord of the course of time leaves it by no more than may be: h²/8 times its greatest bend. */
function longestStep(from: number, to: number, length: number): number {
  const slope = Math.abs(to - from) / length;
  const bend = (60 * slope) / (TICKS_PER_QUARTER * Math.min(from, to) ** 2);
  return Math.sqrt((8 * MOST_SECONDS) / bend);
}

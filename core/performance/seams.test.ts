import { describe, expect, it } from 'vitest';
import type { Part } from '../music/index.ts';
import { PowerTape } from '../testing/ear/k-level.ts';
import { played } from '../testing/lines.ts';
import { recorded, type RecordedInstrument } from '../testing/recorded.ts';
import { demoInstrument } from '../testing/seeded.ts';

/**
 * Lines that change between kinds of playing and between libraries, from the close position without hall: no hole before a
 * note that is joined or struck, and no bump beyond what the second note does when it begins out of silence.
 */

const NOTE_SECONDS = 0.6;
const ticks = (seconds: number) => Math.round(seconds * 960);

function instrument(name: string): RecordedInstrument {
  const { plan, library } = demoInstrument(name);
  return recorded(plan, library.hall, ({ technique }) =>
    ['connected', 'long', 'runs', 'slide', 'staccato'].includes(technique),
  );
}

/** Notes of given kinds, one after the other from 1 s on. */
function partOf(notes: readonly { key: number; kind: string; at: number; seconds?: number }[]): Part {
  return {
    notes: notes.map(({ key, at, seconds = NOTE_SECONDS }, i) => ({
      id: `n${i}`,
      startTick: ticks(at),
      endTick: ticks(at + seconds),
      key,
      velocity: 90,
    })),
    marks: notes.map(({ kind, at, seconds = NOTE_SECONDS }, i) => ({
      id: `m${i}`,
      startTick: ticks(at),
      endTick: ticks(at + seconds),
      articulation: kind,
    })),
    points: [
      { id: 'd', controller: 1, tick: 0, value: 74 },
      { id: 'v', controller: 77, tick: 0, value: 40 },
    ],
  };
}

const tapeOf = (sounding: RecordedInstrument, part: Part) => {
  const { left, right } = played(sounding, part, 'long');
  return { tape: new PowerTape([left, right]), left, right };
};

/** Level of a note when it is held for itself, and how high it rises while it begins out of silence. */
function alone(sounding: RecordedInstrument, key: number, kind: string) {
  const { tape } = tapeOf(sounding, partOf([{ key, kind, at: 1, seconds: 2 }]));
  const { high } = tape.extremes(0.9, 1.4);
  return { settled: kind === 'staccato' ? high : tape.db(1.6, 2.8), high };
}

const LINES = [
  ['Violins I', instrument('Violins I')],
  ['Solo cello', instrument('Solo cello')],
] as const;
const KINDS = [
  ['long', 'connected'],
  ['connected', 'slide'],
  ['slide', 'connected'],
  ['connected', 'runs'],
  ['runs', 'connected'],
  ['connected', 'long'],
  ['slide', 'long'],
  ['connected', 'staccato'],
  ['long', 'staccato'],
] as const;

describe.each(LINES)('%s', (name, sounding) => {
  const { plan } = demoInstrument(name);
  const middle = Math.round((plan.low + plan.high) / 2);
  it.each(KINDS)('goes from %s to %s without a hole and without a bump', (first, second) => {
    for (const interval of [2, -5]) {
      const part = partOf([
        { key: middle, kind: first, at: 1 },
        { key: middle + interval, kind: second, at: 1 + NOTE_SECONDS },
      ]);
      const { tape } = tapeOf(sounding, part);
      const [before, after] = [alone(sounding, middle, first), alone(sounding, middle + interval, second)];
      const beat = 1 + NOTE_SECONDS;
      // A short note falls by itself soon after, and speaks at once while the one before still ends.
      const { low } = tape.extremes(beat - 0.1, beat + (second === 'staccato' ? 0.09 : 0.3));
      const { high } = tape.extremes(beat - 0.1, beat + 0.3);
      expect(low, `${interval}`).toBeGreaterThan(Math.min(before.settled, after.settled) - 4);
      expect(high, `${interval}`).toBeLessThan(
        Math.max(before.settled, after.high) + (second === 'staccato' ? 4.5 : 3),
      );
    }
  });
  it('ends a note without a bump, whether it was soft or loud', () => {
    for (const dynamics of [20, 74, 117]) {
      const part = partOf([{ key: middle, kind: 'long', at: 1, seconds: 2 }]);
      part.points[0].value = dynamics;
      const { tape } = tapeOf(sounding, part);
      const { high } = tape.extremes(1.6, 2.9);
      expect(tape.extremes(2.95, 3.3).high, `${dynamics}`).toBeLessThan(high + 2);
      expect(tape.db(3.25, 3.3), `${dynamics}`).toBeLessThan(high - 8);
    }
  });
});

describe('two libraries in one line', () => {
  it('hand over without a hole and without a bump', () => {
    const [large, small] = [LINES[0][1], instrument('Violins')];
    const beat = 1 + NOTE_SECONDS;
    for (const [from, to, first] of [
      [large, small, 'connected'],
      [small, large, 'long'],
    ] as const) {
      const one = tapeOf(from, partOf([{ key: 74, kind: first, at: 1 }]));
      const two = tapeOf(to, partOf([{ key: 76, kind: 'long', at: beat }]));
      const sum = (side: 'left' | 'right') => two[side].map((value, i) => value + (one[side][i] ?? 0));
      const tape = new PowerTape([sum('left'), sum('right')]);
      const [before, after] = [alone(from, 74, first), alone(to, 76, 'long')];
      const { low, high } = tape.extremes(beat - 0.1, beat + 0.3);
      expect(low).toBeGreaterThan(Math.min(before.settled, after.settled) - 4);
      expect(high).toBeLessThan(Math.max(before.settled, after.high) + 3);
    }
  });
});

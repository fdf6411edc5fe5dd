import { describe, expect, it } from 'vitest';
import { resonancesOf } from './index.ts';

describe('resonances', () => {
  const notes = (ring?: number) =>
    [60, 64, 68, 72, 76].map((key) => {
      const fundamental = 440 * 2 ** ((key - 69) / 12);
      return Array.from({ length: 6 }, (_, h) => {
        const hertz = (h + 1) * fundamental;
        const near = ring !== undefined && Math.abs(1200 * Math.log2(hertz / ring)) < 40;
        return { hertz, levelDb: -6 * (h + 1) + (near ? 12 : 0) };
      });
    });
  it('are told where partials stand out in recording after recording, and nowhere else', () => {
    const ring = 440 * 2 ** ((68 - 69) / 12);
    const found = resonancesOf([notes(ring), notes(ring), notes(ring)], 9);
    expect(found).toHaveLength(1);
    expect(Math.abs(1200 * Math.log2(found[0].hertz / ring))).toBeLessThan(20);
    expect(resonancesOf([notes(), notes(), notes()], 9)).toEqual([]);
    // It stands out by 12 dB against both neighbours: 11 are reached, 13 are not.
    expect(resonancesOf([notes(ring), notes(ring), notes(ring)], 11)).toHaveLength(1);
    expect(resonancesOf([notes(ring), notes(ring), notes(ring)], 13)).toEqual([]);
  });
  it('need three recordings, each with its share, and neighbours on both sides', () => {
    const flat = [60, 64, 68, 72, 76].map((key) => [{ hertz: 440 * 2 ** ((key - 69) / 12), levelDb: -6 }]);
    const raised = (note: number, db: number) =>
      flat.map((partials, i) =>
        i === note ? [{ ...partials[0], levelDb: partials[0].levelDb + db }] : partials,
      );
    expect(resonancesOf([raised(2, 12), raised(2, 12)], 9)).toEqual([]);
    // Mean 9.5 dB: 3.8 of it each.
    expect(resonancesOf([raised(2, 12), raised(2, 12), raised(2, 4.5)], 9)).toHaveLength(1);
    expect(resonancesOf([raised(2, 12.6), raised(2, 12.6), raised(2, 3.3)], 9)).toEqual([]);
    // The first and the last note have a neighbour on one side only.
    for (const note of [0, 4])
      expect(resonancesOf([raised(note, 30), raised(note, 30), raised(note, 30)], 9)).toEqual([]);
  });
  it('are told with the mean excess and frequency, the strongest first', () => {
    const at = (first: number, second: number, db: number) => [
      [{ hertz: 200, levelDb: 0 }],
      [{ hertz: first, levelDb: db }],
      [{ hertz: 300, levelDb: 0 }],
      [{ hertz: second, levelDb: 15 }],
      [{ hertz: 400, levelDb: 0 }],
    ];
    // The one between the two raised ones stands out of neither.
    const found = resonancesOf([at(249, 350, 10), at(250, 351, 12), at(251, 352, 14)], 9);
    expect(found.map(({ hertz }) => Math.round(hertz))).toEqual([351, 250]);
    expect(found.map(({ excessDb }) => excessDb)).toEqual(
      [15, 12].map((db) => expect.closeTo(db, 6) as number),
    );
  });
});

import { describe, expect, it } from 'vitest';
import type { PositionFigures } from '#core/report/index.ts';
import { judge, seededLibrary, type SeededLibrary } from '#core/testing/library/index.ts';
import { measuredByTheUsersRoad, type TakenIn } from '../testing/seeded-report.ts';

/**
 * Libraries made by seed, taken in as a user takes them in: six timbres, both rates, SFZ and bare recordings, layers by dynamics and by
 * velocity. What is told of them is held against what was planted. `npm run faults` does the same with forty.
 */
const SEEDS = [3, 4, 6, 7, 11, 14];
const PLANTED = 6;

const middle = (list: readonly number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
/** A figure of a position in the middle of all techniques that have it. */
function figure(
  { reports }: TakenIn,
  id: string,
  read: (position: PositionFigures) => number | null,
): number | undefined {
  const known = reports.flatMap(({ positions }) => {
    const own = positions.find((one) => one.id === id);
    const value = own ? read(own) : null;
    return value === null ? [] : [value];
  });
  return known.length === 0 ? undefined : middle(known);
}
const plants = ({ faults }: SeededLibrary, kind: string) => faults.some((one) => one.kind === kind);

/** What became of all faults, told at the end: a few of those planted are hidden by others, such as a ring next to a low key. */
const tally = { planted: 0, missed: [] as string[] };
const FOUND_SHARE = 0.9;

describe.each(SEEDS)('library %i', (seed) => {
  const library = seededLibrary(seed, PLANTED);
  let taken: TakenIn;

  it('has no faults told that it has not', async () => {
    taken = await measuredByTheUsersRoad(library);
    const { missed, false: wrong } = judge(taken.findings, library.faults);
    expect(wrong.map(({ sentence }) => sentence)).toEqual([]);
    tally.planted += library.faults.length;
    tally.missed.push(...missed.map((fault) => `${seed}: ${JSON.stringify(fault)}`));
  });

  it('has its positions as far away as they were, within half a millisecond, and its room within a tenth', () => {
    const [near] = library.stage.places;
    for (const place of library.stage.places) {
      const arrival = figure(taken, place.id, (one) => one.arrivalSeconds);
      expect(Math.abs((arrival ?? 9) - (place.arrivalSeconds - near.arrivalSeconds))).toBeLessThan(0.0005);
      const decay = figure(taken, place.id, (one) => one.decay?.seconds ?? null);
      // What rings on is part of the decay, and hiss hides its end.
      if (plants(library, 'ring') || plants(library, 'hiss') || decay === undefined) continue;
      expect(Math.abs(decay / library.stage.decaySeconds - 1)).toBeLessThan(0.1);
    }
  });

  it('has direct sound against the room of near positions within two decibels', () => {
    for (const place of library.stage.places) {
      if (place.directToRoomDb < 3 || plants(library, 'ring') || plants(library, 'hiss')) continue;
      const heard = figure(taken, place.id, (one) => one.directToRoomDb);
      expect(Math.abs((heard ?? 99) - place.directToRoomDb)).toBeLessThan(2);
    }
  });

  it('says why where it gives no figure', () => {
    for (const { positions } of taken.reports)
      for (const one of positions) {
        const why = Object.entries({
          noise: one.noiseDb,
          decay: one.decay,
          directToRoomDb: one.directToRoomDb,
          tailSeconds: one.tailSeconds,
          arrival: one.arrivalSeconds,
        });
        for (const [name, value] of why)
          expect(value === null).toBe(one.why[name as keyof typeof one.why] !== undefined);
      }
  });
});

it('nine in ten of all faults are told, each at its place and with its figure', () => {
  expect(tally.planted).toBe(SEEDS.length * PLANTED);
  expect(tally.missed.slice(Math.floor(tally.planted * (1 - FOUND_SHARE)))).toEqual([]);
});

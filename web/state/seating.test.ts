import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { conventionalSeat, PLAIN_POSITION } from '#core/mixing/index.ts';
import { HARBOUR_HALL, SHARED_HALLS } from '#core/rooms/index.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { undo, useDocuments } from './documents.ts';
import {
  conventionalMoves,
  keepSeating,
  keptMoves,
  placesOf,
  seatOf,
  seatTracks,
  standAt,
  unseat,
  wallsOf,
} from './seating.ts';
import { deleteTrack, duplicateTrack } from './track-edits.ts';

const track = (id: string, name: string, place: number) => ({
  id,
  name,
  place,
  family: 'strings',
  instrumentId: null,
  keymapId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: 0,
  pan: 0,
  hallSendDb: -14,
  muted: false,
});
const template = {
  id: 'template',
  name: 'House',
  hallEarlyDb: 0,
  hallTailDb: 0,
  middleC: 4,
  hall: 'loft',
  hallSize: 1.5,
  hallDecaySeconds: 3,
  listenerMetres: 2,
};
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    template: [template],
    track: [track('a', 'Violins I', 1), track('b', 'Violas', 2), track('c', 'Violins I, short', 3)],
    positionMix: [
      { id: 'a tree', trackId: 'a', positionId: 'tree', ...PLAIN_POSITION, sendDb: 0 },
      { id: 'b tree', trackId: 'b', positionId: 'tree', ...PLAIN_POSITION, sendDb: 0 },
    ],
  });
});
afterEach(() => page.close());
const records = () => useDocuments.getState().records;
const one = (kind: 'track' | 'positionMix' | 'template', id: string) =>
  shown(kind).find((record) => record.id === id);
const where = (id: string) => {
  const seat = seatOf(records(), id);
  return seat && { x: seat.x, y: seat.y };
};

describe('seats', () => {
  it('are given with the mix that leads there, as one step', () => {
    const mix = {
      gainDb: -1,
      pan: 0.3,
      muted: false,
      hallSendDb: -20,
      positions: { tree: { ...PLAIN_POSITION, levelDb: -4, delayMs: 7 } },
    };
    seatTracks(
      [
        { trackId: 'a', seat: { x: -99, y: 3.333 }, mix },
        { trackId: 'b', seat: { x: 1, y: 4 } },
      ],
      'Seat',
    );
    expect(where('a')).toEqual({ x: -14, y: 3.33 });
    expect(one('track', 'a')).toMatchObject({ gainDb: -1, pan: 0.3, hallSendDb: -20 });
    expect(one('positionMix', 'a tree')).toMatchObject({ levelDb: -4, delayMs: 7 });
    seatTracks([{ trackId: 'a', seat: { x: 2, y: 5 } }], 'Seat');
    expect(where('a')).toEqual({ x: 2, y: 5 });
    undo();
    undo();
    expect(where('a')).toBeUndefined();
    expect(where('b')).toBeUndefined();
    expect(one('positionMix', 'a tree')).toMatchObject({ levelDb: 0, delayMs: 0 });
  });

  it('are taken by a convention; who shares one is at one place', () => {
    seatTracks(conventionalMoves(records(), 'usual'), 'Seat');
    expect(where('b')).toEqual(conventionalSeat('usual', { name: 'Violas', family: 'strings' }));
    expect(placesOf(records()).map(({ tracks }) => tracks.map(({ id }) => id))).toEqual([['a', 'c'], ['b']]);
    seatTracks([{ trackId: 'c', seat: { x: -4, y: 4 } }], 'Seat');
    expect(placesOf(records())).toHaveLength(3);
    unseat(['a', 'b']);
    expect(placesOf(records()).map(({ tracks }) => tracks[0].id)).toEqual(['c']);
  });

  it('are kept by name and found again by the names of tracks', () => {
    seatTracks(
      [
        { trackId: 'a', seat: { x: -3, y: 3 } },
        { trackId: 'b', seat: { x: 3, y: 3 } },
      ],
      'Seat',
    );
    keepSeating('Ours');
    const [kept] = shown('keptSeating');
    expect(kept.name).toBe('Ours');
    expect(keptMoves(records(), kept.seats)).toEqual([
      { trackId: 'a', seat: { x: -3, y: 3 } },
      { trackId: 'b', seat: { x: 3, y: 3 } },
    ]);
    keepSeating('Ours');
    expect(shown('keptSeating')).toHaveLength(1);
  });

  it('come and go with their track', () => {
    seatTracks([{ trackId: 'a', seat: { x: -3, y: 3 } }], 'Seat');
    const copy = duplicateTrack('a') ?? '';
    expect(where(copy)).toEqual({ x: -3, y: 3 });
    deleteTrack('a');
    expect(where('a')).toBeUndefined();
    undo();
    expect(where('a')).toEqual({ x: -3, y: 3 });
  });
});

describe('the hall and who listens', () => {
  it('has walls as long as its settings say, and rings as long', () => {
    const walls = wallsOf(template as never);
    expect(walls.width).toBeCloseTo(1.5 * SHARED_HALLS.loft.width, 9);
    expect(walls.decaySeconds).toBe(3);
    expect(wallsOf({ ...template, hall: 'unknown', hallSize: 1 } as never).width).toBe(HARBOUR_HALL.width);
    expect(wallsOf(undefined)).toBe(HARBOUR_HALL);
  });
  it('stands where it is put, to ten centimetres', () => {
    standAt(4.567);
    expect(one('template', 'template')).toMatchObject({ listenerMetres: 4.6 });
  });
});

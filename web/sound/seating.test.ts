import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { balanceOfAzimuth, depthAt, PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';
import { HARBOUR_HALL } from '#core/rooms/index.ts';
import { undo, useDocuments } from '../state/documents.ts';
import { seatOf } from '../state/seating.ts';
import { openPage, shown } from '../testing/open-page.ts';

/** Bringing tracks to their seats, from the plan to the records; what was measured answers from here. */

const asked: { trackId: string; aims: object; hall: boolean }[] = [];
const mix = (more: Partial<TrackMix> = {}): TrackMix => ({
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -14,
  positions: { tree: { ...PLAIN_POSITION, delayMs: 2 } },
  ...more,
});
let measured: Record<string, TrackMix>;
vi.mock('./balance.ts', () => ({
  presentMixOf: (id: string) => (id === 'gone' ? undefined : mix()),
  seatFor: (trackId: string, aims: object, hall: boolean) => {
    asked.push({ trackId, aims, hall });
    if (trackId === 'c') return Promise.reject(new Error('its worker has ended'));
    const found = measured[trackId] as TrackMix | undefined;
    return Promise.resolve(found && { mix: found, depth: undefined, balance: { isMet: true } });
  },
}));
const { bringTo, useSeating } = await import('./seating.ts');

const track = (id: string, place: number) => ({
  id,
  name: `Track ${id}`,
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
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  asked.length = 0;
  measured = {
    a: mix({ pan: -0.4, hallSendDb: -9, positions: { tree: { ...PLAIN_POSITION, levelDb: -5 } } }),
  };
  useSeating.setState({ late: true, hall: true, seated: {}, working: 0 });
  page = await openPage({
    template: [
      {
        id: 'template',
        name: 'House',
        hall: 'harbour',
        hallSize: 1,
        hallDecaySeconds: HARBOUR_HALL.decaySeconds,
        listenerMetres: 3,
      },
    ],
    track: [track('a', 1), track('b', 2), track('c', 3)],
    positionMix: ['a', 'b', 'c'].map((id) => ({
      id: `${id} tree`,
      trackId: id,
      positionId: 'tree',
      ...PLAIN_POSITION,
      delayMs: 2,
      sendDb: 0,
    })),
  });
});
afterEach(() => page.close());
const one = (kind: 'track' | 'positionMix', id: string) => shown(kind).find((record) => record.id === id);

describe('bringing tracks to their seats', () => {
  it('asks for what the seat asks in this hall: depth, side, arrival', async () => {
    // 3-4-5: five metres from who listens, 53.13° to the right, no further than who sits in front.
    await bringTo([{ trackId: 'a', seat: { x: 4, y: 0.5 } }], 'Seat');
    const metres = Math.hypot(4, 3.5);
    expect(asked).toEqual([
      {
        trackId: 'a',
        aims: {
          depthDb: depthAt(metres, HARBOUR_HALL),
          balanceDb: balanceOfAzimuth(Math.atan2(4, 3.5)),
          lateMs: Math.round(((metres - 5) / 343) * 10_000) / 10,
        },
        hall: true,
      },
    ]);
    useSeating.setState({ late: false, hall: false });
    await bringTo([{ trackId: 'a', seat: { x: 4, y: 9 } }], 'Seat');
    expect(asked[1]).toMatchObject({ aims: { lateMs: undefined }, hall: false });
  });

  it('takes what was found with the seat, as one step, and keeps how far it came', async () => {
    await bringTo([{ trackId: 'a', seat: { x: -2, y: 4 } }], 'Seat');
    expect(one('track', 'a')).toMatchObject({ pan: -0.4, hallSendDb: -9 });
    expect(one('positionMix', 'a tree')).toMatchObject({ levelDb: -5, delayMs: 0 });
    expect(useSeating.getState()).toMatchObject({ working: 0, seated: { a: { balance: { isMet: true } } } });
    undo();
    expect(one('track', 'a')).toMatchObject({ pan: 0, hallSendDb: -14 });
    expect(seatOf(useDocuments.getState().records, 'a')).toBeUndefined();
  });

  it('pans and delays what was not measured, or cannot be, and leaves its levels', async () => {
    useSeating.setState({ seated: { b: {} as never } });
    await bringTo(
      ['b', 'c'].map((trackId) => ({ trackId, seat: { x: 3, y: 9 } })),
      'Seat',
    );
    for (const id of ['b', 'c']) {
      expect((one('track', id) as { pan: number }).pan).toBeGreaterThan(0.1);
      const late = Math.round(((Math.hypot(3, 12) - 5) / 343) * 10_000) / 10;
      expect(one('positionMix', `${id} tree`)).toMatchObject({ levelDb: 0, delayMs: late });
    }
    expect(useSeating.getState().seated).toEqual({});
  });
});

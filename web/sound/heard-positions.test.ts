import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { RecordKind } from '#api/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { useDocuments } from '../state/documents.ts';
import { Table } from '../state/tables.ts';
import { followMixes } from './heard-positions.ts';
import { usePerformance } from './performance-state.ts';

const told = vi.hoisted(() => ({ heard: [] as Map<string, Set<string>>[] }));
vi.mock('./instruments.ts', () => ({
  followHeard: (heard: Map<string, Set<string>>) => told.heard.push(heard),
  useInstruments: { getState: () => ({ loads: {} }) },
}));

/** Tracks by id with their instrument, and levels of its positions. */
function write(tracks: Record<string, [instrument: string | null, levels: Record<string, number>]>): void {
  const rows: Partial<Record<RecordKind, object[]>> = { track: [], positionMix: [], eqBand: [] };
  for (const [id, [instrumentId, levels]] of Object.entries(tracks)) {
    rows.track?.push({
      id,
      name: id,
      place: 1,
      instrumentId,
      muted: false,
      gainDb: 0,
      pan: 0,
      hallSendDb: -60,
    });
    for (const [positionId, levelDb] of Object.entries(levels))
      rows.positionMix?.push({
        id: `${id} ${positionId}`,
        trackId: id,
        ...PLAIN_POSITION,
        positionId,
        levelDb,
      });
  }
  const records = Object.fromEntries(
    Object.entries(rows).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
  );
  useDocuments.setState({ records });
}
const last = () =>
  Object.fromEntries([...(told.heard.at(-1) ?? [])].map(([id, own]) => [id, [...own].sort().join()]));

beforeEach(() => {
  vi.useFakeTimers();
  usePerformance.setState({ taken: undefined, trial: undefined });
});
afterEach(() => {
  vi.runAllTimers();
  vi.useRealTimers();
});

describe('what mixes let be heard', () => {
  it('is told by instrument, from all tracks that play it; mutes do not count', () => {
    write({
      a: ['i', { close: -3, tree: -60 }],
      b: ['i', { far: 0, tree: -60 }],
      c: ['j', { close: -59.9 }],
      d: [null, { close: 0 }],
    });
    followMixes();
    expect(last()).toEqual({ i: 'close,far', j: 'close' });
    const before = told.heard.length;
    followMixes();
    expect(told.heard.length).toBe(before);
  });
  it('is told at once where more is heard, and three seconds later where less is', () => {
    write({ a: ['i', { close: -3, tree: -60 }] });
    followMixes();
    vi.advanceTimersByTime(3000);
    expect(last()).toEqual({ i: 'close' });
    write({ a: ['i', { close: -3, tree: -20 }] });
    followMixes();
    expect(last()).toEqual({ i: 'close,tree' });
    write({ a: ['i', { close: -60, tree: -20 }] });
    followMixes();
    expect(last()).toEqual({ i: 'close,tree' });
    vi.advanceTimersByTime(2900);
    expect(last()).toEqual({ i: 'close,tree' });
    vi.advanceTimersByTime(200);
    expect(last()).toEqual({ i: 'tree' });
  });
  it('is not let go of by a ruler that only passes its end', () => {
    write({ a: ['i', { close: -3, tree: -3 }] });
    followMixes();
    vi.advanceTimersByTime(3000);
    write({ a: ['i', { close: -60, tree: -3 }] });
    followMixes();
    vi.advanceTimersByTime(1000);
    write({ a: ['i', { close: -10, tree: -3 }] });
    followMixes();
    vi.advanceTimersByTime(5000);
    expect(last()).toEqual({ i: 'close,tree' });
  });
  it('says nothing of a sound that is taken up outside the tracks: all of it may be heard', () => {
    write({ a: ['i', { close: -3, tree: -60 }], b: ['j', { close: 0 }] });
    usePerformance.setState({ taken: { instrumentId: 'i' } as never });
    followMixes();
    vi.advanceTimersByTime(3000);
    expect(last()).toEqual({ j: 'close' });
  });
});

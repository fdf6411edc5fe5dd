import { describe, expect, it } from 'vitest';
import {
  keymapOfRows,
  PLAIN_TOUCH,
  plainRide,
  type EntryRow,
  type SourceRow,
  type TriggerRow,
} from './index.ts';

const row = { id: 'k', name: 'Strings', initial: 'long', ...PLAIN_TOUCH, hardAttackFrom: 120, version: 7 };
const entryRow = (id: string, place: number, morph = -1): EntryRow => ({
  id,
  keymapId: 'k',
  articulation: `of ${id}`,
  place,
  morph,
});
const sourceRow = (id: string, entryId: string, place: number): SourceRow => ({
  id,
  entryId,
  place,
  articulation: id,
  levelDb: -2,
  velocityLow: 10,
  velocityHigh: 90,
  part: 'body',
  morphAt: 33,
});
const triggerRow = (id: string, fields: Partial<TriggerRow> = {}): TriggerRow => ({
  id,
  entryId: 'a',
  kind: 'key',
  alternative: 0,
  number: 24,
  low: 0,
  high: 127,
  hold: 'latching',
  ...fields,
});
const none = () => [];

describe('a keymap put together from its rows', () => {
  it('stands in the order of places, and of ids where two places are one', () => {
    const rows = [entryRow('c', 2), entryRow('b', 1), entryRow('a', 1), entryRow('d', 0)];
    const { entries } = keymapOfRows(row, rows, none, none);
    expect(entries.map(({ id }) => id)).toEqual(['d', 'a', 'b', 'c']);
    expect(rows.map(({ id }) => id)).toEqual(['c', 'b', 'a', 'd']);
  });
  it('has a morph from controller 0 on, and none below', () => {
    const { entries } = keymapOfRows(
      row,
      [entryRow('a', 0), entryRow('b', 1, 0), entryRow('c', 2, 2)],
      none,
      none,
    );
    expect(entries.map(({ morph }) => morph)).toEqual([undefined, 0, 2]);
    expect('morph' in entries[0]).toBe(false);
  });
  it('gives each entry its own sources and triggers, without what only rows have', () => {
    const sources: Record<string, SourceRow[]> = {
      a: [sourceRow('y', 'a', 1), sourceRow('x', 'a', 0)],
      b: [],
    };
    const { entries } = keymapOfRows(
      row,
      [entryRow('a', 0), entryRow('b', 1)],
      (id) => sources[id],
      (id) => (id === 'a' ? [triggerRow('t', { alternative: 3, low: 5, high: 6, hold: 'held' })] : []),
    );
    expect(entries[0].sources.map(({ id }) => id)).toEqual(['x', 'y']);
    expect(entries[0].sources[0]).toEqual({
      id: 'x',
      articulation: 'x',
      levelDb: -2,
      velocityLow: 10,
      velocityHigh: 90,
      part: 'body',
      morphAt: 33,
    });
    expect(entries[0].triggers).toEqual([
      { id: 't', kind: 'key', set: 3, number: 24, low: 5, high: 6, hold: 'held' },
    ]);
    expect(entries[1]).toEqual({ id: 'b', articulation: 'of b', sources: [], triggers: [] });
  });
  it('has triggers by alternative, then kind, number and id, however the rows come', () => {
    const sorted = [
      triggerRow('e', { kind: 'controller', number: 9 }),
      triggerRow('d', { number: 24 }),
      triggerRow('b', { number: 30 }),
      triggerRow('c', { number: 30 }),
      triggerRow('a', { alternative: 1, kind: 'bank', number: 0 }),
    ];
    for (const order of [
      [0, 1, 2, 3, 4],
      [4, 3, 2, 1, 0],
      [2, 4, 0, 3, 1],
    ]) {
      const rows = order.map((at) => sorted[at]);
      const { entries } = keymapOfRows(row, [entryRow('a', 0)], none, () => rows);
      expect(entries[0].triggers.map(({ id }) => id)).toEqual(['e', 'd', 'b', 'c', 'a']);
    }
  });
  it('carries its name, what holds at first, its touch and its rides', () => {
    const ride = { ...plainRide('release'), controller: 20, low: 90, high: 10, keymapId: 'k', version: 3 };
    const { keymapId: _of, version: _version, ...kept } = ride;
    expect(keymapOfRows(row, [], none, none, [ride])).toEqual({
      id: 'k',
      name: 'Strings',
      initial: 'long',
      entries: [],
      rides: [kept],
      touch: { ...PLAIN_TOUCH, hardAttackFrom: 120 },
    });
    expect(keymapOfRows(row, [], none, none).rides).toEqual([]);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { AnyRecord } from './diff.ts';
import { applyDeltas, recordOf, Table, type Records } from './tables.ts';

const note = (id: string, partId: string, startTick: number, key = 60): AnyRecord => ({
  id,
  partId,
  startTick,
  key,
});
const ids = (list: readonly AnyRecord[]) => list.map((record) => record.id).join('');

describe('a table', () => {
  it('lists what belongs to something in the order of time, pitch and id', () => {
    const table = Table.of('note', [
      note('d', 'p', 5),
      note('c', 'p', 0, 62),
      note('b', 'p', 0, 61),
      note('a', 'p', 0, 61),
      note('x', 'q', 1),
    ]);
    expect(ids(table.ownedBy('p'))).toBe('abcd');
    expect(ids(table.ownedBy('q'))).toBe('x');
    expect(table.ownedBy('nobody')).toEqual([]);
    expect(table.size).toBe(5);
    expect(table.get('x')).toEqual(note('x', 'q', 1));
    expect(ids(table.list()).length).toBe(5);
  });
  it('orders by tick where there is no start, and by place where there is neither', () => {
    const points = Table.of('point', [
      { id: 'b', partId: 'p', tick: 9 },
      { id: 'a', partId: 'p', tick: 10 },
    ]);
    expect(ids(points.ownedBy('p'))).toBe('ba');
    const tracks = Table.of('track', [
      { id: 'a', place: 2 },
      { id: 'b', place: 1.5 },
    ]);
    expect(ids(tracks.list())).toBe('ba');
  });
  it('keeps the lists of others as they are when one part changes', () => {
    const before = Table.of('note', [note('a', 'p', 0), note('b', 'q', 0)]);
    const [p, q] = [before.ownedBy('p'), before.ownedBy('q')];
    const after = before.with([{ id: 'a', after: note('a', 'p', 7) }]);
    expect(after.ownedBy('q')).toBe(q);
    expect(after.ownedBy('p')).not.toBe(p);
    expect(ids(p)).toBe('a');
    expect(p[0].startTick).toBe(0);
    expect(after.list()).toBe(after.list());
  });
  it('moves a record to another owner, and forgets an owner with nothing left', () => {
    const table = Table.of('note', [note('a', 'p', 0)]).with([{ id: 'a', after: note('a', 'q', 0) }]);
    expect(ids(table.ownedBy('p')) + ids(table.ownedBy('q'))).toBe('a');
    expect(table.ownedBy('p')).toEqual([]);
    expect(ids(table.list())).toBe('a');
  });
  it('is the same however it came about: change by change, or all at once', () => {
    const change = fc.record({
      id: fc.constantFrom(...'abcdefgh'),
      owner: fc.constantFrom('p', 'q'),
      tick: fc.nat(5),
      key: fc.nat(3),
      gone: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(change, { maxLength: 300 }), fc.integer({ min: 1, max: 120 }), (changes, size) => {
        const wanted = new Map<string, AnyRecord>();
        let table = Table.of('note', []);
        const deltas = changes.map(({ id, owner, tick, key, gone }) => ({
          id,
          after: gone ? null : note(id, owner, tick, key),
        }));
        for (let i = 0; i < deltas.length; i += size) table = table.with(deltas.slice(i, i + size));
        for (const { id, after } of deltas)
          if (after) wanted.set(id, after);
          else wanted.delete(id);
        const fresh = Table.of('note', [...wanted.values()]);
        for (const owner of ['p', 'q']) expect(table.ownedBy(owner)).toEqual(fresh.ownedBy(owner));
        expect(table.size).toBe(wanted.size);
        for (const id of 'abcdefgh') expect(table.get(id)).toEqual(wanted.get(id));
      }),
    );
  });
  it('mends large lists and many changes alike', () => {
    const many = Array.from({ length: 1000 }, (_, i) => note(`n${i}`, 'p', i));
    const moved = many
      .slice(0, 100)
      .map((record) => ({ id: record.id, after: { ...record, startTick: 2000 } as AnyRecord }));
    const table = Table.of('note', many).with(moved);
    expect(table.ownedBy('p')[0].id).toBe('n100');
    expect(table.ownedBy('p')).toHaveLength(1000);
  });
});

describe('records', () => {
  it('change only the kinds that deltas speak of, also kinds that were not there', () => {
    const records: Records = { note: Table.of('note', [note('a', 'p', 0)]), mark: Table.of('mark', []) };
    const next = applyDeltas(records, [
      { kind: 'note', id: 'a', before: null, after: null },
      { kind: 'point', id: 'x', before: null, after: { id: 'x', partId: 'p', tick: 1 } },
    ]);
    expect(next.mark).toBe(records.mark);
    expect(recordOf(next, 'note', 'a')).toBeUndefined();
    expect(recordOf(next, 'point', 'x')?.tick).toBe(1);
    expect(recordOf({}, 'note', 'a')).toBeUndefined();
  });
});

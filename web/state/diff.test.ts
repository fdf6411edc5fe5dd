import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  changedFields,
  deltasOf,
  differs,
  inverse,
  mergeDelta,
  replayOf,
  squash,
  type AnyRecord,
  type Delta,
  type Edit,
} from './diff.ts';
import { applyDeltas, recordOf, Table, type Records } from './tables.ts';

const KINDS = ['note', 'mark'] as const;
const edits = fc.array(
  fc.oneof(
    fc.record({
      kind: fc.constantFrom(...KINDS),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('add' as const),
      fields: fc.record({ partId: fc.constantFrom('p', 'q'), startTick: fc.nat(9), key: fc.nat(9) }),
    }),
    fc.record({
      kind: fc.constantFrom(...KINDS),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('update' as const),
      fields: fc.record({ startTick: fc.nat(9) }),
    }),
    fc.record({
      kind: fc.constantFrom(...KINDS),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('remove' as const),
    }),
  ),
  { maxLength: 20 },
);
const first = { id: 'a', partId: 'p', startTick: 1, key: 2 };
const startRecords = (): Records => ({ note: Table.of('note', [first]) });
const plain = (records: Records) =>
  Object.fromEntries(
    KINDS.map((kind) => [kind, [...(records[kind]?.list() ?? [])].sort((a, b) => (a.id < b.id ? -1 : 1))]),
  );

describe('deltas', () => {
  it('undo to the start and redo to the end, whatever was edited', () => {
    fc.assert(
      fc.property(edits, (list) => {
        const steps: Delta[][] = [];
        let records = startRecords();
        for (const edit of list as Edit[]) {
          const deltas = deltasOf((kind, id) => recordOf(records, kind, id), [edit]);
          records = applyDeltas(records, deltas);
          steps.push(deltas);
        }
        const end = plain(records);
        for (const deltas of [...steps].reverse()) records = applyDeltas(records, inverse(deltas));
        expect(plain(records)).toEqual(plain(startRecords()));
        expect(plain(applyDeltas(startRecords(), squash(steps.flat())))).toEqual(end);
      }),
    );
  });
  it('give an added record what it may leave out, so that taking a change of it back finds that again', () => {
    const note = { kind: 'note', id: 'n', op: 'add', fields: { partId: 'p', key: 60 } } as const;
    const sung = { kind: 'note', id: 'n', op: 'update', fields: { syllable: 'sea' } } as const;
    const [added, changed] = deltasOf(() => undefined, [note, sung]);
    expect(added.after).toMatchObject({ syllable: '', key: 60 });
    expect(inverse([changed])[0].after).toMatchObject({ syllable: '' });
    const [own] = deltasOf(() => undefined, [{ ...note, fields: { ...note.fields, syllable: 'lan-' } }]);
    expect(own.after).toMatchObject({ syllable: 'lan-' });
  });
  it('leave edits out that change nothing or concern nothing', () => {
    const now = (_kind: string, id: string) => (id === 'a' ? first : undefined);
    expect(
      deltasOf(now, [
        { kind: 'note', id: 'a', op: 'update', fields: { key: 2 } },
        { kind: 'note', id: 'zz', op: 'remove' },
        { kind: 'note', id: 'zz', op: 'update', fields: { key: 3 } },
      ]),
    ).toEqual([]);
  });
  it('see the edits before them in the same list', () => {
    const deltas = deltasOf(
      () => undefined,
      [
        { kind: 'note', id: 'n', op: 'add', fields: { key: 1 } },
        { kind: 'note', id: 'n', op: 'update', fields: { key: 2 } },
        { kind: 'note', id: 'n', op: 'remove' },
      ],
    );
    expect(deltas.map(({ before, after }) => [before?.key, after?.key])).toEqual([
      [undefined, 1],
      [1, 2],
      [2, undefined],
    ]);
    expect(squash(deltas)).toEqual([]);
    expect(squash(deltas.slice(0, 2))).toEqual([
      { kind: 'note', id: 'n', before: null, after: { id: 'n', key: 2, syllable: '' } },
    ]);
  });
  it('tell the fields that differ, and not id and version', () => {
    const a = { id: 'a', version: 1, key: 1, velocity: 2 };
    expect(changedFields(a, { id: 'b', version: 9, key: 1, velocity: 3 })).toEqual({ velocity: 3 });
    expect(differs(a, { ...a, version: 2 })).toBe(false);
    expect(differs(a, { ...a, key: 5 })).toBe(true);
  });
});

const before: AnyRecord = { id: 'n', key: 60, velocity: 80 };
const change = (after: Record<string, unknown> | null, from: AnyRecord | null = before): Delta => ({
  kind: 'note',
  id: 'n',
  before: from,
  after: after && { ...before, ...after },
});

describe('putting an edit on top of a colleague’s', () => {
  it('keeps both where different fields were changed', () => {
    expect(mergeDelta(change({ velocity: 100 }), { ...before, key: 62 })).toEqual({
      delta: {
        kind: 'note',
        id: 'n',
        before: { id: 'n', key: 62, velocity: 80 },
        after: { id: 'n', key: 62, velocity: 100 },
      },
      complete: true,
    });
  });
  it('lets theirs stay where the same field was changed, and says so', () => {
    expect(mergeDelta(change({ key: 64 }), { ...before, key: 62 })).toEqual({ delta: null, complete: false });
  });
  it('keeps the part of mine that is free, and says that the rest is not', () => {
    const { delta, complete } = mergeDelta(change({ key: 64, velocity: 9 }), { ...before, key: 62 });
    expect([delta?.after, complete]).toEqual([{ id: 'n', key: 62, velocity: 9 }, false]);
  });
  it('takes equal changes as done', () => {
    expect(mergeDelta(change({ key: 62 }), { ...before, key: 62 })).toEqual({ delta: null, complete: true });
  });
  it('gives up what they removed, and does not remove what they changed', () => {
    expect(mergeDelta(change({ key: 64 }), null)).toEqual({ delta: null, complete: false });
    expect(mergeDelta(change(null), null)).toEqual({ delta: null, complete: true });
    expect(mergeDelta(change(null), { ...before, key: 62 })).toEqual({ delta: null, complete: false });
    expect(mergeDelta(change(null), { ...before })).toEqual({ delta: change(null), complete: true });
  });
  it('keeps an addition that nobody made yet, and takes one that somebody made as theirs', () => {
    expect(mergeDelta(change({}, null), null).delta).toEqual(change({}, null));
    expect(mergeDelta(change({}, null), { ...before })).toEqual({ delta: null, complete: true });
    expect(mergeDelta(change({ key: 1 }, null), { ...before })).toEqual({ delta: null, complete: false });
  });
});

describe('taking a step back', () => {
  const step = (from: Record<string, unknown> | null, to: Record<string, unknown> | null): Delta => ({
    kind: 'note',
    id: 'n',
    before: from && { id: 'n', ...from },
    after: to && { id: 'n', ...to },
  });
  const replay = (delta: Delta, now: Record<string, unknown> | null, parents = true) =>
    replayOf(
      [delta],
      () => (now ? { id: 'n', ...now } : undefined),
      () => parents,
    );

  it('changes only the fields of the step, and leaves a colleague’s other fields', () => {
    const { deltas, left } = replay(step({ key: 64, velocity: 80 }, { key: 60, velocity: 80 }), {
      key: 64,
      velocity: 11,
    });
    expect(deltas).toEqual([
      {
        kind: 'note',
        id: 'n',
        before: { id: 'n', key: 64, velocity: 11 },
        after: { id: 'n', key: 60, velocity: 11 },
      },
    ]);
    expect(left).toBe(0);
  });
  it('leaves a field that is no longer as the step left it, and counts it', () => {
    expect(replay(step({ key: 64 }, { key: 60 }), { key: 70 })).toEqual({ deltas: [], left: 1 });
    const both = replay(step({ key: 64, velocity: 1 }, { key: 60, velocity: 2 }), { key: 70, velocity: 1 });
    expect([both.deltas[0].after, both.left]).toEqual([{ id: 'n', key: 70, velocity: 2 }, 1]);
  });
  it('does not remove what a colleague changed, nor bring back what is there again', () => {
    expect(replay(step({ key: 60 }, null), { key: 61 })).toEqual({ deltas: [], left: 1 });
    expect(replay(step({ key: 60 }, null), { key: 60 }).deltas).toEqual([step({ key: 60 }, null)]);
    expect(replay(step({ key: 60 }, null), null)).toEqual({ deltas: [], left: 0 });
    expect(replay(step(null, { key: 60 }), { key: 60 })).toEqual({ deltas: [], left: 1 });
    expect(replay(step(null, { key: 60 }), null).deltas).toEqual([step(null, { key: 60 })]);
  });
  it('cannot change what is gone, nor bring back what belongs to something gone', () => {
    expect(replay(step({ key: 64 }, { key: 60 }), null)).toEqual({ deltas: [], left: 1 });
    expect(replay(step(null, { key: 60 }), null, false)).toEqual({ deltas: [], left: 1 });
  });
  it('brings back what belongs to something that comes back with it', () => {
    const part: Delta = { kind: 'part', id: 'p', before: null, after: { id: 'p', trackId: 't' } };
    const note: Delta = { kind: 'note', id: 'n', before: null, after: { id: 'n', partId: 'p' } };
    const { deltas, left } = replayOf(
      [part, note],
      () => undefined,
      (_record, kind) => kind === 'part',
    );
    expect([deltas.length, left]).toEqual([2, 0]);
  });
  it('leaves a part in which a colleague has written since, and takes back the rest', () => {
    const part = { kind: 'part' as const, id: 'p', before: { id: 'p', trackId: 't' }, after: null };
    const note = { kind: 'note' as const, id: 'n', before: { id: 'n', partId: 'p' }, after: null };
    const now = (kind: string, id: string) =>
      kind === 'part' ? { id, trackId: 't' } : id === 'n' ? { id, partId: 'p' } : undefined;
    const written = ['n', 'of a colleague'];
    const isHeld = (kind: string, id: string, going: ReadonlySet<string>) =>
      kind === 'part' && id === 'p' && written.some((one) => !going.has(one));
    const both = replayOf([part, note], now, () => true, isHeld);
    expect([both.deltas.map(({ id }) => id), both.left]).toEqual([['n'], 1]);
    written.pop();
    expect(replayOf([part, note], now, () => true, isHeld).deltas.map(({ id }) => id)).toEqual(['p', 'n']);
  });
});

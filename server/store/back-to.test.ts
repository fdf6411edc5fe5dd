import { describe, expect, it } from 'vitest';
import { changesTo, targetsOf } from './back-to.ts';
import type { Current } from './change-rules.ts';
import type { Done } from './change-rules.ts';

const note = { partId: 'p', startTick: 0, endTick: 960, key: 60, velocity: 80 };
const done = (id: string, op: Done['op'], before: object | null): Done => ({
  kind: 'note',
  id,
  op,
  version: 1,
  before: before as Record<string, unknown> | null,
});
const now = (id: string, fields: object, version: number) =>
  new Map<string, Current>([[`note ${id}`, { ...fields, id, version } as Current]]);

describe('going back', () => {
  it('takes what the oldest later change knew of a record', () => {
    const targets = targetsOf([
      [done('a', 'update', { ...note, key: 60 }), done('b', 'add', null)],
      [done('a', 'update', { ...note, key: 61 })],
      [done('b', 'remove', note)],
    ]);
    expect(targets.map(({ id, before }) => [id, before?.key ?? null])).toEqual([
      ['a', 60],
      ['b', null],
    ]);
  });
  it('changes only the fields that differ, on the present version', () => {
    const targets = targetsOf([[done('a', 'update', { ...note, key: 60, id: 'a', version: 3 })]]);
    expect(changesTo(targets, now('a', { ...note, key: 72, velocity: 1 }, 9))).toEqual([
      { kind: 'note', id: 'a', op: 'update', version: 9, fields: { key: 60, velocity: 80 } },
    ]);
  });
  it('changes nothing that is so already', () => {
    expect(changesTo(targetsOf([[done('a', 'update', note)]]), now('a', note, 9))).toEqual([]);
    expect(changesTo(targetsOf([[done('a', 'add', null)]]), new Map())).toEqual([]);
  });
  it('removes what was added since and brings back what was removed', () => {
    expect(changesTo(targetsOf([[done('a', 'add', null)]]), now('a', note, 2))).toEqual([
      { kind: 'note', id: 'a', op: 'remove', version: 2 },
    ]);
    expect(
      changesTo(targetsOf([[done('a', 'remove', { ...note, id: 'a', version: 2 })]]), new Map()),
    ).toEqual([{ kind: 'note', id: 'a', op: 'add', fields: note }]);
  });
  it('leaves out columns of earlier versions of Farlo', () => {
    const [change] = changesTo(targetsOf([[done('a', 'remove', { ...note, soloed: true })]]), new Map());
    expect(change.fields).toEqual(note);
  });
});

import { describe, expect, it } from 'vitest';
import type { ChangeShape, DocumentKind } from '#api/index.ts';
import {
  checkChanges,
  checkRecords,
  childrenOf,
  completed,
  conflictOf,
  isStale,
  type Current,
} from './change-rules.ts';

const ID = '11111111-1111-4111-8111-111111111111';
const PART = 'abcdefab-2222-4222-8222-abcdefabcdef';
const note = { partId: PART, startTick: 0, endTick: 960, key: 60, velocity: 80, syllable: '' };
const change = (more: Partial<ChangeShape>): ChangeShape => ({
  kind: 'note',
  id: ID,
  op: 'update',
  version: 1,
  fields: { key: 61 },
  ...more,
});
const current = (fields: object = note, version = 1) =>
  new Map<string, Current>([[`note ${ID}`, { ...fields, id: ID, version } as Current]]);
const refusal = (list: ChangeShape[], document: DocumentKind = 'cue', documentId = 'the cue') => {
  try {
    checkChanges(document, documentId, list);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  }
};
const recordRefusal = (one: ChangeShape, now = current()) => {
  try {
    checkRecords([one], now);
    return undefined;
  } catch (error) {
    return [(error as Error).message, (error as { place: { record: string } }).place.record];
  }
};

describe('changes that make no sense whatever the document holds', () => {
  it('are of another document', () => {
    expect(refusal([change({ kind: 'track' })])).toBe('A track does not belong to a cue.');
    expect(refusal([change({ kind: 'gap' })], 'template')).toBe('A gap does not belong to a template.');
  });
  it('add or remove the document itself, or another one', () => {
    const sentence = 'A cue is neither added nor removed by a patch.';
    expect(refusal([change({ kind: 'cue', id: 'the cue', op: 'remove' })])).toBe(sentence);
    expect(refusal([change({ kind: 'cue', id: 'the cue', op: 'add' })])).toBe(sentence);
    expect(refusal([change({ kind: 'cue', id: 'another' })])).toBe(sentence);
    expect(refusal([change({ kind: 'cue', id: 'the cue' })])).toBeUndefined();
  });
  it('do not say on which version they were made', () => {
    const sentence = 'The version that was changed is missing.';
    expect(refusal([change({ version: undefined })])).toBe(sentence);
    expect(refusal([change({ op: 'remove', version: undefined })])).toBe(sentence);
    expect(refusal([change({ op: 'add', version: undefined })])).toBeUndefined();
  });
  it('change nothing', () => {
    expect(refusal([change({ fields: {} })])).toBe('An update without fields.');
    expect(refusal([change({ fields: undefined })])).toBe('An update without fields.');
    expect(refusal([change({ op: 'remove', fields: undefined })])).toBeUndefined();
  });
  it('name one record twice; two kinds may share an id', () => {
    expect(refusal([change({ op: 'add' }), change({ op: 'add' })])).toBe(
      'The same note is changed twice in one patch.',
    );
    expect(refusal([change({}), change({ op: 'remove' })])).toContain('twice');
    expect(refusal([change({}), change({ kind: 'mark' })])).toBeUndefined();
  });
});

describe('a change on an old version', () => {
  it('is one whose record has another version now, or is gone, or is there already', () => {
    expect(isStale(change({ version: 1 }), current())).toBe(false);
    expect(isStale(change({ version: 2 }), current())).toBe(true);
    expect(isStale(change({ op: 'remove', version: 1 }), current())).toBe(false);
    expect(isStale(change({ version: 1 }), new Map())).toBe(true);
    expect(isStale(change({ op: 'add', version: undefined }), current())).toBe(true);
    expect(isStale(change({ op: 'add', version: undefined }), new Map())).toBe(false);
  });
  it('is answered with the present record, or with none', () => {
    expect(conflictOf(change({}), current())).toEqual({
      kind: 'note',
      id: ID,
      current: { ...note, id: ID, version: 1 },
    });
    expect(conflictOf(change({}), new Map())).toEqual({ kind: 'note', id: ID, current: null });
  });
});

describe('a record after the change', () => {
  it('is checked with all its fields: an end before its start by one field', () => {
    expect(recordRefusal(change({ fields: { startTick: 959 } }))).toBeUndefined();
    expect(recordRefusal(change({ fields: { startTick: 960 } }))).toEqual([
      'It ends before it starts.',
      `note ${ID}`,
    ]);
    expect(recordRefusal(change({ fields: { endTick: 0 } }))?.[0]).toMatch(/endTick|ends before/);
  });
  it('may not hold nothing where something is needed', () => {
    for (const field of Object.keys(note))
      expect(recordRefusal(change({ fields: { [field]: null } }))?.[0], field).toContain(field);
  });
  it('may hold nothing where that means something', () => {
    const track = {
      name: 'x',
      family: 'strings',
      place: 1,
      instrumentId: PART,
      articulation: 'long',
      mode: 'planned',
      gainDb: 0,
      pan: 0,
      hallSendDb: 0,
      muted: false,
    };
    const now = new Map([[`track ${ID}`, { ...track, id: ID, version: 1 } as Current]]);
    expect(recordRefusal(change({ kind: 'track', fields: { instrumentId: null } }), now)).toBeUndefined();
    expect(recordRefusal(change({ kind: 'track', fields: { name: '' } }), now)?.[0]).toContain('name');
    expect(recordRefusal(change({ kind: 'track', fields: { soloed: true } }), now)?.[0]).toContain('soloed');
  });
  it('of an addition needs every field, and no other', () => {
    const add = (fields: object) =>
      recordRefusal(change({ op: 'add', fields: fields as Record<string, unknown> }), new Map());
    expect(add(note)).toBeUndefined();
    const { key: _key, ...less } = note;
    expect(add(less)?.[0]).toContain('key');
    expect(add({ ...note, cueId: ID })?.[0]).toContain('cueId');
    expect(add({ ...note, partId: PART.toUpperCase() })?.[0]).toContain('partId');
    expect(recordRefusal(change({ op: 'add', fields: undefined }), new Map())).toBeDefined();
  });
  it('of an addition may leave out what is usual, and of a change nothing is added', () => {
    const { syllable: _syllable, ...unsung } = note;
    const added = change({ op: 'add', fields: unsung });
    expect(completed(added).fields).toEqual(note);
    expect(recordRefusal(completed(added), new Map())).toBeUndefined();
    expect(completed({ ...added, fields: { ...unsung, syllable: 'sea' } }).fields).toMatchObject({
      syllable: 'sea',
    });
    expect(completed(change({ op: 'update', fields: { key: 5 } })).fields).toEqual({ key: 5 });
    expect(completed(change({ kind: 'tempo', op: 'add', fields: { tick: 0 } })).fields).toEqual({ tick: 0 });
  });
  it('is not asked about when it is removed', () => {
    expect(recordRefusal(change({ op: 'remove', fields: { key: 'nonsense' } }))).toBeUndefined();
  });
  it('of a cue has a loop that ends after it starts, or none', () => {
    const cue = { name: 'x', endTick: 9, loopStartTick: 2, loopEndTick: 4 };
    const now = new Map([[`cue ${ID}`, { ...cue, id: ID, version: 1 } as Current]]);
    expect(recordRefusal(change({ kind: 'cue', fields: { loopEndTick: 2 } }), now)).toBeUndefined();
    expect(recordRefusal(change({ kind: 'cue', fields: { loopEndTick: 1 } }), now)?.[0]).toBe(
      'The loop ends before it starts.',
    );
  });
});

describe('what belongs to what', () => {
  it('is read from the references of the kinds', () => {
    expect(
      childrenOf('part')
        .map(({ kind, field }) => `${kind}.${field}`)
        .sort(),
    ).toEqual(['mark.partId', 'note.partId', 'point.partId']);
    expect(childrenOf('contender')).toEqual([{ kind: 'preference', field: 'contenderId' }]);
    expect(childrenOf('note')).toEqual([]);
  });
});

import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { edit, undo, useDocuments } from './documents.ts';
import {
  copyEdits,
  editKeymap,
  keymapAfter,
  keymapById,
  keymapOfInstrument,
  keymapOfTrack,
  removalEdits,
  variantsOf,
  vocabularyOf,
  voicingOf,
} from './keymaps.ts';
import { useLibraries } from './libraries.ts';

const articulation = (id: string, suggestedKey: number | null) =>
  ({
    id,
    name: id,
    low: 55,
    high: 90,
    layers: 1,
    takes: 1,
    suggestedKey,
  }) as InstrumentSummary['articulations'][0];
const violins = {
  id: 'violins',
  name: 'Violins',
  family: 'strings',
  kind: 'section',
  players: 10,
  tags: [],
  bytes: 0,
  positions: [],
  articulations: [articulation('connected', null), articulation('long', 12), articulation('staccato', 60)],
} as InstrumentSummary;

let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  useLibraries.setState({ libraries: [{ instruments: [violins] } as unknown as LibrarySummary] });
  page = await openPage({
    house: [{ id: 'house', name: 'House' }],
    keymap: [{ id: 'k', name: 'Horns', instruments: 'horns', initial: 'long', variantOf: '', trackId: '' }],
    entry: [
      { id: 'e2', keymapId: 'k', articulation: 'staccato', place: 1, morph: -1 },
      { id: 'e1', keymapId: 'k', articulation: 'long', place: 0, morph: 2 },
    ],
    trigger: [24, 25].map((number, i) => ({
      id: `t${i + 1}`,
      entryId: `e${i + 1}`,
      kind: 'key',
      alternative: 0,
      number,
      low: 0,
      high: 127,
      hold: 'latching',
    })),
  });
});
afterEach(() => page.close());
const records = () => useDocuments.getState().records;
const keys = (house = keymapOfInstrument(records(), violins)) =>
  house.keymap.entries.map((entry) => [entry.articulation, entry.triggers[0]?.number]);

describe('keymaps in the page', () => {
  it('are read in the order of their places, and stay the same object until they change', () => {
    const first = keymapById(records(), 'k');
    expect(first?.keymap.entries.map(({ id, morph }) => [id, morph])).toEqual([
      ['e1', 2],
      ['e2', undefined],
    ]);
    edit('x', [{ kind: 'house', id: 'house', op: 'update', fields: { name: 'Other' } }]);
    expect(keymapById(records(), 'k')).toBe(first);
    edit('x', [{ kind: 'trigger', id: 't1', op: 'update', fields: { number: 30 } }]);
    expect(keymapById(records(), 'k')).not.toBe(first);
  });
  it('are at first the keys a maker suggests, moved out of the range; the first change keeps them', () => {
    const suggested = keymapOfInstrument(records(), violins);
    expect(suggested.kept).toBe(false);
    expect(suggested.keymap.initial).toBe('long');
    expect(keys()).toEqual([
      ['connected', 24],
      ['long', 12],
      ['staccato', 54],
    ]);
    const [connected] = suggested.keymap.entries;
    const clashes = editKeymap('Move', suggested, [
      { kind: 'trigger', id: connected.triggers[0].id, op: 'update', fields: { number: 20 } },
    ]);
    expect(clashes).toEqual([]);
    expect(keymapOfInstrument(records(), violins)).toMatchObject({ kept: true, instrumentIds: ['violins'] });
    expect(keys()).toEqual([
      ['connected', 20],
      ['long', 12],
      ['staccato', 54],
    ]);
    undo();
    expect(keymapOfInstrument(records(), violins).kept).toBe(false);
    expect(keys()[0]).toEqual(['connected', 24]);
  });
  it('are not changed into what has two answers; what stands against it is told', () => {
    const house = keymapById(records(), 'k');
    if (!house) throw new Error('missing');
    const before = records();
    const clashes = editKeymap('Move', house, [
      { kind: 'trigger', id: 't2', op: 'update', fields: { number: 24 } },
    ]);
    expect(clashes.map(({ kind }) => kind)).toEqual(['twice']);
    expect(records()).toBe(before);
    // Two that change places are fine, and so is an entry that goes with its trigger.
    const swap = [
      { kind: 'trigger' as const, id: 't1', op: 'update' as const, fields: { number: 25 } },
      { kind: 'trigger' as const, id: 't2', op: 'update' as const, fields: { number: 24 } },
    ];
    expect(keymapAfter(house.keymap, swap).entries.map(({ triggers }) => triggers[0].number)).toEqual([
      25, 24,
    ]);
    expect(editKeymap('Swap', house, swap)).toEqual([]);
  });
  it('of a track are its own variant, else the one of its instrument', () => {
    expect(keymapOfTrack(records(), { keymapId: null }, 'violins')?.kept).toBe(false);
    expect(keymapOfTrack(records(), { keymapId: 'k' }, 'violins')?.keymap.name).toBe('Horns');
    // One that was deleted meanwhile leaves the track with its instrument's.
    expect(keymapOfTrack(records(), { keymapId: 'gone' }, 'violins')?.keymap.name).toBe('Violins');
    expect(keymapOfTrack(records(), { keymapId: null }, 'unknown')).toBeUndefined();
  });
  it('are copied with all that is in them under ids of their own, and removed whole', () => {
    const house = keymapById(records(), 'k');
    if (!house) throw new Error('missing');
    edit('copy', copyEdits(house.keymap, { id: 'copy', name: 'Copy', variantOf: 'k', trackId: 'track' }));
    const copy = keymapById(records(), 'copy');
    expect(keys(copy)).toEqual(keys(house));
    expect(copy?.keymap.entries[0].morph).toBe(2);
    expect(new Set(shown('entry').map(({ id }) => id)).size).toBe(4);
    expect(variantsOf(records(), 'track').map(({ keymap }) => keymap.id)).toEqual(['copy']);
    edit('remove', variantsOf(records(), 'track').flatMap(removalEdits));
    expect([shown('keymap').length, shown('entry').length, shown('trigger').length]).toEqual([1, 2, 2]);
  });
});

describe('the house vocabulary in the page', () => {
  it('has the studio’s words, and translations change what sounds', () => {
    edit('word', [
      {
        kind: 'term',
        id: 'w',
        op: 'add',
        fields: {
          articulation: 'bowed glass',
          group: 'long',
          tab: 'bg',
          written: 'glass',
          notated: 'words',
          hints: 'glass',
          standIns: 'harmonics|long',
        },
      },
    ]);
    const vocabulary = vocabularyOf(records());
    expect(vocabulary.term('bowed glass').standIns).toEqual(['harmonics', 'long']);
    expect(vocabulary.guess('Vln Glass 01')?.term.id).toBe('bowed glass');
    const before = voicingOf(records(), undefined, violins);
    expect(before.answer('bowed glass', 80)).toMatchObject([{ index: 1, term: 'long', distance: 'near' }]);
    expect(voicingOf(records(), undefined, violins)).toBe(before);
    edit('translation', [
      {
        kind: 'translation',
        id: 'x',
        op: 'add',
        fields: {
          instrumentId: 'violins',
          articulation: 'staccato',
          term: 'bowed glass',
          levelDb: -3,
          velocityLow: 1,
          velocityHigh: 127,
        },
      },
    ]);
    const after = voicingOf(records(), undefined, violins);
    expect(after.answer('bowed glass', 80)).toMatchObject([{ index: 2, levelDb: -3, distance: 'own' }]);
    // What is translated away is no longer there under its own name.
    expect(after.answer('staccato', 80)).toMatchObject([{ distance: 'other' }]);
  });
});

import { openPage, shown } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { naturalId } from '#api/index.ts';
import { sineInstrument } from '#core/testing/fixtures.ts';
import { redo, undo, useDocuments } from './documents.ts';
import {
  addTrack,
  deleteTrack,
  duplicateTrack,
  instrumentEdits,
  moveTrack,
  nameFor,
  placeTrack,
  renameTrack,
} from './track-edits.ts';

const track = (id: string, place: number, name = id) => ({
  id,
  name,
  place,
  family: 'strings',
  instrumentId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: -3,
  pan: 0,
  hallSendDb: -14,
  muted: false,
});
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    track: [track('a', 1), { ...track('b', 2), keymapId: 'own' }, track('c', 3)],
    positionMix: [
      {
        id: 'pm',
        trackId: 'b',
        positionId: 'close',
        levelDb: -5,
        pan: 0,
        width: 1,
        delayMs: 0,
        muted: false,
        inverted: false,
      },
    ],
    keymap: [
      { id: 'own', name: 'b, own', instruments: '', initial: 'long', variantOf: 'house', trackId: 'b' },
      { id: 'house', name: 'House', instruments: '', initial: 'long', variantOf: '', trackId: '' },
    ],
    entry: [{ id: 'en', keymapId: 'own', articulation: 'long', place: 0, morph: -1 }],
    trigger: [
      {
        id: 'tr',
        entryId: 'en',
        kind: 'key',
        alternative: 0,
        number: 24,
        low: 0,
        high: 127,
        hold: 'latching',
      },
    ],
    eqBand: [{ id: 'eq', trackId: 'b', shape: 'peak', hertz: 400, gainDb: 2, q: 1, active: true }],
  });
});
afterEach(() => page.close());
const order = () => shown('track').map(({ id }) => id);
const names = () => shown('track').map(({ name }) => name);

describe('tracks', () => {
  it('come at the end, with a number for a name', () => {
    const id = addTrack();
    expect(order()).toEqual(['a', 'b', 'c', id]);
    expect(shown('track').at(-1)).toMatchObject({
      name: 'Track 4',
      place: 4,
      instrumentId: null,
      muted: false,
    });
    undo();
    expect(order()).toEqual(['a', 'b', 'c']);
  });
  it('are renamed', () => {
    renameTrack('b', 'Horns');
    expect(names()).toEqual(['a', 'Horns', 'c']);
  });
  it('are moved up and down, and not beyond the ends', () => {
    moveTrack('c', -1);
    expect(order()).toEqual(['a', 'c', 'b']);
    moveTrack('a', 1);
    expect(order()).toEqual(['c', 'a', 'b']);
    moveTrack('c', -1);
    moveTrack('b', 1);
    moveTrack('unknown', 1);
    expect(order()).toEqual(['c', 'a', 'b']);
    undo();
    expect(order()).toEqual(['a', 'c', 'b']);
  });
  it('are put anywhere in the order', () => {
    placeTrack('c', 0);
    expect(order()).toEqual(['c', 'a', 'b']);
    placeTrack('c', 3);
    expect(order()).toEqual(['a', 'b', 'c']);
    const before = useDocuments.getState().records;
    placeTrack('b', 1);
    placeTrack('b', 2);
    expect(useDocuments.getState().records).toBe(before);
  });
  it('keep their order after a thousand moves into the same gap', () => {
    for (let i = 0; i < 1000; i++) placeTrack(order()[2], 1);
    const places = shown('track').map(({ place }) => place);
    expect(new Set(places).size).toBe(3);
    const [first, second, third] = order();
    placeTrack(third, 1);
    expect(order()).toEqual([first, third, second]);
  });
  it('are duplicated with their mix, tone and own keymap, right after themselves', () => {
    const id = duplicateTrack('b') ?? '';
    expect(order()).toEqual(['a', 'b', id, 'c']);
    expect(shown('track')[2]).toMatchObject({ name: 'b copy', gainDb: -3 });
    expect(shown('positionMix').find((one) => one.trackId === id)).toMatchObject({
      id: naturalId('positionMix', id, 'close'),
      levelDb: -5,
    });
    const { keymapId } = shown('track')[2];
    expect(shown('keymap').find((one) => one.id === keymapId)).toMatchObject({
      variantOf: 'house',
      trackId: id,
    });
    const entry = shown('entry').find((one) => one.keymapId === keymapId);
    expect(shown('trigger').find((one) => one.entryId === entry?.id)).toMatchObject({ number: 24 });
    expect(shown('eqBand').find((one) => one.trackId === id)).toMatchObject({ hertz: 400 });
    expect(shown('trigger')).toHaveLength(2);
    undo();
    expect([order(), shown('trigger').length]).toEqual([['a', 'b', 'c'], 1]);
    expect(duplicateTrack('unknown')).toBeUndefined();
    const last = duplicateTrack('c') ?? '';
    expect(order()).toEqual(['a', 'b', 'c', last]);
  });
  it('are deleted with what belongs to them, and come back whole', () => {
    deleteTrack('b');
    expect([order(), shown('positionMix'), shown('trigger'), shown('eqBand')]).toEqual([
      ['a', 'c'],
      [],
      [],
      [],
    ]);
    // What the house has is everybody's.
    expect(shown('keymap').map(({ id }) => id)).toEqual(['house']);
    undo();
    expect([order(), shown('positionMix').length, shown('trigger').length, shown('eqBand').length]).toEqual([
      ['a', 'b', 'c'],
      1,
      1,
      1,
    ]);
    redo();
    expect(order()).toEqual(['a', 'c']);
  });
  it('take the name of their instrument unless somebody named them', () => {
    expect(nameFor({ name: 'Track 12' }, { name: 'Oboe' })).toBe('Oboe');
    expect(nameFor({ name: 'My track 12' }, { name: 'Oboe' })).toBe('My track 12');
    expect(nameFor({ name: 'Track twelve' }, { name: 'Oboe' })).toBe('Track twelve');
  });
});

describe('another instrument on a track', () => {
  const { instrument: everywhere } = sineInstrument();
  // Room below its range for keyswitches.
  const instrument = {
    ...everywhere,
    articulations: everywhere.articulations.map((one) => ({
      ...one,
      zones: one.zones.map((zone) => ({ ...zone, keyLow: 60, keyHigh: 72 })),
    })),
  };
  const edits = (arrival?: Parameters<typeof instrumentEdits>[3]) =>
    instrumentEdits(useDocuments.getState().records, shown('track')[1], instrument, arrival);
  it('brings its own positions in place of the old ones, and is played by the house’s keymap', () => {
    const list = edits();
    expect(list[0]).toMatchObject({
      kind: 'track',
      id: 'b',
      fields: { instrumentId: instrument.id, keymapId: null, family: instrument.family, name: 'b' },
    });
    expect(list.filter(({ op }) => op === 'remove').map(({ id }) => id)).toEqual(['tr', 'en', 'own', 'pm']);
    const mixes = list.filter(({ kind, op }) => kind === 'positionMix' && op === 'add');
    expect(mixes.map(({ id }) => id)).toEqual(
      instrument.positions.map((position) => naturalId('positionMix', 'b', position.id)),
    );
    for (const mix of mixes)
      expect(mix).toMatchObject({ fields: { trackId: 'b', levelDb: -6, width: 1, muted: false } });
  });
  it('is sent to the hall as its maker has it, where nobody has mixed the track', () => {
    const sendOf = (own: Partial<typeof instrument>, given: Partial<ReturnType<typeof track>>) => {
      const [first] = instrumentEdits(
        useDocuments.getState().records,
        { ...shown('track')[1], ...given } as never,
        { ...instrument, ...own },
      );
      return (first as { fields: { hallSendDb?: number } }).fields.hallSendDb;
    };
    expect(sendOf({ hallSendDb: -8 }, {})).toBe(-8);
    expect(sendOf({}, {})).toBeUndefined();
    expect(sendOf({ hallSendDb: -8 }, { instrumentId: 'before' } as never)).toBeUndefined();
  });
  it('takes the articulation, level and mix that are given', () => {
    const id = instrument.positions[0].id;
    const mix = { levelDb: -9, pan: 0.5, width: 1, delayMs: 3, muted: true, inverted: true };
    const list = edits({ articulation: 'staccato', gainDb: 2, positions: { [id]: mix } });
    expect(list[0]).toMatchObject({ fields: { articulation: 'staccato', gainDb: 2 } });
    const mixes = list.filter(({ kind, op }) => kind === 'positionMix' && op === 'add') as unknown as {
      fields: { positionId: string; levelDb: number };
    }[];
    expect(mixes.find(({ fields }) => fields.positionId === id)).toMatchObject({ fields: mix });
    for (const { fields } of mixes) if (fields.positionId !== id) expect(fields.levelDb).toBe(-60);
  });
  it('plays what is not connected on unmarked notes', () => {
    const chosen = (edits()[0] as unknown as { fields: { articulation: string } }).fields.articulation;
    expect(chosen).not.toBe('connected');
    expect(instrument.articulations.map(({ id }) => id)).toContain(chosen);
  });
});

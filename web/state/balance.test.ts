import { openPage, shown } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import {
  cellOf,
  changeCell,
  columnsOf,
  copyMixTo,
  endCellGesture,
  fitTrackToRoom,
  isLinked,
  keepIn,
  keepNamed,
  linkedWith,
  moveCell,
  presentMix,
  sendTrackTo,
  stemNames,
  recallMix,
  setLevels,
  snapshotIn,
  takeMix,
  takeMixes,
  toggleFamilyLink,
} from './balance.ts';
import { beginGesture, endGesture, undo, useDocuments } from './documents.ts';
import { readMix } from '#core/balance/index.ts';

const track = (id: string, place: number, family = 'strings') => ({
  id,
  name: `Track ${id}`,
  place,
  family,
  instrumentId: null,
  keymapId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: 0,
  pan: 0,
  hallSendDb: -14,
  muted: false,
});
const mix = (trackId: string, positionId: string, levelDb: number) => ({
  id: `${trackId} ${positionId}`,
  trackId,
  positionId,
  ...PLAIN_POSITION,
  sendDb: 0,
  stem: '',
  levelDb,
});
const template = { id: 'template', name: 'House', hallEarlyDb: 0, hallTailDb: 0, middleC: 4 };
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    template: [template],
    track: [track('a', 1), track('b', 2), track('c', 3), track('h', 4, 'brass')],
    positionMix: [
      mix('a', 'tree', -3),
      mix('a', 'close', -10),
      mix('b', 'tree', 0),
      mix('b', 'close', -60),
      mix('c', 'tree', 6),
      mix('h', 'far', -8),
      mix('h', 'tree', -1),
    ],
    eqBand: [
      {
        id: 'e',
        trackId: 'a',
        positionId: 'close',
        shape: 'peak',
        hertz: 400,
        gainDb: 2,
        q: 1,
        active: true,
      },
    ],
  });
});
afterEach(async () => {
  endCellGesture();
  await page.close();
});

const records = () => useDocuments.getState().records;
const level = (trackId: string, positionId = 'tree') => cellOf(records(), { trackId, positionId })?.levelDb;
const trees = () => ['a', 'b', 'c', 'h'].map((id) => level(id));
const tree = { trackId: 'a', positionId: 'tree' };

describe('the matrix', () => {
  it('has a column for every kind of position there is, near to far', () => {
    expect(columnsOf(records())).toEqual([
      { id: 'close', name: 'Close' },
      { id: 'tree', name: 'Tree' },
      { id: 'far', name: 'Far' },
    ]);
    expect(cellOf(records(), { trackId: 'c', positionId: 'far' })).toBeUndefined();
  });
  it('moves a cell alone while nothing is linked', () => {
    moveCell(tree, -7.04);
    expect(trees()).toEqual([-7, 0, 6, -1]);
    undo();
    expect(trees()).toEqual([-3, 0, 6, -1]);
  });
});

describe('linked sections', () => {
  beforeEach(() => toggleFamilyLink('strings'));
  it('are those of a family, until they are unlinked', () => {
    expect([isLinked(records(), 'strings'), isLinked(records(), 'brass')]).toEqual([true, false]);
    expect(linkedWith(records(), 'b')).toEqual(['a', 'b', 'c']);
    expect(linkedWith(records(), 'h')).toEqual(['h']);
    toggleFamilyLink('strings');
    expect(linkedWith(records(), 'b')).toEqual(['b']);
    toggleFamilyLink('strings');
    expect(shown('link')).toHaveLength(1);
    expect(linkedWith(records(), 'c')).toEqual(['a', 'b', 'c']);
  });
  it('move together and keep their differences, in one step', () => {
    moveCell(tree, -5);
    expect(trees()).toEqual([-5, -2, 4, -1]);
    undo();
    expect(trees()).toEqual([-3, 0, 6, -1]);
  });
  it('keep their differences through the end of a ruler and back, while it is dragged', () => {
    beginGesture('Level');
    for (const db of [3, 10, 4, -3]) moveCell(tree, db, true);
    expect(trees()).toEqual([-3, 0, 6, -1]);
    moveCell(tree, 10, true);
    expect(trees()).toEqual([10, 12, 12, -1]);
    moveCell(tree, -2, true);
    endCellGesture();
    endGesture();
    expect(trees()).toEqual([-2, 1, 7, -1]);
  });
  it('leave off what is off, unless it is the one that is moved', () => {
    moveCell({ trackId: 'a', positionId: 'close' }, -6);
    expect([level('a', 'close'), level('b', 'close')]).toEqual([-6, -60]);
    moveCell({ trackId: 'b', positionId: 'close' }, -20);
    expect([level('a', 'close'), level('b', 'close')]).toEqual([12, -20]);
  });
  it('take the same polarity, mute, delay and send', () => {
    changeCell(tree, 'Polarity', { inverted: true, delayMs: 3 });
    for (const id of ['a', 'b', 'c'])
      expect(cellOf(records(), { trackId: id, positionId: 'tree' })).toMatchObject({
        inverted: true,
        delayMs: 3,
      });
    expect(cellOf(records(), { trackId: 'h', positionId: 'tree' })?.inverted).toBe(false);
  });
});

describe('mixes', () => {
  it('of one section are set as one step; levels that stay are not touched', () => {
    setLevels('a', { tree: -3, close: -4.26, far: 0 }, 'Distance');
    expect([level('a'), level('a', 'close')]).toEqual([-3, -4.3]);
    const before = records();
    setLevels('a', { tree: -3 }, 'Distance');
    expect(records()).toBe(before);
    undo();
    expect(level('a', 'close')).toBe(-10);
  });
  it('that were proposed are taken whole', () => {
    const position = { ...PLAIN_POSITION, levelDb: -2.5, width: 0.8, delayMs: 4 };
    takeMix(
      'a',
      { gainDb: -1, pan: 0.1, muted: false, hallSendDb: -9, positions: { tree: position, gone: position } },
      'Take',
    );
    expect(shown('track')[0]).toMatchObject({ gainDb: -1, pan: 0.1, hallSendDb: -9 });
    expect(cellOf(records(), tree)).toMatchObject({ levelDb: -2.5, width: 0.8, delayMs: 4, sendDb: 0 });
    undo();
    expect(cellOf(records(), tree)).toMatchObject({ levelDb: -3, width: 1 });
  });
  it('are kept in a slot, and come back with levels and tone, one undo each', () => {
    keepIn('A');
    const kept = presentMix(records());
    expect(snapshotIn(records(), 'A')).toEqual(kept);
    expect(snapshotIn(records(), 'B')).toBeUndefined();
    moveCell(tree, 3);
    changeCell(tree, 'Pan', { pan: -0.5 });
    keepIn('B');
    expect(recallMix(snapshotIn(records(), 'A') ?? { tracks: [] }, 'A')).toEqual([]);
    expect(level('a')).toBe(-3);
    expect(shown('eqBand')).toHaveLength(1);
    recallMix(snapshotIn(records(), 'B') ?? { tracks: [] }, 'B');
    expect(cellOf(records(), tree)).toMatchObject({ levelDb: 3, pan: -0.5 });
    undo();
    expect(level('a')).toBe(-3);
    keepIn('A');
    expect(shown('snapshot')).toHaveLength(2);
  });
  it('of another template are known by names; what they do not name stays and is told', () => {
    keepNamed('Warm');
    keepNamed('Warm');
    expect(shown('keptMix')).toHaveLength(1);
    const warm = readMix(shown('keptMix')[0].mix);
    if (!warm) throw new Error('not read');
    const elsewhere = {
      tracks: warm.tracks.slice(0, 1).map((one) => ({
        ...one,
        id: 'other',
        gainDb: -9,
        bands: [{ ...one.bands[0], hertz: 900 }],
      })),
    };
    expect(recallMix(elsewhere, 'Warm')).toEqual(['Track b', 'Track c', 'Track h']);
    expect(shown('track').map(({ gainDb }) => gainDb)).toEqual([-9, 0, 0, 0]);
    expect(shown('eqBand')).toMatchObject([{ trackId: 'a', positionId: 'close', hertz: 900 }]);
  });
  it('are copied to other sections as far as they have its positions', () => {
    copyMixTo('a', ['a', 'b', 'h'], 'Copy');
    expect([level('b'), level('b', 'close'), level('h'), level('h', 'far')]).toEqual([-3, -10, -3, -8]);
    expect(
      shown('eqBand')
        .map(({ trackId }) => trackId)
        .sort(),
    ).toEqual(['a', 'b', 'h']);
    undo();
    expect([level('b'), shown('eqBand').length]).toEqual([0, 1]);
  });
});

describe('a section that is fitted into a room', () => {
  it('gets tone of its positions beside what it had, and its mix, as one step', () => {
    const bands = [{ shape: 'high shelf' as const, hertz: 4000, gainDb: -3, q: 0.6 }];
    const { records } = useDocuments.getState();
    const kept = presentMix(records).tracks[0];
    const mix = { ...kept, muted: false, hallSendDb: -9 };
    fitTrackToRoom('a', [{ positionId: 'close', bands }], mix, 'Fit');
    expect(
      shown('eqBand')
        .map(({ positionId, gainDb }) => [positionId, gainDb])
        .sort(),
    ).toEqual([
      ['close', -3],
      ['close', 2],
    ]);
    expect(shown('track').find(({ id }) => id === 'a')?.hallSendDb).toBe(-9);
    undo();
    expect(shown('eqBand')).toHaveLength(1);
    expect(shown('track').find(({ id }) => id === 'a')?.hallSendDb).toBe(-14);
  });
});

describe('stems', () => {
  it('are given to a cell, or to all of a section, linked ones alike, and known by name', () => {
    const stem = (trackId: string, positionId: string) => cellOf(records(), { trackId, positionId })?.stem;
    expect(stemNames(records())).toEqual([]);
    sendTrackTo('h', 'Low brass');
    expect([stem('h', 'far'), stem('h', 'tree'), stem('a', 'tree')]).toEqual(['Low brass', 'Low brass', '']);
    changeCell({ trackId: 'a', positionId: 'tree' }, 'Stem', { stem: 'Air' });
    expect(stemNames(records())).toEqual(['Air', 'Low brass']);
    toggleFamilyLink('strings');
    changeCell({ trackId: 'a', positionId: 'close' }, 'Stem', { stem: 'Dry' });
    expect([stem('a', 'close'), stem('b', 'close'), stem('b', 'tree')]).toEqual(['Dry', 'Dry', '']);
    sendTrackTo('b', 'Strings');
    expect(['a', 'b', 'c'].map((id) => stem(id, 'tree'))).toEqual(['Strings', 'Strings', 'Strings']);
    sendTrackTo('b', '');
    expect(stemNames(records())).toEqual(['Low brass']);
    undo();
    expect(stem('a', 'close')).toBe('Strings');
  });
});

describe('mixes of several tracks', () => {
  it('are taken as one step', () => {
    const { records } = useDocuments.getState();
    const [a, b] = presentMix(records).tracks;
    takeMixes(
      [
        { trackId: 'a', mix: { ...a, muted: false, pan: -0.5 } },
        { trackId: 'b', mix: { ...b, muted: false, gainDb: -7 } },
      ],
      'Light',
    );
    const one = (id: string) => shown('track').find((track) => track.id === id);
    expect([one('a')?.pan, one('b')?.gainDb]).toEqual([-0.5, -7]);
    undo();
    expect([one('a')?.pan, one('b')?.gainDb]).toEqual([0, 0]);
  });
});

import { localStorageFake } from '../testing/browser.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { naturalId } from '#api/index.ts';
import { undo, useDocuments } from './documents.ts';
import * as listen from './listen.ts';

let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  localStorageFake.clear();
  page = await openPage({
    shelf: [{ id: 'shelf', name: 'Shelf' }],
    lineUp: [
      { id: 'l2', name: 'Slow' },
      { id: 'l1', name: 'Fast' },
    ],
    contender: [
      { id: 'c2', lineUpId: 'l1', instrumentId: 'v', articulation: 'long', place: 2 },
      { id: 'c1', lineUpId: 'l1', instrumentId: 'v', articulation: '', place: 1 },
      { id: 'c3', lineUpId: 'l2', instrumentId: 'w', articulation: '', place: 1 },
    ],
    criterion: [
      { id: 'k2', name: 'B', weight: 1, place: 2 },
      { id: 'k1', name: 'A', weight: 1, place: 1 },
    ],
    score: [{ id: 's', criterionId: 'k1', instrumentId: 'v', score: 4 }],
    gap: [{ id: 'g', name: 'Low choir', filledBy: '' }],
    eqBand: [
      { id: 'e', trackId: 't', positionId: '', shape: 'peak', hertz: 1, gainDb: 1, q: 1, active: false },
    ],
  });
});
afterEach(() => page.close());
const records = () => useDocuments.getState().records;
const labels = () => useDocuments.getState().undoLabel;

describe('line-ups', () => {
  it('are listed by name, their contenders by place', () => {
    expect(listen.lineUpsOf(records()).map(({ name }) => name)).toEqual(['Fast', 'Slow']);
    expect(listen.contendersOf(records(), 'l1').map(({ id }) => id)).toEqual(['c1', 'c2']);
    expect(listen.contendersOf(records(), undefined)).toEqual([]);
  });
  it('are chosen: the one asked for, the one looked at last, else the first', () => {
    const chosen = (id?: string) => listen.chosenLineUp(records(), id)?.id;
    expect([chosen(), chosen('l2'), chosen('gone')]).toEqual(['l1', 'l2', 'l1']);
    listen.rememberLineUp('l2');
    expect(chosen()).toBe('l2');
    expect(listen.chosenLineUp({}, undefined)).toBeUndefined();
  });
  it('are made, renamed, and removed with all that was said in them', () => {
    const id = listen.addLineUp('New');
    expect([shown('lineUp').length, listen.chosenLineUp(records(), undefined)?.id, labels()]).toEqual([
      3,
      id,
      'New line-up',
    ]);
    listen.renameLineUp(id, 'Newer');
    expect(shown('lineUp').find((one) => one.id === id)?.name).toBe('Newer');
    listen.togglePreference('l1', 'legato', 'c1');
    listen.addBlindRound('l1', 'legato', ['c2', 'c1']);
    listen.addBlindRound('l2', 'legato', ['c3']);
    listen.removeLineUp('l1');
    expect([
      shown('preference').length,
      shown('blindRound').length,
      shown('contender').map((one) => one.id),
      shown('lineUp').length,
    ]).toEqual([0, 1, ['c3'], 2]);
    undo();
    expect([shown('preference').length, shown('blindRound').length, shown('contender').length]).toEqual([
      1, 2, 3,
    ]);
  });
});

describe('contenders', () => {
  it('are added at the end, once each', () => {
    expect(listen.addContender('x', 'long', 'l1')).toEqual({ name: 'Fast', known: false });
    expect(listen.contendersOf(records(), 'l1').at(-1)).toMatchObject({
      instrumentId: 'x',
      articulation: 'long',
      place: 3,
    });
    expect(listen.addContender('x', 'long', 'l1')).toEqual({ name: 'Fast', known: true });
    expect(listen.addContender('x', '', 'l1').known).toBe(false);
    expect(listen.addContender('y', 'long', 'l1').known).toBe(false);
    expect(listen.contendersOf(records(), 'l1')).toHaveLength(5);
  });
  it('make the first line-up where there is none', () => {
    listen.removeLineUp('l1');
    listen.removeLineUp('l2');
    expect(listen.addContender('x', 'long')).toEqual({ name: 'Line-up', known: false });
    const [lineUp] = shown('lineUp');
    expect(listen.contendersOf(records(), lineUp.id)).toMatchObject([{ instrumentId: 'x', place: 1 }]);
  });
  it('change their technique, and go with the preferences given to them', () => {
    listen.changeContender('c2', 'staccato');
    expect(shown('contender').find((one) => one.id === 'c2')?.articulation).toBe('staccato');
    listen.togglePreference('l1', 'a', 'c1');
    listen.togglePreference('l1', 'a', 'c2');
    listen.removeContender('c1');
    expect(shown('preference').map((one) => one.contenderId)).toEqual(['c2']);
    expect(listen.contendersOf(records(), 'l1').map(({ id }) => id)).toEqual(['c2']);
  });
  it('are preferred in a phrase, or no longer', () => {
    listen.togglePreference('l1', 'a', 'c1');
    expect([shown('preference'), labels()]).toEqual([
      [{ id: naturalId('preference', 'l1', 'a', 'c1'), lineUpId: 'l1', phrase: 'a', contenderId: 'c1' }],
      'Prefer a contender',
    ]);
    listen.togglePreference('l1', 'b', 'c1');
    listen.togglePreference('l1', 'a', 'c1');
    expect([shown('preference').map((one) => one.phrase), labels()]).toEqual([
      ['b'],
      'Take a preference back',
    ]);
  });
});

describe('what is said of sounds', () => {
  it('blind rounds are kept and forgotten by line-up', () => {
    listen.addBlindRound('l1', 'a', ['c2', 'c1']);
    listen.addBlindRound('l2', 'a', ['c3']);
    expect(shown('blindRound').find((one) => one.lineUpId === 'l1')?.ranking).toBe('c2|c1');
    listen.forgetBlindRounds('l1');
    expect(shown('blindRound').map((one) => one.lineUpId)).toEqual(['l2']);
  });
  it('phrases and remarks come and go', () => {
    const id = listen.addOwnPhrase({ name: 'P', suits: 'long', bpm: 90, written: '{}' });
    expect(shown('ownPhrase')).toMatchObject([{ id, name: 'P' }]);
    listen.removeOwnPhrase(id);
    listen.addRemark({ instrumentId: 'v', phrase: 'a', atSeconds: 1, text: 'thin' });
    expect([shown('ownPhrase'), shown('remark')[0].text]).toEqual([[], 'thin']);
    listen.removeRemark(shown('remark')[0].id);
    expect(shown('remark')).toEqual([]);
  });
  it('criteria are ordered, added at the end, weighed, and removed with their scores', () => {
    expect(listen.criteriaOf(shown('criterion')).map(({ name }) => name)).toEqual(['A', 'B']);
    listen.addCriterion('C');
    expect(listen.criteriaOf(shown('criterion')).at(-1)).toMatchObject({ name: 'C', weight: 1, place: 3 });
    listen.weighCriterion('k2', 3);
    expect(shown('criterion').find((one) => one.id === 'k2')?.weight).toBe(3);
    listen.removeCriterion('k1');
    expect([
      shown('score'),
      shown('criterion')
        .map((one) => one.name)
        .sort(),
    ]).toEqual([[], ['B', 'C']]);
  });
  it('scores are changed or given anew, one for each instrument and criterion', () => {
    listen.giveScore('v', 'k1', 7);
    listen.giveScore('v', 'k2', 5);
    expect(shown('score').map(({ id, score }) => [id, score])).toEqual(
      expect.arrayContaining([
        ['s', 7],
        [naturalId('score', 'k2', 'v'), 5],
      ]),
    );
    expect(shown('score')).toHaveLength(2);
  });
  it('gaps are noted, filled, opened again and removed', () => {
    listen.addGap('High brass');
    listen.fillGap('g', 'v');
    expect([shown('gap').find((one) => one.id === 'g')?.filledBy, labels()]).toEqual(['v', 'Fill a gap']);
    listen.fillGap('g', '');
    expect([shown('gap').find((one) => one.id === 'g')?.filledBy, labels()]).toEqual([
      '',
      'Open a gap again',
    ]);
    listen.removeGap('g');
    expect(shown('gap').map((one) => one.name)).toEqual(['High brass']);
  });
  it('a tone takes the place of the one a track has', () => {
    listen.giveTone('t', [{ shape: 'lowShelf', hertz: 100, gainDb: -3, q: 0.7 }] as never);
    expect(shown('eqBand')).toMatchObject([{ trackId: 't', hertz: 100, active: true }]);
    expect(labels()).toBe('Tone of the track');
    listen.giveTone('t', [], 'As recorded');
    expect([shown('eqBand'), labels()]).toEqual([[], 'As recorded']);
  });
});

import { describe, expect, it } from 'vitest';
import { Vocabulary } from '../catalogue/index.ts';
import { entry, keymapOf, source } from '../testing/keymaps.ts';
import {
  coverageOf,
  morphWindows,
  PLAIN_TOUCH,
  Repertoire,
  spreadMorph,
  Voicing,
  type Translation,
} from './index.ts';

const own = (...ids: string[]) => ids.map((id) => ({ id }));
const translation = (articulation: string, term: string, more: Partial<Translation> = {}): Translation => ({
  levelDb: 0,
  velocityLow: 1,
  velocityHigh: 127,
  articulation,
  term,
  ...more,
});
const found = (repertoire: Repertoire, term: string) => {
  const one = repertoire.find(term);
  return one && [one.term, one.distance, one.voiced.map(({ index }) => index)];
};

describe('what an instrument plays for a word of the house', () => {
  it('is its own, else the nearest stand-in in the order of the vocabulary', () => {
    const strings = new Repertoire(own('long', 'muted', 'off the string'));
    expect(found(strings, 'long')).toEqual(['long', 'own', [0]]);
    expect(found(strings, 'over fingerboard')).toEqual(['muted', 'near', [1]]);
    expect(found(strings, 'flute-like')).toEqual(['long', 'far', [0]]);
    expect(found(strings, 'staccato')).toEqual(['off the string', 'near', [2]]);
    // Nothing named: something that behaves alike in time, else anything.
    expect(found(strings, 'flutter')).toEqual(['long', 'near', [0]]);
    expect(found(strings, 'consonants')).toEqual(['off the string', 'far', [2]]);
    expect(found(strings, 'noises')).toEqual(['long', 'other', [0]]);
    expect(new Repertoire([]).find('long')).toBeUndefined();
  });
  it('takes a coloured technique’s plainer forms first', () => {
    expect(found(new Repertoire(own('long', 'tremolo')), 'tremolo, near bridge')).toEqual([
      'tremolo',
      'near',
      [1],
    ]);
    expect(found(new Repertoire(own('long', 'tremolo, muted')), 'tremolo, muted')).toEqual([
      'tremolo, muted',
      'own',
      [1],
    ]);
  });
  it('follows the house where it says otherwise than the import', () => {
    const told = new Repertoire(own('long', 'long 2', 'hit'), [
      translation('long 2', 'staccato', { levelDb: -3 }),
      translation('hit', 'staccato', { velocityLow: 100 }),
      translation('hit', 'accented'),
    ]);
    expect(found(told, 'staccato')).toEqual(['staccato', 'own', [1, 2]]);
    expect(found(told, 'accented')).toEqual(['accented', 'own', [2]]);
    expect(found(told, 'hit')).toEqual(['staccato', 'near', [1, 2]]);
    expect([0, 1, 2].map((index) => told.groupOf(index))).toEqual(['long', 'short', 'short']);
    expect(told.ownIndex('accented')).toBe(2);
    expect(told.ownIndex('tremolo')).toBe(-1);
  });
  it('knows the studio’s own words and their stand-ins', () => {
    const words = new Vocabulary([{ id: 'bowed glass', group: 'long', standIns: ['harmonics', 'muted'] }]);
    expect(found(new Repertoire(own('long', 'muted'), [], words), 'bowed glass')).toEqual([
      'muted',
      'near',
      [1],
    ]);
    // A core word keeps its behaviour in time whatever the studio says of it.
    const changed = new Vocabulary([{ id: 'staccato', group: 'long', standIns: ['pizzicato'] }]);
    expect(changed.term('staccato')).toMatchObject({ group: 'short', standIns: ['pizzicato'], tab: 'st' });
  });
});

describe('what sounds for a note', () => {
  const strings = new Repertoire(own('connected', 'long', 'near bridge', 'pizzicato', 'snapped', 'staccato'));
  const answer = (voicing: Voicing, id: string, velocity = 80) =>
    voicing.answer(id, velocity).map(({ index, levelDb, part }) => [index, levelDb, part]);
  it('is the articulation itself, the same object each time', () => {
    const plain = new Voicing(undefined, strings);
    expect(answer(plain, 'long')).toEqual([[1, 0, 'whole']]);
    expect(plain.answer('long', 80)).toBe(plain.answer('long', 80));
    expect(plain.answer('tremolo', 80)).toMatchObject([
      { wanted: 'tremolo', term: 'long', distance: 'near' },
    ]);
    expect(plain.indicesOf('long')).toEqual([1]);
  });
  it('is told where it is another than was asked for, or nothing', () => {
    const voicing = new Voicing(
      keymapOf([entry('tremolo', 30, { sources: [source('long')] })]),
      new Repertoire(own('long', 'muted')),
    );
    expect(voicing.standInFor('long', 84)).toBeUndefined();
    expect(voicing.standInFor('over fingerboard', 84)).toBe('muted');
    expect(voicing.standInFor('pizzicato', 84)).toBe('long');
    // What a keymap says plays it is its own.
    expect(voicing.standInFor('tremolo', 84)).toBeUndefined();
    expect(new Voicing(undefined, new Repertoire([])).standInFor('long', 84)).toBeNull();
  });
  it('is split by velocity, layered with levels, and an attack comes after what it is laid on', () => {
    const keymap = keymapOf([
      entry('pizzicato', 24, {
        sources: [source('pizzicato', { velocityHigh: 111 }), source('snapped', { velocityLow: 112 })],
      }),
      entry('long', 25, {
        sources: [
          source('staccato', { part: 'attack', levelDb: -4 }),
          source('long'),
          source('near bridge', { levelDb: -9 }),
        ],
      }),
    ]);
    const voicing = new Voicing(keymap, strings);
    expect([1, 111, 112, 127].map((velocity) => answer(voicing, 'pizzicato', velocity)[0][0])).toEqual([
      3, 3, 4, 4,
    ]);
    expect(answer(voicing, 'long')).toEqual([
      [1, 0, 'whole'],
      [2, -9, 'whole'],
      [5, -4, 'attack'],
    ]);
    expect(voicing.indicesOf('pizzicato')).toEqual([3, 4]);
    expect(voicing.indicesOf('long').sort()).toEqual([1, 2, 5]);
  });
  it('shares the velocities among articulations that are one word, and adds their levels', () => {
    const split = new Repertoire(own('soft', 'hard'), [
      translation('soft', 'staccato', { velocityHigh: 80, levelDb: 2 }),
      translation('hard', 'staccato', { velocityLow: 81 }),
    ]);
    const keymap = keymapOf([entry('staccato', 24, { sources: [source('staccato', { levelDb: -1 })] })]);
    const voicing = new Voicing(keymap, split);
    expect(answer(voicing, 'staccato', 80)).toEqual([[0, 1, 'whole']]);
    expect(answer(voicing, 'staccato', 81)).toEqual([[1, -1, 'whole']]);
  });
  it('gets the attack of a short where it is struck hard and the keymap says so', () => {
    const keymap = {
      ...keymapOf({ long: 24, staccato: 25 }),
      touch: { ...PLAIN_TOUCH, hardAttackFrom: 100 },
    };
    const voicing = new Voicing(keymap, strings);
    expect(answer(voicing, 'long', 99)).toEqual([[1, 0, 'whole']]);
    expect(answer(voicing, 'long', 100)).toEqual([
      [1, 0, 'whole'],
      [5, 0, 'attack'],
    ]);
    expect(answer(voicing, 'staccato', 127)).toEqual([[5, 0, 'whole']]);
    expect(voicing.indicesOf('connected')).toEqual([0, 5]);
    const without = new Voicing(keymap, new Repertoire(own('long')));
    expect(answer(without, 'long', 127)).toEqual([[0, 0, 'whole']]);
  });
});

describe('a morph', () => {
  const three = [
    source('near bridge', { morphAt: 0 }),
    source('over fingerboard', { morphAt: 127 }),
    source('long', { morphAt: 50 }),
  ];
  it('lets each source be heard alone at its place, and two between', () => {
    const windows = morphWindows(three, 2);
    expect(three.map((one) => windows.get(one))).toEqual([
      { controller: 2, inLow: 0, inHigh: 0, outLow: 0, outHigh: 50 },
      { controller: 2, inLow: 50, inHigh: 127, outLow: 127, outHigh: 127 },
      { controller: 2, inLow: 0, inHigh: 50, outLow: 50, outHigh: 127 },
    ]);
  });
  it('is spread evenly in the order of its sources', () => {
    expect(spreadMorph(three).map(({ morphAt }) => morphAt)).toEqual([0, 64, 127]);
    expect(spreadMorph(three.slice(0, 1)).map(({ morphAt }) => morphAt)).toEqual([0]);
  });
  it('reaches what sounds', () => {
    const voicing = new Voicing(
      keymapOf([entry('long', 24, { sources: three, morph: 2 })]),
      new Repertoire(own('near bridge', 'long', 'over fingerboard')),
    );
    expect(
      voicing.answer('long', 80).map(({ index, morph }) => [index, morph?.inHigh, morph?.outLow]),
    ).toEqual([
      [0, 0, 0],
      [2, 127, 127],
      [1, 50, 50],
    ]);
  });
});

describe('coverage', () => {
  const instrument = (id: string, family: 'strings' | 'brass' | 'percussion', ...ids: string[]) => ({
    id,
    family,
    articulations: ids.map((one, i) => ({ id: one, layers: i + 1, takes: 2 })),
  });
  const of = (...instruments: ReturnType<typeof instrument>[]) => {
    const { terms, rows, counts } = coverageOf(instruments);
    return { rows: Object.fromEntries(terms.map((term, i) => [term, rows[i]])), counts, terms };
  };
  it('tells own, stand-in, missing, and what is no technique of the family', () => {
    const { rows, terms, counts } = of(
      instrument('violins', 'strings', 'long', 'pizzicato'),
      instrument('horns', 'brass', 'long', 'staccato'),
      instrument('drum', 'percussion', 'hit'),
    );
    expect(terms).toEqual(['long', 'staccato', 'pizzicato', 'hit']);
    expect(rows.long.map(({ state }) => state)).toEqual(['own', 'own', 'none']);
    expect(rows.long[0]).toEqual({ state: 'own', layers: 1, takes: 2 });
    expect(rows.pizzicato).toEqual([
      { state: 'own', layers: 2, takes: 2 },
      { state: 'none' },
      { state: 'none' },
    ]);
    expect(rows.staccato.map(({ state }) => state)).toEqual(['missing', 'own', 'none']);
    expect(counts[1]).toEqual({ own: 1, standIn: 0, missing: 1 });
    const near = of(instrument('a', 'strings', 'off the string'), instrument('b', 'strings', 'staccato'));
    expect(near.rows.staccato[0]).toEqual({ state: 'stand-in', standIn: 'off the string', distance: 'near' });
  });
  it('counts a second articulation of the same technique with the first, and lists what a cue asks for', () => {
    const { terms } = of(instrument('x', 'strings', 'long', 'long 2'));
    expect(terms).toEqual(['long']);
    const { terms: asked, rows } = coverageOf([instrument('x', 'strings', 'long')], undefined, ['harmonics']);
    expect(asked).toEqual(['long', 'harmonics']);
    expect(rows[1]).toEqual([{ state: 'stand-in', standIn: 'long', distance: 'far' }]);
  });
});

import { describe, expect, it } from 'vitest';
import {
  byNearness,
  colouredId,
  guessArticulation,
  partsOfId,
  positionName,
  Vocabulary,
  wordsOf,
} from './index.ts';

describe('coloured techniques', () => {
  it('are named by the technique, then its colours in one order, and taken apart again', () => {
    expect(colouredId('tremolo', ['near bridge', 'muted'])).toBe('tremolo, muted, near bridge');
    expect(colouredId('tremolo', [])).toBe('tremolo');
    expect(colouredId('long', [])).toBe('long');
    expect(colouredId('long', ['flute-like', 'muted'])).toBe('muted, flute-like');
    expect(colouredId('muted', ['muted', 'near bridge'])).toBe('muted, near bridge');
    expect(colouredId('tremolo', ['of glass'])).toBe('tremolo');
    expect(partsOfId('tremolo, muted, near bridge')).toEqual({
      base: 'tremolo',
      colours: ['muted', 'near bridge'],
    });
    expect(partsOfId('tremolo, muted 12')).toEqual({ base: 'tremolo', colours: ['muted'] });
    expect(partsOfId('bells, small')).toEqual({ base: 'bells, small', colours: [] });
  });
  it('are written with both words; one colour less stands in first, then the plain technique, then its own', () => {
    const words = new Vocabulary([
      { id: 'rocking', group: 'pattern', written: 'rock.', standIns: ['tremolo'] },
      { id: 'muted', group: 'long', written: 'mutes' },
      { id: 'near bridge', group: 'long', written: 'bridge' },
    ]);
    expect(words.term('rocking, muted, near bridge')).toMatchObject({
      id: 'rocking, muted, near bridge',
      name: 'rocking, muted, near bridge',
      group: 'pattern',
      written: 'rock. mutes bridge',
      standIns: ['rocking, near bridge', 'rocking, muted', 'rocking', 'tremolo'],
    });
    expect(words.term('rocking 2').standIns).toEqual(['tremolo']);
  });
});

describe('a studio’s own words', () => {
  const own = { id: 'Bowed glass', group: 'long', hints: ['glass bowed'] } as const;
  const core = new Vocabulary();
  const words = new Vocabulary([own, { id: 'staccato', group: 'long', written: 'dry' }]);
  it('come after the core list, complete; core words keep their place and their behaviour', () => {
    expect(words.terms.length).toBe(core.terms.length + 1);
    expect(words.terms.slice(0, -1).map(({ id }) => id)).toEqual(core.terms.map(({ id }) => id));
    expect(words.term('Bowed glass')).toEqual({
      id: 'Bowed glass',
      group: 'long',
      name: 'Bowed glass',
      tab: 'bo',
      written: 'Bowed glass',
      notated: 'words',
      hints: ['glass bowed'],
      standIns: [],
      families: ['strings', 'winds', 'brass', 'percussion', 'keys', 'choir'],
    });
    expect(words.term('staccato')).toEqual({ ...core.term('staccato'), written: 'dry' });
  });
  it('are known, as are colours and numbers of known ones, and nothing else', () => {
    const known = ['Bowed glass', 'Bowed glass 2', 'staccato', 'tremolo, muted', 'tremolo 3'];
    expect(known.map((id) => words.has(id))).toEqual(known.map(() => true));
    const unknown = ['glass', '', 'tremolo, of glass', 'Bowed glas'];
    expect(unknown.map((id) => words.has(id))).toEqual(unknown.map(() => false));
    expect(core.has('Bowed glass')).toBe(false);
  });
  it('are guessed from their hints, all words of one', () => {
    expect(words.guess('02 Glass, bowed')).toMatchObject({
      term: { id: 'Bowed glass' },
      hint: 'glass bowed',
    });
    expect(words.guess('Glass')).toBeUndefined();
    // Of two techniques in one label the one that is told with more letters.
    const two = new Vocabulary([
      { id: 'short one', group: 'short', hints: ['zap'] },
      { id: 'long one', group: 'long', hints: ['zapping'] },
    ]);
    expect(two.guess('zapping zap')?.term.id).toBe('long one');
    expect(two.guess('zap zapping')?.term.id).toBe('long one');
  });
});

describe('words of a label', () => {
  it('are runs of letters, also where only their case parts them', () => {
    expect(wordsOf('01_SusVib-pp Ärger')).toEqual(['sus', 'vib', 'pp', 'ärger']);
    expect(wordsOf('12 - 34')).toEqual([]);
    expect(guessArticulation('')).toBeUndefined();
  });
});

describe('positions', () => {
  it('have names, and stand near to far with unknown ones last, by name', () => {
    expect(['outriggers', 'x', ''].map(positionName)).toEqual(['Outriggers', 'X', '']);
    expect(['zebra', 'ambient', 'apple', 'close'].sort(byNearness).slice(-2)).toEqual(['apple', 'zebra']);
    expect(['ambient', 'close'].sort(byNearness)[0]).toBe('close');
    expect([byNearness('a', 'a'), byNearness('b', 'a'), byNearness('a', 'b')]).toEqual([0, 1, -1]);
  });
});

import { describe, expect, it } from 'vitest';
import type { FoundZone, WordKind } from '../formats/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import {
  guessFamily,
  KIT_PROGRAM,
  guessMeanings,
  meaningOf,
  NO_MEANING,
  suggestPattern,
  wordKey,
  type Meaning,
} from './index.ts';

const zone = (words: [kind: WordKind, text: string][], keyLow = 60, keyHigh = 72): FoundZone => ({
  sample: 'a.wav',
  rate: 48_000,
  instrument: 'Whistle',
  words: words.map(([kind, text]) => ({ kind, text })),
  zone: plainZone({ keyLow, keyHigh, samples: {} }),
});
const guess = (kind: WordKind, ...texts: string[]) =>
  guessMeanings(texts.map((text) => zone([[kind, text]])));
const says = (kind: WordKind, text: string) => {
  const [word] = guess(kind, text);
  return word && [word.articulation, word.position, word.reason];
};

describe('words of what is taken in', () => {
  it('are each listed once, with how many zones carry them and over which keys', () => {
    const words = guessMeanings([
      zone([['group label', 'Sus']], 50, 60),
      zone([['group label', 'SUS']], 40, 55),
      zone([['group label', 'sus']], 62, 70),
      zone([['region label', 'Sus']]),
    ]);
    expect(words.map((one) => [one.kind, one.text, one.zones, one.keyLow, one.keyHigh])).toEqual([
      ['group label', 'Sus', 3, 40, 70],
      ['region label', 'Sus', 1, 60, 72],
    ]);
  });
  it('say why they are taken for what they are', () => {
    expect(says('group label', 'tremolo')).toEqual(['tremolo', null, 'is the house word itself']);
    expect(says('group label', 'Tremolo A')).toEqual(['tremolo', null, 'says “tremolo”']);
    expect(says('group label', 'Trem')).toEqual(['tremolo', null, '“trem” stands for tremolo']);
    expect(says('group label', 'Trem Hall')).toEqual([
      'tremolo',
      'far',
      '“trem” stands for tremolo; “hall” stands for far',
    ]);
    expect(says('group label', 'Far 2')).toEqual([null, 'far', 'names the position far']);
    expect(says('group label', 'Zzz')).toEqual([null, null, 'no word Farlo knows']);
  });
  it('are weighed by where they stand', () => {
    // A hall in the name of a preset is an effect; a technique in a file name is told by its folder.
    expect(says('preset', 'Trem Hall')?.slice(0, 2)).toEqual(['tremolo', null]);
    expect(says('file name', 'Trem Hall')?.slice(0, 2)).toEqual([null, 'far']);
    // One part of a name says one thing.
    expect(says('name part', 'Trem Hall')?.slice(0, 2)).toEqual(['tremolo', null]);
    expect(says('name part', 'Hall')?.slice(0, 2)).toEqual([null, 'far']);
    // What says nothing is not asked about, unless somebody wrote it as a label.
    expect(guess('file name', 'Zzz', 'Trem')).toEqual([]);
    expect(guess('folder', 'Zzz')).toEqual([]);
    expect(guess('folder', 'Trem').length).toBe(1);
    expect(guess('switch label', 'Zzz').length).toBe(1);
  });
  it('mean what they meant before, whatever they say', () => {
    const before: Meaning = { ...NO_MEANING, articulation: 'muted', take: 0 };
    const word = { kind: 'group label', text: 'Trem' } as const;
    const [got] = guessMeanings([zone([['group label', 'trem']])], new Map([[wordKey(word), before]]));
    expect(got).toMatchObject({ ...before, reason: 'as you set it for this maker before' });
  });
});

describe('numbers in parts of names', () => {
  const numbers = (...texts: string[]) =>
    guess('name part', ...texts).map(({ text, take, layer }) => [text, take, layer]);
  it('count takes, from their first one on', () => {
    expect(numbers('RR1', 'rr_2', 'take 12', 't-3', 'var4', 'alt5', 'rt6')).toEqual([
      ['RR1', 0, null],
      ['rr_2', 1, null],
      ['take 12', 11, null],
      ['t-3', 2, null],
      ['var4', 3, null],
      ['alt5', 4, null],
      ['rt6', 5, null],
    ]);
    expect(numbers('rr0', 'rr2').map(([, take]) => take)).toEqual([0, 1]);
    expect(numbers('rr5', 'rr7').map(([, take]) => take)).toEqual([0, 2]);
  });
  it('count layers, from soft to loud however they are written', () => {
    expect(numbers('vel100', 'v20', 'l_64', 'dyn 127', 'layer9').map(([, , layer]) => layer)).toEqual([
      3, 1, 2, 4, 0,
    ]);
    expect(numbers('ff', 'mp', 'p', 'MF').map(([, , layer]) => layer)).toEqual([3, 1, 0, 2]);
    expect(guess('name part', 'vel100')[0].reason).toBe('counts loudness layers');
    expect(guess('name part', 'rr2')[0].reason).toBe('counts takes');
    expect(guess('name part', 'mf')[0].reason).toBe('is a written dynamic');
  });
  it('are none where something else stands beside them, and none elsewhere', () => {
    for (const text of ['xrr1', 'rr1x', 'rr1234', 'xv20', 'v20x', 'v2000', 'v', 'rr=1', 'v=20', 'p f'])
      expect(numbers(text)).toEqual([[text, null, null]]);
    const [label] = guess('group label', 'rr1');
    expect([label.take, label.layer]).toEqual([null, null]);
  });
});

describe('what a zone’s words say together', () => {
  it('is answered, question by question, by the first word that says something', () => {
    const meanings = new Map<string, Meaning>([
      ['group label: sus', { ...NO_MEANING, articulation: 'long', layer: 0 }],
      ['folder: trem', { ...NO_MEANING, articulation: 'tremolo', position: 'far', layer: 2, take: 3 }],
    ]);
    const found = zone([
      ['region label', 'unknown'],
      ['group label', 'Sus'],
      ['folder', 'Trem'],
    ]);
    expect(meaningOf(found, meanings)).toEqual({
      articulation: 'long',
      position: 'far',
      layer: 0,
      take: 3,
      instrument: null,
    });
  });
});

describe('the family of an instrument', () => {
  it('is told by a word of its name, else by its program', () => {
    expect(guessFamily('Horn')).toEqual({
      family: 'brass',
      kind: 'solo',
      isTold: true,
      reason: '“horn” is in its name',
    });
    expect(guessFamily('Zzz', 41)).toEqual({
      family: 'strings',
      kind: 'solo',
      isTold: true,
      reason: 'program 42 of General MIDI',
    });
    expect([7, 8, 127].map((program) => guessFamily('Zzz', program).family)).toEqual([
      'keys',
      'percussion',
      'other',
    ]);
    expect(guessFamily('Standard', KIT_PROGRAM)).toMatchObject({
      family: 'percussion',
      isTold: true,
      reason: 'it stands in the bank of drum kits',
    });
    expect(guessFamily('Zzz')).toMatchObject({ family: 'other', kind: 'solo', isTold: false });
  });
  it.each([
    [
      'winds',
      'English Horn',
      'Cor Anglais Solo',
      'Basset Horn',
      'Bass Clarinet',
      'Alto Sax',
      'Piccolo',
      'Alto Flute',
    ],
    ['winds', 'Contrabassoon', 'Pan Flute', 'Tenor Saxophones', 'Oboe 2'],
    [
      'brass',
      'French Horns',
      'Horn',
      'Bass Trombone',
      'Piccolo Trumpet',
      'Tenor Horn',
      'Wagner Tuba',
      'Contrabass Tuba',
    ],
    [
      'percussion',
      'Concert Bass Drum',
      'BassDrum',
      'Gran Cassa',
      'Drum Kit 1',
      'Jazz Kits',
      'Tubular Bells',
      'Snare',
      'Steel Drums',
    ],
    ['keys', 'Church Organ', 'Harp', 'Upright Piano', 'Celesta'],
    ['choir', 'Sopranos', 'Tenors & Basses', 'Women', 'Boys Choir', 'Choir Bass'],
    ['strings', 'Double Basses', 'Contrabass', 'Basses', 'Bass', 'Solo Violin', 'Celli', 'String Ensemble'],
    ['other', 'Bass Guitar', 'Synth Bass', 'Electric Bass', 'Nylon Guitar', 'Lamp'],
  ])('%s: %s and others', (family, ...names) => {
    expect(names.map((name) => [name, guessFamily(name).family])).toEqual(
      names.map((name) => [name, family]),
    );
  });
  it('is a section where the name says so, or is of several', () => {
    const kinds = (...names: string[]) => names.map((name) => guessFamily(name).kind);
    expect(kinds('Horns', 'Horn ensemble', 'Horn section')).toEqual(['section', 'section', 'section']);
    expect(kinds('Horn', 'Bass', 'Sax')).toEqual(['solo', 'solo', 'solo']);
  });
});

describe('a pattern for names', () => {
  it('follows what its parts look like, in the shape that most names have', () => {
    const names = ['Sus', 'Stacc'].flatMap((how) =>
      ['C3', 'F#3'].flatMap((note) => ['1', '2'].map((take) => `Horn_${how}_${note}-${take}.wav`)),
    );
    expect(suggestPattern([...names, 'read.me.first.wav'])).toBe('{instrument}_{articulation}_{note}-{take}');
    // Numbers beyond what takes count to are keys.
    expect(suggestPattern(['a_060.wav', 'a_072.wav'])).toBe('{instrument}_{note}');
    expect(suggestPattern(['a_b.wav', 'a_c5x.wav'])).toBeUndefined();
    expect(suggestPattern([])).toBeUndefined();
  });
});

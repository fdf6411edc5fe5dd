import { describe, expect, it } from 'vitest';
import type { FoundWord, FoundZone } from '../formats/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { assemble, wordKey, type Meaning } from './index.ts';

const NOTHING: Meaning = { articulation: null, position: null, layer: null, take: null, instrument: null };
const { samples: _, ...plain } = plainZone({ samples: {} });
const word = (kind: FoundWord['kind'], text: string): FoundWord => ({ kind, text });
const found = (sample: string, words: readonly FoundWord[], more: Partial<FoundZone> = {}): FoundZone => ({
  zone: plain,
  sample,
  instrument: 'Reed',
  words,
  rate: 48_000,
  ...more,
});
const means = (one: FoundWord, meaning: Partial<Meaning>) => ({ ...NOTHING, ...one, ...meaning });
/** Techniques as they come out: id, name, and what each zone plays. */
const made = (zones: readonly FoundZone[], meanings: readonly (FoundWord & Meaning)[] = []) =>
  assemble(zones, meanings)[0].articulations.map(({ id, name, zones: own }) => [
    id,
    name,
    own.map((zone) => Object.values(zone.samples).map(({ sample }) => sample)),
  ]);

describe('the name of a technique', () => {
  it('is what its group or region is called, the first of them; other words are no names', () => {
    expect(made([found('a', [word('group label', 'Breathy')])])).toEqual([['long', 'Breathy', [['a']]]]);
    expect(made([found('a', [word('region label', 'Edge')])])).toEqual([['long', 'Edge', [['a']]]]);
    expect(made([found('a', [word('folder', 'Samples'), word('group label', 'Breathy')])])).toEqual([
      ['long', 'Breathy', [['a']]],
    ]);
    expect(made([found('a', [word('region label', 'Edge'), word('group label', 'Breathy')])])).toEqual([
      ['long', 'Edge', [['a']]],
    ]);
    expect(
      made([found('a', [word('folder', 'Samples'), word('file name', 'a'), word('global label', 'All')])]),
    ).toEqual([['long', 'long', [['a']]]]);
  });
  it('is what its switch is called before anything else', () => {
    const words = [word('group label', 'Breathy'), word('switch label', 'Sustain')];
    const [one] = assemble([found('a', words, { switchKey: 24 })], [])[0].articulations;
    expect(one).toMatchObject({ id: 'long', name: 'Sustain', suggestedKey: 24 });
  });
  it('is told apart from another of its kind by a number', () => {
    const keyed = [24, 25, 26].map((switchKey) => found(`k${switchKey}`, [], { switchKey }));
    expect(made(keyed).map(([id]) => id)).toEqual(['long', 'long 2', 'long 3']);
  });
});

describe('the send to a hall', () => {
  const sent = (...shares: (number | undefined)[]) =>
    assemble(
      shares.map((hallSend, i) => found(`s${i}`, [], { hallSend })),
      [],
    )[0].hallSendDb;
  it('is what the middle one of its zones sends: a tenth of the amplitude is −20 dB', () => {
    expect(sent(0.1)).toBe(-20);
    expect(sent(1)).toBe(0);
    expect(sent(0.9, 0.1, 0.5)).toBe(-6);
  });
  it('is nobody’s word where most of them send nothing, or too little to be heard', () => {
    expect(sent(undefined)).toBeUndefined();
    expect(sent(undefined, 0.4, undefined)).toBeUndefined();
    expect(sent(0.0009)).toBeUndefined();
  });
});

describe('takes told by words', () => {
  const take = (n: number) => word('file name', `t${n}`);
  const meanings = [0, 1, 4].map((n) => means(take(n), { take: n }));
  it('follow each other, as many as there are on the same keys', () => {
    const zones = [0, 1, 4].map((n) => found(`s${n}`, [take(n)]));
    const [{ zones: own }] = assemble(zones, meanings)[0].articulations;
    expect(own.map(({ take: at, takes }) => [at, takes])).toEqual([
      [0, 3],
      [1, 3],
      [2, 3],
    ]);
  });
  it('stand in the place of what the file says itself', () => {
    const [{ zones: own }] = assemble(
      [
        found('a', [take(0)], { zone: { ...plain, take: 5, takes: 8 } }),
        found('b', [], { zone: { ...plain, take: 5, takes: 8, keyLow: 80, keyHigh: 90 } }),
      ],
      meanings,
    )[0].articulations;
    expect(own.map(({ take: at, takes }) => [at, takes])).toEqual([
      [0, 1],
      [5, 8],
    ]);
  });
  it('are counted key by key, layer by layer', () => {
    const layer = (n: number) => word('folder', `l${n}`);
    const both = [...meanings, means(layer(0), { layer: 0 }), means(layer(1), { layer: 1 })];
    const [{ zones: own }] = assemble(
      [
        found('a', [take(0), layer(0)]),
        found('b', [take(1), layer(0)]),
        found('c', [take(0), layer(1)]),
        found('d', [take(0)], { zone: { ...plain, keyLow: 80, keyHigh: 90 } }),
      ],
      both,
    )[0].articulations;
    expect(own.map(({ samples, take: at, takes }) => [samples.mix.sample, at, takes])).toEqual([
      ['a', 0, 2],
      ['b', 1, 2],
      ['c', 0, 1],
      ['d', 0, 1],
    ]);
  });
});

describe('positions', () => {
  const at = (name: string) => word('file name', name);
  const meanings = [means(at('cls'), { position: 'close' }), means(at('far'), { position: 'far' })];
  it('of zones alike in all else are one zone; it counts in frames of the finest recording', () => {
    const zone = { ...plain, startFrame: 10, loop: { start: 100, end: 200 } };
    const fine = { ...plain, startFrame: 20, loop: { start: 200, end: 400 } };
    const [{ zones: own }] = assemble(
      [
        found('a', [at('cls')], { zone, rate: 24_000 }),
        found('b', [at('far')], { zone: fine, rate: 48_000 }),
      ],
      meanings,
    )[0].articulations;
    expect(own).toHaveLength(1);
    expect(own[0]).toMatchObject({
      startFrame: 20,
      loop: { start: 200, end: 400 },
      samples: { close: { sample: 'a' }, far: { sample: 'b' } },
    });
  });
  it('are kept apart where two recordings are of one', () => {
    expect(made([found('a', [at('cls')]), found('b', [at('cls')])], meanings)).toEqual([
      ['long', 'long', [['a'], ['b']]],
    ]);
  });
  it('are told by labels that every zone has and that name no technique, where there are several', () => {
    const label = (text: string) => word('region label', text);
    const one = assemble([found('a', [label('Booth')]), found('b', [label('Window ')])], [])[0];
    expect(one.positions.map(({ id }) => id).sort()).toEqual(['booth', 'window']);
    // One label alone, a zone without one, or a label that names a technique, tells no position.
    const ids = (zones: readonly FoundZone[], more: readonly (FoundWord & Meaning)[] = []) =>
      assemble(zones, more)[0].positions.map(({ id }) => id);
    expect(ids([found('a', [label('Booth')]), found('b', [label('Booth')])])).toEqual(['mix']);
    expect(ids([found('a', [label('Booth')]), found('b', [])])).toEqual(['mix']);
    expect(
      ids(
        [found('a', [label('Booth')]), found('b', [label('Short')])],
        [means(label('Short'), { articulation: 'staccato' })],
      ),
    ).toEqual(['mix']);
  });
  it('of the whole file come before what words say', () => {
    const one = assemble([found('a', [at('cls')], { position: 'tree' })], meanings)[0];
    expect(one.positions.map(({ id }) => id)).toEqual(['tree']);
  });
});

describe('what belongs together', () => {
  it('is told by words for instruments; else by what the file says', () => {
    const low = word('preset', 'Low');
    const list = assemble([found('a', [low]), found('b', [])], [means(low, { instrument: 'Bass reed' })]);
    expect(list.map(({ name }) => name)).toEqual(['Bass reed', 'Reed']);
    expect(wordKey(low)).toBe('preset: low');
  });
  it('is a release with the notes before it, where no word says another', () => {
    const short = word('group label', 'Shorts');
    const release = { ...plain, role: 'release' as const };
    const meanings = [means(short, { articulation: 'staccato' })];
    expect(
      made([found('a', [short]), found('end', [], { zone: release })], meanings).map(([id, , all]) => [
        id,
        all,
      ]),
    ).toEqual([['staccato', [['a'], ['end']]]]);
    // Without any before it, it is of the plain ones.
    expect(
      made([found('end', [], { zone: release }), found('a', [short])], meanings).map(([id]) => id),
    ).toEqual(['long', 'staccato']);
  });
  it('is a hit where it plays to its end and nothing names it', () => {
    expect(made([found('a', [], { zone: { ...plain, oneShot: true } })])).toEqual([['hit', 'hit', [['a']]]]);
  });
  it('is nothing where nothing was found', () => {
    expect(() => assemble([], [])).toThrow('No part of what was given can be played.');
  });
});

import { describe, expect, it } from 'vitest';
import type { SampleFacts } from '../formats/index.ts';
import {
  assemble,
  foundInNames,
  guessFamily,
  guessMeanings,
  nameFiles,
  readPattern,
  suggestPattern,
  wordKey,
  type Meaning,
  type NamedFile,
} from './index.ts';

const tokens = (pattern: string) => {
  const read = readPattern(pattern);
  if (typeof read === 'string') throw new Error(read);
  return read;
};
const facts = (files: readonly NamedFile[]): Map<string, SampleFacts> =>
  new Map(files.map(({ path }) => [path, { frames: 1000, rate: 48_000, loops: [] }]));

const NAMES = ['Whistle', 'Horn'].flatMap((instrument) =>
  ['Sus', 'Stacc'].flatMap((technique) =>
    ['C3', 'F#3', 'C4'].flatMap((note) =>
      ['p', 'f'].flatMap((dynamic) =>
        (technique === 'Stacc' ? ['RR1', 'RR2', 'RR3'] : ['RR1']).flatMap((take) =>
          ['Close', 'Far'].map(
            (mic) => `box/${instrument}_${technique}_${note}_${dynamic}_${take}_${mic}.wav`,
          ),
        ),
      ),
    ),
  ),
);

describe('names of files', () => {
  it('are read by a pattern; what does not fit says why', () => {
    const named = nameFiles(
      ['a/Bell_C4_f.wav', 'a/Bell_Bb-1_p.flac', 'a/Bell_72_p.wav', 'a/Bell_H4_p.wav', 'a/readme.wav'],
      tokens('{instrument}_{note}_{layer}'),
      4,
    );
    expect(named.map(({ root, problem }) => root ?? problem)).toEqual([
      60,
      10,
      72,
      '“H4” is no note',
      'the pattern does not fit its name',
    ]);
    expect(nameFiles(['Bell_C3_f.wav'], tokens('{instrument}_{note}_{layer}'), 3)[0].root).toBe(60);
    expect(nameFiles(['Bell-fs3.wav'], tokens('{instrument}-{note}'), 4)[0].root).toBe(54);
  });
  it('refuse patterns that make no sense, with a sentence', () => {
    expect(readPattern('{note}{layer}')).toMatch(/there must be a character/);
    expect(readPattern('{note}_{colour}')).toMatch(/no part of a name/);
    expect(readPattern('{instrument}')).toMatch(/needs a \{note\}/);
    expect(readPattern('{note}_{note}')).toMatch(/stands there twice/);
    // What is passed over may stand there as often as it likes.
    expect(typeof readPattern('{anything}_{note}_{anything}')).toBe('object');
    expect(readPattern(`{note}${'x'.repeat(400)}`)).toMatch(/at most \d+ characters/);
  });
  it('are not taken for rules: special characters in a pattern stand for themselves', () => {
    expect(
      nameFiles(['a(b)+C4.wav', 'aab C4.wav'], tokens('a(b)+{note}'), 4).map((file) => file.root),
    ).toEqual([60, undefined]);
  });
  it('give a pattern away by what their parts look like', () => {
    expect(suggestPattern(NAMES)).toBe('{instrument}_{articulation}_{note}_{layer}_{take}_{position}');
    expect(suggestPattern(['bell 60 v1.wav', 'bell 66 v1.wav', 'bell 72 v2.wav'])).toContain('{note}');
    expect(suggestPattern(['one.wav', 'two.wav'])).toBeUndefined();
    // Most of the names tell, whatever comes first.
    const odd = ['about these files.wav', 'Reed-C4.wav'];
    const most = ['Reed_C4.wav', 'Reed_D4.wav', 'Reed_E4.wav'];
    expect(suggestPattern([...odd, ...most])).toBe('{instrument}_{note}');
    expect(suggestPattern([...most, ...odd])).toBe('{instrument}_{note}');
    expect(suggestPattern([])).toBeUndefined();
    // An instrument of two words is one; where blanks part everything, what ends it cannot be told.
    const two = ['Gangway Whistle_Stacc_60_f.wav', 'Gangway Whistle_Stacc_62_p.wav'];
    expect(suggestPattern(two)).toBe('{instrument}_{articulation}_{note}_{layer}');
    const [named] = nameFiles(two, tokens(suggestPattern(two) ?? ''), 4);
    expect(named).toMatchObject({
      root: 60,
      parts: { instrument: 'Gangway Whistle', articulation: 'Stacc' },
    });
    expect(suggestPattern(['Old Gangway Whistle-C4.wav', 'Old Gangway Whistle-D4.wav'])).toBe(
      '{instrument}-{note}',
    );
    expect(suggestPattern(['Gangway Whistle C4.wav', 'Gangway Whistle D4.wav'])).toBe(
      '{instrument} {anything} {note}',
    );
  });
  it.each('p pp ppp f ff fff mp mf soft med medium loud hard v1 v12 vel3 vel100 l2 l10'.split(' '))(
    'tell a layer by %s',
    (word) => {
      expect(suggestPattern([`Reed_C4_${word}.wav`, `Reed_D4_${word.toUpperCase()}.wav`])).toBe(
        '{instrument}_{note}_{layer}',
      );
    },
  );
  it.each(['pppp', 'ffff', 'mx', 'vx', 'velx', 'lx', 'softly', 'oversoft'])('tell none by %s', (word) => {
    expect(suggestPattern([`Reed_C4_${word}.wav`, `Reed_D4_${word}.wav`])).not.toContain('{layer}');
  });
  it('have no instrument where no part is left for its name', () => {
    expect(suggestPattern(['C4_f.wav', 'D4_p.wav'])).toBe('{note}_{layer}');
  });
  it('become instruments with techniques, layers, takes and positions', () => {
    const named = nameFiles(NAMES, tokens(suggestPattern(NAMES) ?? ''), 4);
    const found = foundInNames(named, facts(named), 'Box');
    const made = assemble(found, guessMeanings(found));
    expect(made.map((one) => one.name)).toEqual(['Whistle', 'Horn']);
    const [{ articulations, positions }] = made;
    expect(positions.map((p) => p.id)).toEqual(['close', 'far']);
    expect(articulations.map((a) => [a.id, a.zones.length])).toEqual([
      ['long', 6],
      ['staccato', 18],
    ]);
    const [long, staccato] = articulations;
    // Held notes cross over dynamics; short ones are split by velocity.
    expect(long.zones.filter((zone) => zone.rootKey === 48).map((zone) => zone.fades[0]?.controller)).toEqual(
      [1, 1],
    );
    expect(new Set(staccato.zones.map((z) => `${z.velocityLow}-${z.velocityHigh}`))).toEqual(
      new Set(['1-64', '65-127']),
    );
    expect(new Set(staccato.zones.map((z) => `${z.take}/${z.takes}`))).toEqual(
      new Set(['0/3', '1/3', '2/3']),
    );
    // Keys between two roots are shared out; every key in between belongs to one of them.
    const spans = long.zones.filter((zone) => zone.fades[0].inLow === 0).map((z) => [z.keyLow, z.keyHigh]);
    expect(spans).toEqual([
      [45, 51],
      [52, 57],
      [58, 63],
    ]);
    expect(Object.keys(long.zones[0].samples)).toEqual(['close', 'far']);
  });
});

describe('recordings by name', () => {
  const shots = (name: string, loops: SampleFacts['loops'] = []) => {
    const named = nameFiles([name], tokens('{articulation}_{note}'), 4);
    return foundInNames(named, new Map([[name, { frames: 9, rate: 48_000, loops }]]), 'Reed')[0].zone.oneShot;
  };
  it('play to their end where their technique is short, swells or plays a pattern, and no loop holds them', () => {
    expect(['staccato_C4.wav', 'crescendo_C4.wav', 'fall_C4.wav'].map((name) => shots(name))).toEqual([
      true,
      true,
      true,
    ]);
    expect(['sustain_C4.wav', 'legato_C4.wav', 'zorp_C4.wav'].map((name) => shots(name))).toEqual([
      false,
      false,
      false,
    ]);
    expect(shots('staccato_C4.wav', [{ start: 1, end: 5 }])).toBe(false);
  });
});

describe('what words mean', () => {
  const named = nameFiles(
    ['Bell_Bow_C4.wav', 'Bell_Zing_C4.wav'],
    tokens('{instrument}_{articulation}_{note}'),
    4,
  );
  const found = foundInNames(named, facts(named), 'Bell');
  it('is guessed with a reason, and shown even when nothing is known', () => {
    expect(guessMeanings(found).map((word) => [word.text, word.articulation, word.reason])).toEqual([
      ['Bow', null, 'no word Farlo knows'],
      ['Zing', null, 'no word Farlo knows'],
    ]);
  });
  it('is remembered for a maker, and can be corrected', () => {
    const bow = guessMeanings(found)[0];
    const remembered = new Map<string, Meaning>([
      [wordKey(bow), { articulation: 'tremolo', position: null, layer: null, take: null, instrument: null }],
    ]);
    const words = guessMeanings(found, remembered);
    expect(words[0]).toMatchObject({
      articulation: 'tremolo',
      reason: 'as you set it for this maker before',
    });
    const [made] = assemble(
      found,
      words.map((word) => (word.text === 'Zing' ? { ...word, articulation: 'hit', position: 'spot' } : word)),
    );
    expect(made.articulations.map((a) => a.id)).toEqual(['tremolo', 'hit']);
    expect(made.positions.map((p) => p.id)).toEqual(['spot', 'mix']);
  });
  it('is told of families by words and programs', () => {
    expect(guessFamily('Violins 2')).toMatchObject({ family: 'strings', kind: 'section' });
    expect(guessFamily('Solo Oboe')).toMatchObject({ family: 'winds', kind: 'solo' });
    expect(guessFamily('Zing', 58)).toMatchObject({ family: 'brass' });
    expect(guessFamily('Zing')).toMatchObject({ family: 'other', reason: 'no word Farlo knows' });
  });
});

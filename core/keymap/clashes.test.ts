import { describe, expect, it } from 'vitest';
import { entry, keymapOf, source, trigger } from '../testing/keymaps.ts';
import {
  Agreement,
  assignKeys,
  compareKeymaps,
  describeTrigger,
  findAmbiguities,
  findClashes,
  firstArticulation,
  firstKeys,
  freeKey,
  keysPlayed,
  movedSwitch,
  octaveOff,
  PLAIN_RULES,
  Repertoire,
  type Clash,
  type ClashContext,
  type Entry,
  type Source,
} from './index.ts';

const VIOLINS = { low: 55, high: 94, name: 'Violins' };
const context: ClashContext = { ranges: [VIOLINS] };
const clashesOf = (entries: readonly Entry[], more: Partial<ClashContext> = {}) =>
  findClashes(keymapOf(entries), { ...context, ...more });
const kinds = (clashes: readonly Clash[]) => clashes.map(({ kind }) => kind);
const ranged = (id: string, kind: 'velocity' | 'controller', low: number, high: number, number = 32) =>
  entry(id, [trigger({ id: `t ${id}`, kind, number, low, high })]);

describe('clashes', () => {
  it('let a clean keymap pass', () => {
    expect(clashesOf([entry('long', 24), entry('staccato', 25)])).toEqual([]);
  });
  it('name a switch inside a playing range, and move it to the nearest free key', () => {
    const [clash] = clashesOf([entry('long', 24), entry('staccato', 60)]);
    expect(clash).toMatchObject({ kind: 'inside range', refused: false, triggerId: 'trigger staccato' });
    expect(clash.sentence).toBe(
      'C4 is a note of Violins (G3 to A#6); as the trigger of staccato it can no longer sound.',
    );
    expect(clash.repair).toEqual({
      text: 'Move it to F#3',
      changes: [{ what: 'trigger', id: 'trigger staccato', fields: { number: 54 } }],
    });
  });
  it('count octaves as is wished', () => {
    expect(clashesOf([entry('long', 60)], { middleC: 3 })[0].sentence).toContain('C3 is a note of');
  });
  it('name the range of whichever instrument it falls into', () => {
    const basses = { low: 28, high: 60, name: 'Basses' };
    expect(clashesOf([entry('long', 30)], { ranges: [VIOLINS, basses] })[0].sentence).toContain('of Basses');
    expect(clashesOf([entry('long', 94)])).toHaveLength(1);
    expect(clashesOf([entry('long', 95)])).toEqual([]);
    expect(clashesOf([entry('long', 54)])).toEqual([]);
  });
  it('refuse the same trigger twice, of every kind, with another place for it', () => {
    const twice = (kind: 'key' | 'program' | 'channel' | 'bank', number: number) =>
      clashesOf([
        entry('long', [trigger({ id: 'a', kind, number })]),
        entry('staccato', [trigger({ id: 'b', kind, number })]),
      ])[0];
    expect(twice('key', 24)).toMatchObject({
      kind: 'twice',
      refused: true,
      entryId: 'entry staccato',
      sentence: 'C1 already selects long; it cannot select staccato as well.',
      repair: { text: 'Move it to B0', changes: [{ fields: { number: 23 } }] },
    });
    expect(twice('program', 0)).toMatchObject({
      sentence: 'Program 1 already selects long; it cannot select staccato as well.',
      repair: { text: 'Use program 2', changes: [{ id: 'b', fields: { number: 1 } }] },
    });
    expect(twice('channel', 0).repair?.changes).toMatchObject([{ fields: { number: 1 } }]);
    expect(twice('bank', 5).repair?.changes).toMatchObject([{ fields: { number: 0 } }]);
  });
  it('share the values out where two ranges are the same', () => {
    const [clash] = clashesOf([ranged('long', 'velocity', 1, 127), ranged('staccato', 'velocity', 1, 127)]);
    expect(clash.kind).toBe('twice');
    expect(clash.repair).toEqual({
      text: 'Share the values among 2 articulations',
      changes: [
        { what: 'trigger', id: 't long', fields: { low: 1, high: 63 } },
        { what: 'trigger', id: 't staccato', fields: { low: 64, high: 127 } },
      ],
    });
    const [other] = clashesOf([
      ranged('long', 'controller', 0, 127),
      ranged('staccato', 'controller', 0, 127),
    ]);
    expect(other.repair?.changes).toMatchObject([
      { fields: { low: 0, high: 63 } },
      { fields: { low: 64, high: 127 } },
    ]);
  });
  it('refuse ranges that overlap, say where, and cut one of them', () => {
    const [clash] = clashesOf([ranged('long', 'velocity', 1, 80), ranged('accented', 'velocity', 70, 127)]);
    expect(clash).toMatchObject({ kind: 'overlap', refused: true, triggerId: 't accented' });
    expect(clash.sentence).toBe(
      'Velocity from 70 to 127 selects accented, and 1 to 80 selects long: between 70 and 80 it would be both.',
    );
    expect(clash.repair?.changes).toMatchObject([{ fields: { low: 81, high: 127 } }]);
    const [below] = clashesOf([ranged('long', 'controller', 64, 127), ranged('muted', 'controller', 0, 64)]);
    expect(below.repair?.changes).toMatchObject([{ fields: { low: 0, high: 63 } }]);
    // Side by side, or of two controllers, they are fine.
    expect(clashesOf([ranged('long', 'velocity', 1, 80), ranged('accented', 'velocity', 81, 127)])).toEqual(
      [],
    );
    expect(
      clashesOf([ranged('long', 'controller', 0, 127, 32), ranged('muted', 'controller', 0, 127, 33)]),
    ).toEqual([]);
  });
  it('tell what needs more to be ambiguous from what does not', () => {
    const key = (id: string) => trigger({ id, number: 24 });
    const velocity = (id: string, low: number) => trigger({ id, kind: 'velocity', low, high: 127 });
    // A key alone, and the same key struck hard: the second asks for more.
    expect(
      findAmbiguities(keymapOf([entry('a', [key('1')]), entry('b', [key('2'), velocity('3', 100)])])),
    ).toEqual([]);
    // The same key with two conditions of the note that a note can meet together.
    const channel = trigger({ id: 'c', kind: 'channel', number: 1 });
    expect(
      kinds(
        findAmbiguities(
          keymapOf([entry('a', [key('1'), channel]), entry('b', [key('2'), velocity('3', 100)])]),
        ),
      ),
    ).toEqual(['twice']);
    // Two sets of one entry may say the same.
    const sets = [key('1'), { ...key('2'), set: 1 }];
    expect(findAmbiguities(keymapOf([entry('a', sets)]))).toEqual([]);
    // A key that latches, and one that selects while held.
    const held = { ...key('2'), hold: 'held' as const };
    expect(findAmbiguities(keymapOf([entry('a', [key('1')]), entry('b', [held])]))).toEqual([]);
  });
  it('refuse what MIDI does not know', () => {
    const [clash] = clashesOf([entry('long', [trigger({ id: 'a', number: 130 })])]);
    expect(clash).toMatchObject({ kind: 'outside', refused: true, repair: { text: 'Move it to G9' } });
    expect(kinds(clashesOf([ranged('long', 'controller', 90, 20)]))).toEqual(['outside']);
    expect(kinds(clashesOf([entry('long', [trigger({ id: 'a', kind: 'channel', number: 16 })])]))).toEqual([
      'outside',
    ]);
    expect(clashesOf([entry('long', [trigger({ id: 'a', kind: 'bank', number: 16383 })])])).toEqual([]);
  });
  it('refuse velocities at which nothing would sound', () => {
    const sources = [
      source('pizzicato', { id: 'p', velocityHigh: 99 }),
      source('snapped', { id: 's', velocityLow: 110 }),
    ];
    const [clash] = clashesOf([entry('pizzicato', 24, { sources })]);
    expect(clash).toMatchObject({ kind: 'silent velocities', refused: true });
    expect(clash.sentence).toContain('silent at velocities 100 to 109');
    expect(clash.repair?.changes).toEqual([
      { what: 'source', id: 'p', fields: { velocityLow: 1, velocityHigh: 109 } },
    ]);
    const low = [source('pizzicato', { id: 'p', velocityLow: 20 })];
    expect(clashesOf([entry('pizzicato', 24, { sources: low })])[0].repair?.changes).toMatchObject([
      { fields: { velocityLow: 1, velocityHigh: 127 } },
    ]);
    const high = [source('pizzicato', { id: 'p', velocityHigh: 100 })];
    expect(clashesOf([entry('pizzicato', 24, { sources: high })])[0].sentence).toContain('101 to 127');
    // Layers that overlap are meant to.
    const layers = [source('long'), source('tremolo', { velocityLow: 90 })];
    expect(clashesOf([entry('long', 24, { sources: layers })])).toEqual([]);
  });
  it('tell what nothing selects, and give it a key', () => {
    const map = [entry('long', 24), entry('staccato', [])];
    const [clash] = clashesOf(map);
    expect(clash).toMatchObject({ kind: 'unreachable', refused: false, entryId: 'entry staccato' });
    expect(clash.repair).toMatchObject({
      text: 'Give it B0',
      changes: [{ what: 'new trigger', entryId: 'entry staccato', fields: { kind: 'key', number: 23 } }],
    });
    // What holds from the beginning is reached by doing nothing.
    expect(clashesOf([entry('long', [])])).toEqual([]);
  });
  it('tell that nothing holds from the beginning', () => {
    const map = { ...keymapOf([entry('staccato', 24), entry('long', 25)]), initial: '' };
    const [clash] = findClashes(map, context);
    expect(clash).toMatchObject({ kind: 'no default', repair: { text: 'Begin with long' } });
    expect(clash.repair?.changes).toEqual([{ what: 'initial', articulation: 'long' }]);
    expect(findClashes({ ...map, entries: [] }, context)).toEqual([]);
  });
  it('tell what only stands in, and what nothing near it can', () => {
    const played = { name: 'Horns', repertoire: new Repertoire([{ id: 'long' }, { id: 'accented' }]) };
    const map = [entry('long', 24), entry('staccato', 25), entry('noises', 26)];
    expect(clashesOf(map, { played }).map(({ kind, sentence }) => [kind, sentence])).toEqual([
      ['stands in', 'Horns have no staccato; accented stands in.'],
      ['stands in', 'Horns have no noises, and nothing near it.'],
    ]);
    const layered = [entry('long', 24, { sources: [source('long'), source('staccato')] })];
    expect(clashesOf(layered, { played })).toMatchObject([{ kind: 'stands in', entryId: 'entry long' }]);
  });
  it('tell where the other sections differ, and offer their key while it is free', () => {
    const elsewhere = new Map([['staccato', { key: 30, where: 'Violas, Cellos' }]]);
    const [clash] = clashesOf([entry('long', 24), entry('staccato', 25)], { elsewhere });
    expect(clash).toMatchObject({
      kind: 'differs',
      refused: false,
      sentence: 'staccato is on C#1 here and on F#1 in Violas, Cellos.',
      repair: { text: 'Use F#1 here too' },
    });
    expect(clashesOf([entry('long', 30), entry('staccato', 25)], { elsewhere })[0].repair).toBeUndefined();
    expect(clashesOf([entry('staccato', 30)], { elsewhere })).toEqual([]);
    const inside = new Map([['staccato', { key: 60, where: 'Flutes' }]]);
    expect(clashesOf([entry('staccato', 25)], { elsewhere: inside })[0].repair).toBeUndefined();
  });
});

describe('the keys most sections agree on', () => {
  const voice = (id: string, key: number, variantOf = '') => ({
    keymap: { ...keymapOf([entry('staccato', key)]), id, name: id },
    variantOf,
  });
  it('are told without the keymap itself and without its variants', () => {
    const all = [voice('violins', 25), voice('violas', 30), voice('cellos', 30), voice('own', 40, 'violins')];
    const agreement = new Agreement(all);
    expect(agreement.elsewhere(all[0]).get('staccato')).toEqual({ key: 30, where: 'violas, cellos' });
    expect(agreement.elsewhere(all[3]).get('staccato')).toEqual({ key: 30, where: 'violas, cellos' });
    expect(new Agreement([all[0], all[3]]).elsewhere(all[0]).size).toBe(0);
  });
  it('give way to one’s own key where as many are on it, else to the lower one', () => {
    const all = [voice('a', 31), voice('b', 31), voice('c', 30)];
    expect(new Agreement(all).elsewhere(all[0]).get('staccato')?.key).toBe(31);
    const split = [voice('a', 50), voice('b', 31), voice('c', 30)];
    expect(new Agreement(split).elsewhere(split[0]).get('staccato')?.key).toBe(30);
  });
});

describe('keys by rule', () => {
  const keymap = (keymapId: string, low: number, high: number, ...articulations: string[]) => ({
    keymapId,
    name: keymapId,
    articulations,
    ranges: [{ low, high, name: keymapId }],
  });
  const given = (...args: Parameters<typeof assignKeys>) =>
    assignKeys(...args).map(({ keymapId, articulation, key }) => `${keymapId} ${articulation} ${key}`);
  it('lie below the range with a guard, what is used most nearest', () => {
    const violins = keymap('v', 55, 94, 'long', 'staccato', 'tremolo');
    expect(
      given(
        [violins],
        { ...PLAIN_RULES, guardKeys: 3 },
        new Map([
          ['tremolo', 9],
          ['long', 2],
        ]),
      ),
    ).toEqual(['v tremolo 51', 'v long 50', 'v staccato 49']);
    expect(
      given([violins], { ...PLAIN_RULES, nearest: 'first', guardKeys: 0 }, new Map([['tremolo', 9]])),
    ).toEqual(['v long 54', 'v tremolo 53', 'v staccato 52']);
  });
  it('lie above, or where there is more room, and go to the other side when one is full', () => {
    expect(given([keymap('v', 55, 94, 'long')], { ...PLAIN_RULES, side: 'above' })).toEqual(['v long 97']);
    expect(given([keymap('h', 12, 60, 'long')], { ...PLAIN_RULES, side: 'wider' })).toEqual(['h long 63']);
    expect(given([keymap('v', 90, 100, 'long')], { ...PLAIN_RULES, side: 'wider' })).toEqual(['v long 87']);
    expect(given([keymap('p', 1, 100, 'long', 'staccato')], { ...PLAIN_RULES, guardKeys: 0 })).toEqual([
      'p long 0',
      'p staccato 101',
    ]);
  });
  it('are the same for one technique in all sections that have it', () => {
    const sections = [
      keymap('violins', 55, 94, 'long', 'staccato'),
      keymap('basses', 28, 60, 'long', 'pizzicato', 'staccato'),
    ];
    const keys = assignKeys(sections, PLAIN_RULES);
    const of = (articulation: string) =>
      keys.filter((one) => one.articulation === articulation).map(({ key }) => key);
    expect(of('long')).toEqual([25, 25]);
    expect(of('staccato')).toEqual([24, 24]);
    expect(of('pizzicato')).toEqual([23]);
    expect(keys[0].reason).toBe('C#1 is free in all 2 sections that have it');
    const apart = assignKeys(sections, { ...PLAIN_RULES, sameKeys: false });
    expect(apart.filter((one) => one.articulation === 'long').map(({ key }) => key)).toEqual([52, 25]);
  });
  it('fall back to the nearest key where no key suits all, and say so when none is left', () => {
    const low = keymap('low', 0, 120, 'long');
    const high = keymap('high', 118, 127, 'long');
    const keys = assignKeys([low, high], { ...PLAIN_RULES, guardKeys: 0 });
    expect(keys.map(({ key }) => key)).toEqual([121, 117]);
    expect(keys[0].reason).toContain('no key is free in all 2 sections');
    const [none] = assignKeys([keymap('all', 0, 127, 'long')], PLAIN_RULES);
    expect(none).toMatchObject({ key: undefined, reason: 'no key is left outside the playing range' });
  });
  it('never give one key twice, whatever the ranges', () => {
    for (let seed = 0; seed < 60; seed++) {
      const low = (seed * 37) % 100;
      const ids = ['long', 'staccato', 'tremolo', 'muted', 'pizzicato', 'accented'];
      const keymaps = [0, 1, 2].map((i) =>
        keymap(
          `k${i}`,
          (low + i * 11) % 100,
          Math.min(127, ((low + i * 11) % 100) + 20),
          ...ids.slice(i, i + 4),
        ),
      );
      const rules = { ...PLAIN_RULES, guardKeys: seed % 5, sameKeys: seed % 2 === 0 };
      const keys = assignKeys(keymaps, rules);
      for (const { keymapId, ranges } of keymaps) {
        const own = keys.filter((one) => one.keymapId === keymapId).map(({ key }) => key ?? -1);
        expect(new Set(own).size).toBe(own.length);
        for (const key of own)
          expect(key < ranges[0].low - rules.guardKeys || key > ranges[0].high + rules.guardKeys).toBe(true);
      }
    }
  });
  it('begin at C1 for what has no range', () => {
    const keys = assignKeys(
      [{ keymapId: 'x', name: 'x', articulations: ['long', 'staccato'], ranges: [] }],
      PLAIN_RULES,
    );
    expect(keys.map(({ key }) => key)).toEqual([24, 25]);
  });
});

describe('first keys', () => {
  it('keep the maker’s, and move those that would clash', () => {
    const list = [{ id: 'long', suggestedKey: 24 }, { id: 'staccato', suggestedKey: 60 }, { id: 'tremolo' }];
    expect(firstKeys(list, [VIOLINS])).toEqual([
      { articulation: 'long', key: 24 },
      { articulation: 'staccato', key: 54 },
      { articulation: 'tremolo', key: 23 },
    ]);
  });
  it('find none where there is none', () => {
    expect(freeKey(60, keysPlayed([{ low: 0, high: 127, name: '' }]), new Set())).toBeUndefined();
    expect(freeKey(60, new Set(), new Set([60, 59]))).toBe(61);
  });
  it('begin with long, else with what is not connected', () => {
    expect(firstArticulation(['connected', 'staccato', 'long'])).toBe('long');
    expect(firstArticulation(['connected', 'staccato'])).toBe('staccato');
    expect(firstArticulation(['connected'])).toBe('connected');
    expect(firstArticulation([])).toBe('long');
  });
});

describe('two keymaps held against each other', () => {
  it('differ in what selects, what sounds, and what only one has', () => {
    const mine = keymapOf([entry('long', 24), entry('staccato', 25), entry('muted', 26)]);
    const theirs = keymapOf([
      entry('staccato', 25, { sources: [source('staccato'), source('accented', { levelDb: -6 })] }),
      entry('long', [{ ...trigger({ id: 'other', number: 24 }), set: 3 }]),
      entry('tremolo', 27),
    ]);
    expect(compareKeymaps(mine, theirs)).toEqual([
      { articulation: 'staccato', mine: 'C#1', theirs: 'C#1; sounds accented, -6 dB and staccato' },
      { articulation: 'muted', mine: 'D1', theirs: undefined },
      { articulation: 'tremolo', mine: undefined, theirs: 'D#1' },
    ]);
    expect(compareKeymaps(mine, mine)).toEqual([]);
  });
  it('tell velocities, parts, morphs and what only marks select', () => {
    const layers = (fields: Partial<Source> = {}, morph?: number): Entry => ({
      ...entry('long', []),
      sources: [
        source('long', { velocityHigh: 99 }),
        source('hit', { velocityLow: 100, part: 'attack', ...fields }),
      ],
      ...(morph === undefined ? {} : { morph }),
    });
    const words = (one: Entry) => compareKeymaps(keymapOf([one]), keymapOf([]))[0].mine;
    expect(words(entry('long', []))).toBe('marks only');
    expect(words(layers())).toBe(
      'marks only; sounds hit, velocity 100 to 127, attack and long, velocity 1 to 99',
    );
    expect(words(layers({ morphAt: 64 }, 2))).toBe(
      'marks only; sounds hit, velocity 100 to 127, attack at 64 and long, velocity 1 to 99 at 0, morphed by controller 2',
    );
    // Where a source stands on a morph says nothing while there is none.
    expect(compareKeymaps(keymapOf([layers()]), keymapOf([layers({ morphAt: 64 })]))).toEqual([]);
  });
});

describe('triggers in words', () => {
  it('count channels and programs from 1, as devices show them', () => {
    const words = (fields: Parameters<typeof trigger>[0]) => describeTrigger(trigger(fields));
    expect(words({ id: '', number: 60 })).toBe('C4');
    expect(words({ id: '', number: 60, hold: 'held' })).toBe('C4 held');
    expect(describeTrigger(trigger({ id: '', number: 60 }), 3)).toBe('C3');
    expect(words({ id: '', kind: 'controller', number: 32, low: 0, high: 31 })).toBe(
      'Controller 32 from 0 to 31',
    );
    expect(words({ id: '', kind: 'velocity', low: 1, high: 99 })).toBe('Velocity from 1 to 99');
    expect(words({ id: '', kind: 'program', number: 0 })).toBe('Program 1');
    expect(words({ id: '', kind: 'bank', number: 7 })).toBe('Bank 7');
    expect(words({ id: '', kind: 'channel', number: 15 })).toBe('Channel 16');
    expect(words({ id: '', kind: 'track' })).toBe('A track of its own');
  });
});

describe('switches of a file that counts octaves otherwise', () => {
  const keymap = keymapOf({ long: 24, staccato: 25 });
  it('are found an octave or two away, and only when nothing fits as it is', () => {
    expect(octaveOff([36, 60, 37, 62], keymap, [VIOLINS])).toBe(-12);
    expect(octaveOff([12, 60], keymap, [VIOLINS])).toBe(12);
    expect(octaveOff([0, 1, 60], keymap, [VIOLINS])).toBe(24);
    expect(octaveOff([24, 36, 60], keymap, [VIOLINS])).toBe(0);
    expect(octaveOff([60, 62], keymap, [VIOLINS])).toBe(0);
    // One stray among others that fit nowhere is no reason.
    expect(octaveOff([36, 40, 41, 60], keymap, [VIOLINS])).toBe(0);
    expect(octaveOff([36], keymap, [])).toBe(0);
  });
  it('are moved, notes are not', () => {
    expect([36, 60, 120].map((key) => movedSwitch(key, 12, [VIOLINS]))).toEqual([48, 60, 127]);
  });
});

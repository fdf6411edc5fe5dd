import { describe, expect, it } from 'vitest';
import { plainZone } from '../testing/fixtures.ts';
import {
  acrossKeys,
  FAMILIES,
  groupShelf,
  lightEdition,
  markedSeconds,
  NO_FILTER,
  ShelfIndex,
  vibratoOf,
  type ShelfEntry,
  type Zone,
} from './index.ts';

const entry = (name: string, more: Partial<ShelfEntry> = {}): ShelfEntry => ({
  id: name,
  name,
  library: 'Large',
  maker: 'M',
  room: 'Hall',
  roomSound: 'wet',
  family: 'strings',
  kind: 'section',
  players: 8,
  tags: ['warm'],
  positions: ['close', 'far'],
  articulations: [{ id: 'long', name: 'long', low: 48, high: 84, vibrato: 'fixed' }],
  bytes: 1e6,
  price: 300,
  pricePerGb: 100,
  starred: false,
  verdict: '',
  note: '',
  ...more,
});

const SHELF = [
  entry('Violins I', {
    players: 10,
    articulations: [{ id: 'pizzicato', name: 'Pz', low: 55, high: 90, vibrato: 'fixed' }],
  }),
  entry('Violins II', { starred: true, verdict: 'keep' }),
  entry('Basses', {
    articulations: [{ id: 'connected', name: 'leg', low: 28, high: 55, vibrato: 'recorded' }],
    bytes: 3e6,
  }),
  entry('Horns B', {
    family: 'brass',
    library: 'Brass',
    players: 2,
    tags: ['soft'],
    note: 'late in soft attacks',
  }),
  entry('Solo oboe', { family: 'winds', library: 'Winds', kind: 'solo', players: 1, roomSound: 'dry' }),
];

describe('a shelf', () => {
  const index = new ShelfIndex(SHELF);
  const names = (filter: Partial<typeof NO_FILTER>) =>
    index.filter({ ...NO_FILTER, ...filter }).map((one) => one.name);

  it('is narrowed by any value within a facet and all facets together', () => {
    expect(names({ chosen: { family: ['brass', 'winds'] } })).toEqual(['Horns B', 'Solo oboe']);
    expect(names({ chosen: { family: ['strings'], plays: ['short', 'connected'] } })).toEqual([
      'Violins I',
      'Basses',
    ]);
    expect(names({ chosen: { register: ['low'] } })).toEqual(['Basses']);
    expect(names({ chosen: { character: ['dry'] } })).toEqual(['Solo oboe']);
    expect(names({ chosen: { players: ['9 and more'] } })).toEqual(['Violins I']);
    expect(names({ chosen: { verdict: ['keep'] } })).toEqual(['Violins II']);
    expect(names({ starred: true })).toEqual(['Violins II']);
  });
  it('is searched by words in names, techniques as musicians write them, tags and notes', () => {
    expect(names({ search: 'violins' })).toEqual(['Violins I', 'Violins II']);
    expect(names({ search: 'pizz' })).toEqual(['Violins I']);
    expect(names({ search: 'legato large' })).toEqual(['Basses']);
    expect(names({ search: 'late attacks' })).toEqual(['Horns B']);
    expect(names({ search: 'late violins' })).toEqual([]);
  });
  it('is narrowed by vibrato, size and price', () => {
    expect(names({ chosen: { vibrato: ['recorded, ridden'] } })).toEqual(['Basses']);
    expect(names({ chosen: { vibrato: ['as recorded'] } })).not.toContain('Basses');
    const priced = new ShelfIndex([
      entry('free', { price: 0, bytes: 10e6 }),
      entry('cheap', { price: 100, bytes: 10.1e6 }),
      entry('dear', { price: 500.5, bytes: 2e9 }),
      entry('given', { price: null, bytes: 1e9 }),
    ]);
    const found = (chosen: (typeof NO_FILTER)['chosen']) =>
      priced.filter({ ...NO_FILTER, chosen }).map(({ name }) => name);
    expect(found({ price: ['nothing'] })).toEqual(['free']);
    expect(found({ price: ['up to 100 marks'] })).toEqual(['cheap']);
    expect(found({ price: ['more than 500 marks', 'not known'] })).toEqual(['dear', 'given']);
    expect(found({ size: ['up to 10 MB'] })).toEqual(['free']);
    expect(found({ size: ['10 to 50 MB', 'more than 1 GB'] })).toEqual(['cheap', 'dear']);
    expect(found({ size: ['250 MB to 1 GB'] })).toEqual(['given']);
    // Bands stand in their own order, however many there are of each.
    const counts = priced.counts(NO_FILTER);
    expect(counts.price.map(({ value }) => value)).toEqual([
      'nothing',
      'up to 100 marks',
      'more than 500 marks',
      'not known',
    ]);
    expect(counts.size.map(({ value }) => value)[0]).toBe('up to 10 MB');
  });
  it('is searched by properties in the words the facets have for them', () => {
    expect(names({ search: 'solo player' })).toEqual(['Solo oboe']);
    expect(names({ search: 'dry one' })).toEqual(['Solo oboe']);
    expect(names({ search: 'short' })).toEqual(['Violins I']);
    expect(names({ search: 'vibrato' })).toEqual(['Basses']);
    expect(names({ search: 'ridden' })).toEqual(['Basses']);
    expect(names({ search: 'low far' })).toEqual(['Basses']);
  });
  it('counts what each value would leave beside the other facets', () => {
    const counts = index.counts({ ...NO_FILTER, chosen: { family: ['strings'] } });
    expect(counts.family).toEqual([
      { value: 'strings', count: 3 },
      { value: 'brass', count: 1 },
      { value: 'winds', count: 1 },
    ]);
    expect(counts.instrument.map(({ value, count }) => [value, count])).toEqual([
      ['Violins', 2],
      ['Basses', 1],
    ]);
    expect(counts.kind).toEqual([{ value: 'section', count: 3 }]);
    // What is chosen stays in sight even when nothing is left of it.
    expect(
      index.counts({ ...NO_FILTER, search: 'oboe', chosen: { family: ['strings'] } }).family,
    ).toContainEqual({
      value: 'strings',
      count: 0,
    });
  });
  it('is grouped in score order or by library, and ordered by a column', () => {
    const groups = groupShelf(SHELF, 'family', 'memory', true, FAMILIES);
    expect(groups.map((group) => group.name)).toEqual(['winds', 'brass', 'strings']);
    expect(groups[2].entries.map((one) => one.name)).toEqual(['Basses', 'Violins I', 'Violins II']);
    expect(groupShelf(SHELF, 'library', 'players', false, FAMILIES).map((group) => group.name)).toEqual([
      'Brass',
      'Large',
      'Winds',
    ]);
  });
  it('is one list in the chosen order where it is not divided', () => {
    const [all, ...more] = groupShelf(SHELF, 'none', 'players', true, FAMILIES);
    expect(more).toEqual([]);
    expect(all.entries.map(({ name }) => name)).toEqual([
      'Violins I',
      'Basses',
      'Violins II',
      'Horns B',
      'Solo oboe',
    ]);
    expect(groupShelf([], 'none', 'name', false, FAMILIES)).toEqual([]);
  });
  it('is ordered by every column, either way, then by name', () => {
    const three = [
      entry('B', { positions: ['close'], pricePerGb: null, players: 3, bytes: 2 }),
      entry('A', { positions: ['close', 'far', 'wide'], pricePerGb: 20, players: 1, bytes: 3 }),
      entry('C', { positions: ['close', 'far'], pricePerGb: 90, players: 2, bytes: 1 }),
      entry('D', { positions: ['close', 'far'], pricePerGb: null, players: 2, bytes: 1 }),
    ];
    const by = (order: Parameters<typeof groupShelf>[2], descending = false) =>
      groupShelf(three, 'family', order, descending, FAMILIES)[0]
        .entries.map(({ name }) => name)
        .join('');
    expect(by('name')).toBe('ABCD');
    expect(by('name', true)).toBe('DCBA');
    expect(by('positions')).toBe('BCDA');
    expect(by('positions', true)).toBe('ACDB');
    // What has no price costs more than anything.
    expect(by('price')).toBe('ACBD');
    expect(by('price', true)).toBe('BDCA');
    expect(by('players')).toBe('ACDB');
    expect(by('memory')).toBe('CDBA');
    const said = [
      entry('A', { room: 'Vault', verdict: '' }),
      entry('B', { room: 'Attic', verdict: 'reserve' }),
      entry('C', { room: 'Vault', verdict: 'keep' }),
    ];
    const inOrder = (order: Parameters<typeof groupShelf>[2]) =>
      groupShelf(said, 'none', order, false, FAMILIES)[0].entries.map(({ name }) => name);
    expect(inOrder('room')).toEqual(['B', 'A', 'C']);
    // What has no verdict yet comes behind those that have.
    expect(inOrder('verdict')).toEqual(['C', 'B', 'A']);
  });
});

describe('editions', () => {
  const zones = (layers: number, takes: number): Zone[] =>
    Array.from({ length: layers * takes }, (_, i) => {
      const layer = Math.floor(i / takes);
      return plainZone({
        keyLow: 40,
        keyHigh: 70,
        take: i % takes,
        takes,
        fades: [
          {
            controller: 1,
            inLow: layer * 40,
            inHigh: layer * 40 + (layer > 0 ? 20 : 0),
            outLow: layer === layers - 1 ? 127 : layer * 40 + 40,
            outHigh: layer === layers - 1 ? 127 : layer * 40 + 60,
          },
        ],
        samples: { close: { sample: `c${i}` }, far: { sample: `f${i}` } },
      });
    });
  const instrument = (name: string) => ({
    positions: [
      { id: 'close', name: 'Close' },
      { id: 'far', name: 'Far' },
    ],
    articulations: [
      { id: 'long', name: 'long', zones: zones(3, 4) },
      { id: `only ${name}`, name: 'x', zones: zones(1, 1) },
    ],
    samples: Object.fromEntries(
      Array.from({ length: 12 }, (_, i) => [`c${i}`, `f${i}`])
        .flat()
        .map((id) => [
          id,
          {
            id,
            frames: 10,
            channels: 2 as const,
            rate: 48_000,
            format: 'i16' as const,
            pack: id[0],
            headOffset: 0,
            headFrames: 1,
            tailOffset: 0,
          },
        ]),
    ),
    packs: {
      c: { id: 'c', articulation: 'long', position: 'close', headBytes: 0, bytes: 1 },
      f: { id: 'f', articulation: 'long', position: 'far', headBytes: 0, bytes: 1 },
    },
  });

  it('for small machines keep fewer positions, layers and takes of the same recordings, without a hole', () => {
    const light = lightEdition(instrument('a'), {
      positions: ['far'],
      layers: 2,
      takes: 2,
      articulations: ['long'],
    });
    expect(light.positions.map((p) => p.id)).toEqual(['far']);
    expect(light.articulations.map((a) => a.id)).toEqual(['long']);
    const kept = light.articulations[0].zones;
    expect(kept.map((zone) => [zone.take, zone.takes, Object.keys(zone.samples)])).toEqual(
      [0, 1, 0, 1].map((take) => [take, 2, ['far']]),
    );
    // The two layers left meet: where one fades out the other fades in.
    const [soft, loud] = [kept[0].fades[0], kept[2].fades[0]];
    expect([soft.outLow, soft.outHigh]).toEqual([loud.inLow, loud.inHigh]);
    expect([soft.inLow, loud.outHigh]).toEqual([0, 127]);
    expect(Object.keys(light.samples)).toEqual(['f0', 'f1', 'f8', 'f9']);
    expect(Object.keys(light.packs)).toEqual(['f']);
  });
  it('across the keys give each instrument its own, and join techniques of one name', () => {
    const whole = acrossKeys([
      { instrument: instrument('a'), low: 0, high: 54 },
      { instrument: instrument('b'), low: 55, high: 127 },
    ]);
    expect(whole.articulations.map((a) => a.id)).toEqual(['long', 'only a', 'only b']);
    expect(new Set(whole.articulations[0].zones.map((z) => `${z.keyLow}-${z.keyHigh}`))).toEqual(
      new Set(['40-54', '55-70']),
    );
  });
});

describe('the vibrato of a technique', () => {
  const samples = { mix: { sample: 's' } };
  const crossed = plainZone({
    samples,
    fades: [{ controller: 77, inLow: 0, inHigh: 127, outLow: 127, outHigh: 127 }],
  });
  const wave = { target: 'tuneCents' as const, depth: 0, hertz: 5, delaySeconds: 0, fadeSeconds: 0 };
  it('is ridden by crossing recordings, by bending them, or not at all', () => {
    expect(vibratoOf({ zones: [plainZone({ samples }), crossed] })).toBe('recorded');
    expect(
      vibratoOf({ zones: [plainZone({ samples, lfos: [{ ...wave, controller: 1, controllerDepth: 40 }] })] }),
    ).toBe('bent');
    expect(vibratoOf({ zones: [plainZone({ samples })] })).toBe('fixed');
  });
  it('is not ridden by what always sounds, by the filter, by how hard a key is struck, or after the note', () => {
    const never = [
      { ...wave, depth: 30 },
      { ...wave, controller: 1, controllerDepth: 0 },
      { ...wave, target: 'cutoffCents' as const, controller: 1, controllerDepth: 40 },
      { ...wave, controller: 129, controllerDepth: 40 },
    ];
    for (const lfo of never)
      expect(vibratoOf({ zones: [plainZone({ samples, lfos: [lfo] })] })).toBe('fixed');
    expect(vibratoOf({ zones: [{ ...crossed, role: 'release' }] })).toBe('fixed');
  });
});

describe('marked lengths', () => {
  it('are read from names that end with seconds, and from no others', () => {
    expect(
      [
        'swell 1.5 s',
        'Cresc 2s',
        'roll 3,25 sec',
        '12 second',
        '4 s swell',
        'roll',
        'take 2',
        'v2 strings',
      ].map((name) => markedSeconds({ name })),
    ).toEqual([1.5, 2, 3.25, 12, undefined, undefined, undefined, undefined]);
  });
});

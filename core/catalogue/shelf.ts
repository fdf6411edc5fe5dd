import type { ArticulationGroup } from './terms.ts';
import type { VibratoKind } from './vibrato.ts';
import { articulationTerm } from './vocabulary.ts';

/** Searching, counting and ordering what a studio owns. */

/** An instrument as the shelf sees it. */
export interface ShelfEntry {
  id: string;
  name: string;
  library: string;
  maker: string;
  room: string;
  roomSound: string;
  family: string;
  kind: string;
  players: number;
  tags: readonly string[];
  positions: readonly string[];
  articulations: readonly { id: string; name: string; low: number; high: number; vibrato: VibratoKind }[];
  /** Memory of everything. */
  bytes: number;
  /** Price of its library; null when unknown. */
  price: number | null;
  /** Price of its library per GB on the disk; null when unknown. */
  pricePerGb: number | null;
  starred: boolean;
  verdict: string;
  note: string;
}

/** The ways to narrow a shelf down, in the order in which they are offered. */
export const FACETS = [
  'family',
  'instrument',
  'kind',
  'plays',
  'vibrato',
  'register',
  'character',
  'positions',
  'players',
  'size',
  'price',
  'verdict',
] as const;
export type Facet = (typeof FACETS)[number];

/** What is chosen: within a facet any of the values, across facets all of them. */
export interface ShelfFilter {
  chosen: Partial<Record<Facet, readonly string[]>>;
  starred: boolean;
  /** Words that must all be found. */
  search: string;
}

export const NO_FILTER: ShelfFilter = { chosen: {}, starred: false, search: '' };

const GROUP_NAMES: Record<ArticulationGroup, string> = {
  long: 'long',
  short: 'short',
  connected: 'connected',
  dynamic: 'recorded dynamics',
  pattern: 'recorded pattern',
};
/** What kinds of instruments are called. */
export const KIND_NAMES: Record<string, string> = {
  section: 'section',
  solo: 'solo player',
  ensemble: 'across the keys',
};
/** What ways to ride a vibrato are called. */
export const VIBRATO_NAMES: Record<VibratoKind, string> = {
  recorded: 'recorded, ridden',
  bent: 'bent, ridden',
  fixed: 'as recorded',
};
const LOW_KEY = 43;
const MIDDLE_KEY = 60;
const HIGH_KEY = 84;

/** Values an entry has in a facet. */
export function facetValues(entry: ShelfEntry, facet: Facet): string[] {
  switch (facet) {
    case 'family':
      return [entry.family];
    case 'instrument':
      return [plainName(entry.name)];
    case 'kind':
      return [KIND_NAMES[entry.kind] ?? entry.kind];
    case 'plays':
      return [...new Set(entry.articulations.map(({ id }) => GROUP_NAMES[articulationTerm(id).group]))];
    case 'vibrato':
      return vibratosOf(entry);
    case 'register':
      return registersOf(entry);
    case 'character':
      return [...new Set([entry.roomSound, ...entry.tags])];
    case 'positions':
      return [...entry.positions];
    case 'players':
      return [bandOf(PLAYERS, entry.players)];
    case 'size':
      return [bandOf(SIZES, entry.bytes / 1e6)];
    case 'price':
      return [entry.price === null ? 'not known' : bandOf(PRICES, entry.price)];
    case 'verdict':
      return [entry.verdict === '' ? 'none yet' : entry.verdict];
  }
}

/** Name of an instrument without numbers and letters that tell its likes apart: `Horns B` → `Horns`. */
function plainName(name: string): string {
  return name
    .replace(/^(solo|combined) /i, '')
    .replace(/ (?:[IVX]+|[A-Z]|\d+)$/, '')
    .replace(/^\p{Ll}/u, (letter) => letter.toUpperCase());
}

function registersOf(entry: ShelfEntry): string[] {
  const low = Math.min(...entry.articulations.map((a) => a.low));
  const high = Math.max(...entry.articulations.map((a) => a.high));
  return [
    ...(low <= LOW_KEY ? ['low'] : []),
    ...(low <= MIDDLE_KEY && high >= MIDDLE_KEY ? ['middle'] : []),
    ...(high >= HIGH_KEY ? ['high'] : []),
  ];
}

/** Bands of a quantity: each goes up to its number. */
type Bands = readonly (readonly [name: string, upTo: number])[];
const PLAYERS: Bands = [
  ['one', 1],
  ['2 to 4', 4],
  ['5 to 8', 8],
  ['9 and more', Infinity],
];
/** Of an instrument's memory, in MB. */
const SIZES: Bands = [
  ['up to 10 MB', 10],
  ['10 to 50 MB', 50],
  ['50 to 250 MB', 250],
  ['250 MB to 1 GB', 1000],
  ['more than 1 GB', Infinity],
];
const PRICES: Bands = [
  ['nothing', 0],
  ['up to 100 marks', 100],
  ['100 to 250 marks', 250],
  ['250 to 500 marks', 500],
  ['more than 500 marks', Infinity],
];

function bandOf(bands: Bands, value: number): string {
  return (bands.find(([, upTo]) => value <= upTo) ?? bands[bands.length - 1])[0];
}

/** Values that have an order of their own stand in it; those of other facets by how many they are. */
const ORDERED: Partial<Record<Facet, readonly string[]>> = {
  register: ['low', 'middle', 'high'],
  players: PLAYERS.map(([name]) => name),
  size: SIZES.map(([name]) => name),
  price: [...PRICES.map(([name]) => name), 'not known'],
};

/** Ways its vibrato can be ridden; that it stays as recorded only when all of it does. */
function vibratosOf({ articulations }: ShelfEntry): string[] {
  const kinds = new Set(articulations.map(({ vibrato }) => vibrato));
  const ridden = [...kinds].filter((kind) => kind !== 'fixed');
  return (ridden.length > 0 ? ridden : [...kinds]).map((kind) => VIBRATO_NAMES[kind]);
}

/** Everything of an entry that words are looked for in. */
function textOf(entry: ShelfEntry): string {
  const techniques = entry.articulations.flatMap(({ id, name }) => {
    const term = articulationTerm(id);
    return [name, id, term.name, term.written, ...term.hints];
  });
  return [
    entry.name,
    entry.library,
    entry.maker,
    entry.room,
    entry.family,
    entry.note,
    ...techniques,
    // Its properties by the words that the facets have for them; what a name is short for is in the name.
    ...FACETS.flatMap((facet) => facetValues(entry, facet)),
    ...(entry.articulations.some(({ vibrato }) => vibrato !== 'fixed') ? ['vibrato'] : []),
  ]
    .join(' ')
    .toLowerCase();
}

/** A shelf made ready for filtering: texts and values are worked out once. */
export class ShelfIndex {
  private readonly rows: { entry: ShelfEntry; text: string; values: Record<Facet, string[]> }[];

  constructor(entries: readonly ShelfEntry[]) {
    this.rows = entries.map((entry) => ({
      entry,
      text: textOf(entry),
      values: Object.fromEntries(FACETS.map((facet) => [facet, facetValues(entry, facet)])) as Record<
        Facet,
        string[]
      >,
    }));
  }

  /** Entries that pass a filter, in the order given. Allocates. */
  filter(filter: ShelfFilter): ShelfEntry[] {
    const words = wordsIn(filter.search);
    return this.rows.filter((row) => this.passes(row, filter, words)).map((row) => row.entry);
  }

  /**
   * How many entries each value of each facet would show beside what is chosen in the other facets, most first.
   * Values that are chosen are listed even at 0.
   */
  counts(filter: ShelfFilter): Record<Facet, { value: string; count: number }[]> {
    const words = wordsIn(filter.search);
    return Object.fromEntries(
      FACETS.map((facet) => {
        const found = new Map<string, number>((filter.chosen[facet] ?? []).map((value) => [value, 0]));
        for (const row of this.rows)
          if (this.passes(row, filter, words, facet))
            for (const value of row.values[facet]) found.set(value, (found.get(value) ?? 0) + 1);
        const list = [...found].map(([value, count]) => ({ value, count }));
        return [facet, list.sort(orderIn(facet))];
      }),
    ) as Record<Facet, { value: string; count: number }[]>;
  }

  private passes(
    row: ShelfIndex['rows'][number],
    filter: ShelfFilter,
    words: readonly string[],
    except?: Facet,
  ): boolean {
    if (filter.starred && !row.entry.starred) return false;
    for (const facet of FACETS) {
      const wanted = filter.chosen[facet];
      if (facet === except || !wanted || wanted.length === 0) continue;
      if (!row.values[facet].some((value) => wanted.includes(value))) return false;
    }
    return words.every((word) => row.text.includes(word));
  }
}

const orderIn =
  (facet: Facet) => (a: { value: string; count: number }, b: { value: string; count: number }) => {
    const order = ORDERED[facet];
    return order
      ? order.indexOf(a.value) - order.indexOf(b.value)
      : b.count - a.count || (a.value < b.value ? -1 : 1);
  };

const wordsIn = (search: string) => search.toLowerCase().split(/\s+/).filter(Boolean);

/** Columns a shelf can be ordered by. */
export const SHELF_ORDERS = [
  'name',
  'players',
  'range',
  'techniques',
  'positions',
  'memory',
  'price',
  'room',
  'verdict',
] as const;
export type ShelfOrder = (typeof SHELF_ORDERS)[number];
/** What a shelf is divided by; `none` orders everything in one list. */
export type ShelfGrouping = 'family' | 'library' | 'none';

/** Entries in groups, both in order; within a group, or all in one, by the chosen column, then by name. Allocates. */
export function groupShelf(
  entries: readonly ShelfEntry[],
  by: ShelfGrouping,
  order: ShelfOrder,
  descending: boolean,
  familyOrder: readonly string[],
): { name: string; entries: ShelfEntry[] }[] {
  const groups = new Map<string, ShelfEntry[]>();
  for (const entry of entries) {
    const name = by === 'none' ? '' : entry[by];
    const list = groups.get(name);
    if (list) list.push(entry);
    else groups.set(name, [entry]);
  }
  const sign = descending ? -1 : 1;
  const compare = (a: ShelfEntry, b: ShelfEntry) =>
    sign * compareBy(order, a, b) || a.name.localeCompare(b.name) || a.library.localeCompare(b.library);
  const place = (name: string) => (by === 'family' ? familyOrder.indexOf(name) : 0);
  return [...groups]
    .sort(([a], [b]) => place(a) - place(b) || a.localeCompare(b))
    .map(([name, list]) => ({ name, entries: list.sort(compare) }));
}

function compareBy(order: ShelfOrder, a: ShelfEntry, b: ShelfEntry): number {
  const lowest = (entry: ShelfEntry) => Math.min(...entry.articulations.map((one) => one.low));
  switch (order) {
    case 'name':
      return a.name.localeCompare(b.name);
    case 'players':
      return a.players - b.players;
    case 'range':
      return lowest(a) - lowest(b);
    case 'techniques':
      return a.articulations.length - b.articulations.length;
    case 'positions':
      return a.positions.length - b.positions.length;
    case 'memory':
      return a.bytes - b.bytes;
    case 'price':
      return (a.pricePerGb ?? Infinity) - (b.pricePerGb ?? Infinity) || 0;
    case 'room':
      return a.room.localeCompare(b.room);
    case 'verdict':
      // What has none comes last.
      return Number(a.verdict === '') - Number(b.verdict === '') || a.verdict.localeCompare(b.verdict);
  }
}

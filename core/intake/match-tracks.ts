import { guessFamily } from './families.ts';

/** A track of a file that looks for its place. */
export interface Seeking {
  name: string;
  /** General MIDI program, where the file names one; `KIT_PROGRAM` for drums. */
  program?: number;
}

/** A track that is there, with what plays on it. */
export interface TrackThere {
  id: string;
  name: string;
  /** Name of its instrument; empty without one. */
  instrument: string;
}

/** An instrument that a new track could have. */
export interface InstrumentThere {
  id: string;
  name: string;
  /** One of `FAMILIES`. */
  family: string;
}

/** Where a track of a file could go: to one that is there, or to a new one, with the instrument that suits it best. */
export type PlaceFound =
  { trackId: string } | { instrumentId: string | undefined; why: 'name' | 'family' | undefined };

/** Parts of one track, each with an articulation, are written as tracks of its name with this behind it. */
const LANE = ' · ';

/** Short forms, and other words for the same. */
const SAME: Readonly<Record<string, string>> = {
  vln: 'violin',
  vn: 'violin',
  vl: 'violin',
  vla: 'viola',
  va: 'viola',
  vlc: 'cello',
  vc: 'cello',
  celli: 'cello',
  violoncello: 'cello',
  violoncelli: 'cello',
  cb: 'bass',
  db: 'bass',
  contrabass: 'bass',
  contrabasse: 'bass',
  basse: 'bass',
  fl: 'flute',
  picc: 'piccolo',
  ob: 'oboe',
  cl: 'clarinet',
  bn: 'bassoon',
  bsn: 'bassoon',
  fg: 'bassoon',
  hn: 'horn',
  hrn: 'horn',
  tpt: 'trumpet',
  tbn: 'trombone',
  tba: 'tuba',
  timp: 'timpani',
  perc: 'percussion',
  hp: 'harp',
  pno: 'piano',
  cel: 'celesta',
  str: 'string',
  ww: 'wind',
  woodwind: 'wind',
  vox: 'voice',
};

/** Numbers of desks and parts, as they are written. */
const NUMBERS: Readonly<Record<string, number>> = {
  i: 1,
  ii: 2,
  iii: 3,
  iv: 4,
  first: 1,
  second: 2,
  third: 3,
  '1st': 1,
  '2nd': 2,
  '3rd': 3,
};

interface Read {
  words: ReadonlySet<string>;
  number: number | undefined;
}

/** Words of a name in one form each, and the number in it. */
function readName(name: string): Read {
  const words = new Set<string>();
  let number: number | undefined;
  for (const piece of name
    .replace(/(\p{Ll})(\p{Lu}|\d)/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\d]+/u)) {
    if (piece === '') continue;
    const counted = NUMBERS[piece] ?? (/^\d{1,2}$/.test(piece) ? Number(piece) : undefined);
    if (counted !== undefined) {
      number ??= counted;
      continue;
    }
    const single = piece.length > 3 && /[^s]s$/.test(piece) ? piece.slice(0, -1) : piece;
    words.add(SAME[piece] ?? SAME[single] ?? single);
  }
  return { words, number };
}

/** A word that both have counts for so much more than one that only one of them has costs. */
const EXTRA = 0.2;
const SAME_NUMBER = 0.5;
/** One of them has none, and the first is meant. */
const FIRST = 0.25;
const OTHER_NUMBER = -1.2;

/** How well two names mean the same; undefined when they have no word in common. */
function likeness(a: Read, b: Read): number | undefined {
  const common = [...a.words].filter((word) => b.words.has(word)).length;
  if (common === 0) return undefined;
  const extra = a.words.size + b.words.size - 2 * common;
  return common - EXTRA * extra + numbersAlike(a.number, b.number);
}

function numbersAlike(a: number | undefined, b: number | undefined): number {
  if (a !== undefined && b !== undefined) return a === b ? SAME_NUMBER : OTHER_NUMBER;
  return (a ?? 1) === (b ?? 1) ? FIRST : 0;
}

/** Less than this is another instrument: a word in common, and another number or many more words. */
const LEAST = 0.5;

/**
 * Where the tracks of a file could go. Equal names come first, with the articulations of one track that were written apart; then names
 * that mean the same, the most alike first, each track of the template once; the rest goes to new tracks, with an instrument by name,
 * else one of the family that the name or the program tells.
 */
export function findPlaces(
  seeking: readonly Seeking[],
  tracks: readonly TrackThere[],
  instruments: readonly InstrumentThere[],
): PlaceFound[] {
  const found = new Map<number, PlaceFound>();
  const taken = new Set<string>();
  seeking.forEach(({ name }, i) => {
    const own = name.trim().toLowerCase();
    const same = tracks.find((one) => {
      const there = one.name.toLowerCase();
      return own === there || own.startsWith(`${there}${LANE}`);
    });
    if (!same) return;
    found.set(i, { trackId: same.id });
    taken.add(same.id);
  });
  const names = seeking.map(({ name }) => readName(name));
  const pairs = tracks
    .filter(({ id }) => !taken.has(id))
    .flatMap((track) => {
      const own = [track.name, track.instrument].filter(Boolean).map(readName);
      return names.flatMap((name, i) => {
        if (found.has(i)) return [];
        const best = Math.max(...own.map((one) => likeness(name, one) ?? -Infinity));
        return best >= LEAST ? [{ i, trackId: track.id, best }] : [];
      });
    })
    .sort((a, b) => b.best - a.best);
  for (const { i, trackId } of pairs) {
    if (found.has(i) || taken.has(trackId)) continue;
    found.set(i, { trackId });
    taken.add(trackId);
  }
  return seeking.map((one, i) => found.get(i) ?? instrumentFor(one, names[i], instruments));
}

function instrumentFor(
  { name, program }: Seeking,
  own: Read,
  instruments: readonly InstrumentThere[],
): PlaceFound {
  const alike = instruments
    .map((one) => ({ id: one.id, likeness: likeness(own, readName(one.name)) ?? -Infinity }))
    .reduce<{ id: string; likeness: number } | undefined>(
      (best, one) => (one.likeness > (best?.likeness ?? 0) ? one : best),
      undefined,
    );
  if (alike) return { instrumentId: alike.id, why: 'name' };
  const { family, isTold } = guessFamily(name, program);
  const related = isTold ? instruments.find((one) => one.family === family) : undefined;
  return { instrumentId: related?.id, why: related && 'family' };
}

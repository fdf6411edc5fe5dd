import { CORE_VOCABULARY, type Family, type Vocabulary } from '../catalogue/index.ts';
import type { ArticulationId } from '../music/index.ts';
import { Repertoire, type Distance, type Translation } from './voicing.ts';

/** An instrument as coverage looks at it. */
export interface Covered {
  id: string;
  family: Family;
  articulations: readonly { readonly id: ArticulationId; readonly layers: number; readonly takes: number }[];
  translations?: readonly Translation[];
}

/** What an instrument has of a technique: its own recordings, a stand-in, nothing, or no use for it. */
export interface CoverageCell {
  state: 'own' | 'stand-in' | 'missing' | 'none';
  /** What stands in, and how far it is from what is missing. */
  standIn?: ArticulationId;
  distance?: Distance;
  /** Layers and takes of what it has of its own. */
  layers?: number;
  takes?: number;
}

/** Techniques × instruments. */
export interface Coverage {
  terms: readonly ArticulationId[];
  /** One row per term, one cell per instrument. */
  rows: readonly (readonly CoverageCell[])[];
  /** How many instruments have each term of their own, and how many lack it that could have it. */
  counts: readonly { own: number; standIn: number; missing: number }[];
}

/**
 * Who has what. A stand-in counts when the vocabulary names it; a technique of which nothing near is there is missing;
 * one that players of the family do not have is no gap.
 * @param also terms to be listed although no instrument has them, for example those a cue uses
 */
export function coverageOf(
  instruments: readonly Covered[],
  vocabulary: Vocabulary = CORE_VOCABULARY,
  also: readonly ArticulationId[] = [],
): Coverage {
  const repertoires = instruments.map(
    ({ articulations, translations }) => new Repertoire(articulations, translations, vocabulary),
  );
  const order = new Map(vocabulary.terms.map(({ id }, i) => [id, i]));
  const place = (id: ArticulationId) => order.get(id) ?? order.size;
  const terms = [...new Set([...repertoires.flatMap((one) => one.terms.map(plain)), ...also])].sort(
    (a, b) => place(a) - place(b) || (a < b ? -1 : 1),
  );
  const rows = terms.map((term) =>
    instruments.map((instrument, i) => cellOf(term, instrument, repertoires[i], vocabulary)),
  );
  const counts = rows.map((row) => ({
    own: row.filter(({ state }) => state === 'own').length,
    standIn: row.filter(({ state }) => state === 'stand-in').length,
    missing: row.filter(({ state }) => state === 'missing').length,
  }));
  return { terms, rows, counts };
}

/** A second articulation of the same technique is no technique of its own. */
const plain = (id: ArticulationId) => id.replace(/ \d+$/, '');

function cellOf(
  term: ArticulationId,
  { family, articulations }: Covered,
  repertoire: Repertoire,
  vocabulary: Vocabulary,
): CoverageCell {
  const found = repertoire.find(term);
  if (found?.distance === 'own') {
    const own = found.voiced.map(({ index }) => articulations[index]);
    return {
      state: 'own',
      layers: Math.max(...own.map(({ layers }) => layers)),
      takes: Math.max(...own.map(({ takes }) => takes)),
    };
  }
  const { standIns, families } = vocabulary.term(term);
  if (family !== 'other' && !families.includes(family)) return { state: 'none' };
  if (found && standIns.includes(found.term))
    return { state: 'stand-in', standIn: found.term, distance: found.distance };
  return { state: 'missing' };
}

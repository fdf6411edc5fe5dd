import type { ArticulationId } from '../music/index.ts';
import { CORE_TERMS, type ArticulationTerm } from './terms.ts';

/** Ways to colour another technique: “tremolo, near bridge” is a tremolo, but a long note near the bridge is not just long. */
const COLOURS: readonly ArticulationId[] = [
  'long plain',
  'muted',
  'near bridge',
  'over fingerboard',
  'flute-like',
];
const BETWEEN = ', ';

/** Id of a technique played in some other ways: `tremolo, near bridge`. A plain long note takes the first colour's own id. */
export function colouredId(base: ArticulationId, colours: readonly ArticulationId[]): ArticulationId {
  const ordered = COLOURS.filter((colour) => colours.includes(colour) && colour !== base);
  return base === 'long' && ordered.length > 0 ? ordered.join(BETWEEN) : [base, ...ordered].join(BETWEEN);
}

/** A technique and how it is coloured; a number that tells like ones apart is left out. */
export function partsOfId(id: ArticulationId): { base: ArticulationId; colours: ArticulationId[] } {
  const [base, ...rest] = id.replace(/ \d+$/, '').split(BETWEEN);
  return rest.every((colour) => COLOURS.includes(colour))
    ? { base, colours: rest }
    : { base: id, colours: [] };
}

/** A term a studio adds to the core list, or whose written form and stand-ins it has its own mind about. */
export type HouseTerm = Partial<Omit<ArticulationTerm, 'id'>> & Pick<ArticulationTerm, 'id' | 'group'>;

/** A guess with the hint that led to it. */
export interface ArticulationGuess {
  term: ArticulationTerm;
  hint: string;
}

/** The core list with what a studio added to it. Immutable. */
export class Vocabulary {
  readonly terms: readonly ArticulationTerm[];
  private readonly byId: ReadonlyMap<ArticulationId, ArticulationTerm>;

  constructor(own: readonly HouseTerm[] = []) {
    const changed = new Map(own.map((term) => [term.id, term]));
    const core = CORE_TERMS.map((term) => ({ ...term, ...changed.get(term.id), group: term.group }));
    const known = new Set(core.map((term) => term.id));
    this.terms = [...core, ...own.filter(({ id }) => !known.has(id)).map(completed)];
    this.byId = new Map(this.terms.map((term) => [term.id, term]));
  }

  /** The term of an id; coloured and numbered ones follow their technique, an unknown one is a long technique of its own name. */
  term(id: ArticulationId): ArticulationTerm {
    const known = this.byId.get(id);
    if (known) return known;
    const { base, colours } = partsOfId(id);
    const plain = this.byId.get(base);
    if (!plain) return completed({ id, group: 'long' });
    const written = [plain, ...colours.map((colour) => this.term(colour))].map((term) => term.written);
    // One colour less is nearer than another technique.
    const standIns = colours.map((colour) =>
      colouredId(
        base,
        colours.filter((other) => other !== colour),
      ),
    );
    return {
      ...plain,
      id,
      name: id,
      written: written.filter(Boolean).join(' '),
      standIns: [...standIns, ...(colours.length > 0 ? [base] : []), ...plain.standIns].filter(
        (other, i, all) => all.indexOf(other) === i,
      ),
    };
  }

  /** Whether an id is one of the list, apart from a number that tells like ones apart. */
  has(id: ArticulationId): boolean {
    return this.byId.has(id) || this.byId.has(partsOfId(id).base);
  }

  /** The term whose hint stands in a label word by word, the most telling hint first; undefined when none does. */
  guess(label: string): ArticulationGuess | undefined {
    const words = new Set(wordsOf(label));
    let best: ArticulationGuess | undefined;
    let weight = -1;
    const colours: ArticulationId[] = [];
    for (const term of this.terms)
      for (const hint of term.hints) {
        if (!hint.split(' ').every((word) => words.has(word))) continue;
        if (COLOURS.includes(term.id)) colours.push(term.id);
        if (rank(term.id) + hint.length > weight)
          [best, weight] = [{ term, hint }, rank(term.id) + hint.length];
      }
    if (!best || colours.every((colour) => colour === best.term.id)) return best;
    const base = COLOURS.includes(best.term.id) ? 'long' : best.term.id;
    return { term: this.term(colouredId(base, colours)), hint: best.hint };
  }
}

const rank = (id: ArticulationId) => (id === 'long' ? 0 : COLOURS.includes(id) ? 100 : 200);

function completed(term: HouseTerm): ArticulationTerm {
  const { id } = term;
  return {
    name: id,
    tab: id.slice(0, 2).toLowerCase(),
    written: id,
    notated: 'words',
    hints: [],
    standIns: [],
    families: ['strings', 'winds', 'brass', 'percussion', 'keys', 'choir'],
    ...term,
  };
}

/** Words of a label: runs of letters, `SusVib` read as two. */
export function wordsOf(label: string): string[] {
  return label
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}]+/u)
    .filter(Boolean);
}

/** The core list alone. */
export const CORE_VOCABULARY = new Vocabulary();
/** Terms of the core list in the order of display. */
export const VOCABULARY = CORE_VOCABULARY.terms;

/** The core list's term of an id; see `Vocabulary.term`. */
export function articulationTerm(id: ArticulationId): ArticulationTerm {
  return CORE_VOCABULARY.term(id);
}

/** The core list's guess at a label; see `Vocabulary.guess`. */
export function guessArticulation(label: string): ArticulationGuess | undefined {
  return CORE_VOCABULARY.guess(label);
}

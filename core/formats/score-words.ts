import { wordsOf, type Vocabulary } from '../catalogue/index.ts';
import type { ArticulationId } from '../music/index.ts';

/** How articulations stand in a score, both ways: as signs on notes, as slurs, or as words over the staff. */

/** Plain held notes, and the word that takes another articulation back to what is usual. */
export const PLAIN = 'long';
export const ORDINARY = 'ord.';

/** A sign on a note: its name in MusicXML, the element it stands in, and what is written in it. */
export interface Sign {
  element: 'articulations' | 'technical' | 'ornaments';
  sign: string;
  content?: string;
  /** An accidental over it. */
  accidental?: 'flat' | 'natural';
}

const SIGNS: Readonly<Record<ArticulationId, Sign>> = {
  staccato: { element: 'articulations', sign: 'staccato' },
  staccatissimo: { element: 'articulations', sign: 'staccatissimo' },
  'off the string': { element: 'articulations', sign: 'spiccato' },
  'broad short': { element: 'articulations', sign: 'detached-legato' },
  accented: { element: 'articulations', sign: 'accent' },
  snapped: { element: 'technical', sign: 'snap-pizzicato' },
  harmonics: { element: 'technical', sign: 'harmonic' },
  fall: { element: 'articulations', sign: 'falloff' },
  'trill half': { element: 'ornaments', sign: 'trill-mark', accidental: 'flat' },
  'trill whole': { element: 'ornaments', sign: 'trill-mark', accidental: 'natural' },
  tremolo: { element: 'ornaments', sign: 'tremolo', content: '3' },
};

/** Techniques that are written under a slur; all but plain connected ones with a word as well. */
export const SLURRED: ReadonlySet<ArticulationId> = new Set(['connected', 'slide', 'runs']);

export const signOf = (id: ArticulationId): Sign | undefined => SIGNS[id];

/** What notes with other signs that are in use are played with. */
const OTHER_SIGNS: Readonly<Record<string, ArticulationId>> = {
  'strong-accent': 'accented',
  'soft-accent': 'accented',
  marcato: 'accented',
  doit: 'fall',
  plop: 'fall',
};
const BY_SIGN = new Map<string, ArticulationId>([
  ...Object.entries(OTHER_SIGNS),
  ...Object.entries(SIGNS).map(([id, { sign }]) => [sign, id] as const),
]);

/** The technique of a sign by its name in MusicXML; undefined where it is none. */
export const techniqueOfSign = (sign: string): ArticulationId | undefined => BY_SIGN.get(sign);

/** Words that take everything back to what is usual. */
const USUAL = new Set([
  'ord',
  'ordinario',
  'nat',
  'naturale',
  'norm',
  'normal',
  'arco',
  'open',
  'modo ord',
  'senza sord',
]);

/** Words that say where the tempo goes, and where the dynamics do. */
const TEMPO_WORD = /^(accel|string|rit|rall|riten|allarg|a tempo|tempo (i|1|primo)\b)/i;
const DYNAMIC_WORD = /^(cresc|dim|decresc)[a-z]*\.?( (molto|poco a poco|poco))?$/i;
export const isTempoWord = (text: string): boolean => TEMPO_WORD.test(text);
export const isDynamicWord = (text: string): boolean => DYNAMIC_WORD.test(text);

const plainly = (text: string) =>
  text
    .trim()
    .toLowerCase()
    .replace(/[.:,;]+$/, '');

/**
 * What a word over the staff asks for: a technique, the usual again (`PLAIN`), or undefined where it says something else. The house's own
 * written forms come first, then names, then the words a technique is known by.
 */
export function techniqueOfWord(text: string, vocabulary: Vocabulary): ArticulationId | undefined {
  const word = plainly(text);
  if (word === '' || isTempoWord(text) || isDynamicWord(text)) return undefined;
  if (USUAL.has(word)) return PLAIN;
  const { terms } = vocabulary;
  const found =
    terms.find(({ name, id }) => plainly(name) === word || id === word) ??
    terms.find(({ written }) => plainly(written) === word);
  if (found) return found.id;
  const spoken = wordsOf(word).join(' ');
  return terms.find(({ hints }) => hints.includes(spoken))?.id;
}

/** The word over a staff that asks for a technique, such that it is read as that one again; undefined where a slur says it. */
export function wordFor(id: ArticulationId, vocabulary: Vocabulary): string | undefined {
  if (id === 'connected') return undefined;
  const { written, name } = vocabulary.term(id);
  return written !== '' && techniqueOfWord(written, vocabulary) === id ? written : name;
}

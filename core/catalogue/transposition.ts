import { wordsOf } from './vocabulary.ts';

/** Semitones from the written to the sounding pitch, by what an instrument is called; the first line whose words all stand in the name. */
const LINES: readonly [words: string, semitones: number][] = [
  ['english horn', -7],
  ['cor anglais', -7],
  ['basset horn', -7],
  ['wagner tuba', -7],
  ['alto flute', -5],
  ['bass flute', -12],
  ['bass clarinet', -14],
  ['contrabass clarinet', -26],
  ['soprano saxophone', -2],
  ['alto saxophone', -9],
  ['tenor saxophone', -14],
  ['baritone saxophone', -21],
  ['piccolo trumpet', 0],
  ['piccolo', 12],
  ['clarinet', -2],
  ['contrabassoon', -12],
  ['horn', -7],
  ['trumpet', -2],
  ['cornet', -2],
  ['flugelhorn', -2],
  ['glockenspiel', 24],
  ['crotales', 24],
  ['xylophone', 12],
  ['celesta', 12],
  ['guitar', -12],
  ['double bass', -12],
  ['contrabass', -12],
];
/** The lowest strings are called by their range alone; a voice that is so called is written as it sounds. */
const BASS = -12;

/** Other words and plurals for the same. */
const SAME: Readonly<Record<string, string>> = {
  sax: 'saxophone',
  saxes: 'saxophone',
  hn: 'horn',
  tpt: 'trumpet',
  cl: 'clarinet',
  picc: 'piccolo',
  glock: 'glockenspiel',
  celeste: 'celesta',
  cb: 'contrabass',
  db: 'contrabass',
  basses: 'bass',
  contrabasses: 'contrabass',
};

/**
 * How far below (under 0) or above its written pitch an instrument sounds, semitones, by its name: what scores for it are usually
 * written in. 0 for those that are written as they sound, and for names that tell nothing.
 */
export function transpositionOf(name: string, family?: string): number {
  const words = new Set(
    wordsOf(name).map((word) => SAME[word] ?? SAME[word.replace(/s$/, '')] ?? word.replace(/s$/, '')),
  );
  // A plural loses its s, here as there: “bass” is one word, “brass” tells nothing.
  const has = (word: string) => words.has(word) || words.has(word.replace(/s$/, ''));
  const line = LINES.find(([all]) => all.split(' ').every(has));
  if (line) return line[1];
  return family === 'strings' && has('bass') ? BASS : 0;
}

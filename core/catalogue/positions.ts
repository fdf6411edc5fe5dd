import { wordsOf } from './vocabulary.ts';

/** The microphone positions Farlo knows by name, near to far, with words that point to them. */
const POSITIONS: readonly [id: string, hints: string][] = [
  ['spot', 'spot,spots'],
  ['close', 'close,cls,near,closemic'],
  ['mid', 'mid,middle'],
  ['tree', 'tree,decca,main'],
  ['outriggers', 'outriggers,outrigger,out,wide'],
  ['far', 'far,hall,room'],
  ['ambient', 'ambient,ambience,amb,surround'],
  ['balcony', 'balcony,gallery'],
  ['bleed', 'bleed,spill'],
  ['principal', 'principal,leader'],
  ['mix', 'mix,stereo,full'],
];

/** A microphone position told from a label, with the word that told it; undefined when none does. */
export function guessPosition(label: string): { id: string; word: string } | undefined {
  const words = wordsOf(label);
  for (const [id, hints] of POSITIONS)
    for (const hint of hints.split(',')) if (words.includes(hint)) return { id, word: hint };
  return undefined;
}

/** Ids of the known positions, near to far. */
export const POSITION_IDS: readonly string[] = POSITIONS.map(([id]) => id);

/** Name of a position for people: `outriggers` → `Outriggers`. */
export function positionName(id: string): string {
  return id.length === 0 ? id : id[0].toUpperCase() + id.slice(1);
}

/** Places in the order near to far; unknown ones come last. */
export function byNearness(a: string, b: string): number {
  const place = (id: string) => (POSITION_IDS.includes(id) ? POSITION_IDS.indexOf(id) : POSITION_IDS.length);
  return place(a) - place(b) || (a < b ? -1 : a > b ? 1 : 0);
}

import { CORE_VOCABULARY, guessArticulation, guessPosition, wordsOf } from '../catalogue/index.ts';
import type { FoundWord, FoundZone, WordKind } from '../formats/index.ts';

/** What a word says about the zones that carry it; null where it says nothing. */
export interface Meaning {
  articulation: string | null;
  position: string | null;
  /** Loudness layer from 0, softest first. */
  layer: number | null;
  /** Take from 0. */
  take: number | null;
  /** Name of the instrument. */
  instrument: string | null;
}

/** A word found in what is being taken in, with what it is taken to mean and why. */
export interface WordMeaning extends Meaning {
  kind: WordKind;
  text: string;
  /** Zones that carry it, and the keys they reach over. */
  zones: number;
  keyLow: number;
  keyHigh: number;
  /** A recording that carries it, from the middle of its keys; null where only ends and moves do. */
  example: string | null;
  reason: string;
}

export const NO_MEANING: Meaning = {
  articulation: null,
  position: null,
  layer: null,
  take: null,
  instrument: null,
};

/** Dynamics from soft to loud, as musicians and file names write them. */
const DYNAMICS = [
  'ppp',
  'pp',
  'p',
  'soft',
  'quiet',
  'mp',
  'medium',
  'med',
  'mf',
  'f',
  'loud',
  'hard',
  'ff',
  'fff',
];

/** Name under which a word is looked up and remembered. */
export function wordKey(word: FoundWord): string {
  return `${word.kind}: ${word.text.toLowerCase()}`;
}

/**
 * All words of what was found, each once, with guesses. What a maker's words meant before comes first.
 * @param remembered meanings by `wordKey`
 */
export function guessMeanings(
  found: readonly FoundZone[],
  remembered: ReadonlyMap<string, Meaning> = new Map(),
): WordMeaning[] {
  const words = new Map<string, WordMeaning>();
  for (const { zone, words: own } of found)
    for (const word of own) {
      const key = wordKey(word);
      const known = words.get(key);
      if (known) {
        known.zones++;
        known.keyLow = Math.min(known.keyLow, zone.keyLow);
        known.keyHigh = Math.max(known.keyHigh, zone.keyHigh);
        continue;
      }
      const before = remembered.get(key);
      const guess = before ? { ...before, reason: 'as you set it for this maker before' } : guessOf(word);
      words.set(key, {
        ...guess,
        kind: word.kind,
        text: word.text,
        zones: 1,
        keyLow: zone.keyLow,
        keyHigh: zone.keyHigh,
        example: null,
      });
    }
  const list = [...words.values()];
  setExamples(words, found);
  numberLayers(list);
  return list.filter(isWorthShowing);
}

/** Gives each word the beginning of a note in the middle of its keys to hear it by. */
function setExamples(words: ReadonlyMap<string, WordMeaning>, found: readonly FoundZone[]): void {
  const nearest = new Map<WordMeaning, number>();
  for (const { zone, sample, words: own } of found) {
    if (zone.role !== 'attack') continue;
    for (const one of own) {
      const word = words.get(wordKey(one));
      if (!word) continue;
      const far = Math.abs(zone.rootKey - (word.keyLow + word.keyHigh) / 2);
      if (far >= (nearest.get(word) ?? Infinity)) continue;
      nearest.set(word, far);
      word.example = sample;
    }
  }
}

/** Words that mean something, and labels that might; file names and folders without a meaning are left out. */
function isWorthShowing(word: WordMeaning): boolean {
  const says =
    word.articulation !== null || word.position !== null || word.layer !== null || word.take !== null;
  return says || (word.kind !== 'file name' && word.kind !== 'folder');
}

function guessOf(word: FoundWord): Meaning & { reason: string } {
  const reasons: string[] = [];
  const meaning: Meaning = { ...NO_MEANING };
  if (CORE_VOCABULARY.has(word.text))
    return { ...NO_MEANING, articulation: word.text, reason: 'is the house word itself' };
  const articulation = guessArticulation(word.text);
  const position = guessPosition(word.text);
  // File names are alike but for the note; only a position is looked for there, the folder tells the technique.
  if (articulation && word.kind !== 'file name') {
    meaning.articulation = articulation.term.id;
    reasons.push(
      articulation.hint === articulation.term.id
        ? `says “${articulation.hint}”`
        : `“${articulation.hint}” stands for ${articulation.term.name}`,
    );
  }
  // The name of a preset speaks of the instrument; a “hall” in it is an effect.
  if (position && word.kind !== 'preset' && (!articulation || word.kind !== 'name part')) {
    meaning.position = position.id;
    reasons.push(
      position.word === position.id
        ? `names the position ${position.id}`
        : `“${position.word}” stands for ${position.id}`,
    );
  }
  if (word.kind === 'name part') Object.assign(meaning, guessNumbers(word.text, reasons));
  return { ...meaning, reason: reasons.length > 0 ? reasons.join('; ') : 'no word Farlo knows' };
}

/** Layers and takes are told by the parts of file names alone; SFZ and SoundFont say them in numbers. */
function guessNumbers(text: string, reasons: string[]): Partial<Meaning> {
  const lower = text.toLowerCase();
  const take = /^(?:rr|t|take|rt|var|alt)[ _-]?(\d{1,3})$/.exec(lower);
  if (take) {
    reasons.push('counts takes');
    return { take: Math.max(0, Number(take[1]) - 1) };
  }
  const layer = /^(?:l|v|lay|layer|vel|vl|dyn)[ _-]?(\d{1,3})$/.exec(lower);
  if (layer) {
    reasons.push('counts loudness layers');
    return { layer: Number(layer[1]) };
  }
  const dynamic = wordsOf(lower).length === 1 ? DYNAMICS.indexOf(lower) : -1;
  if (dynamic >= 0) {
    reasons.push('is a written dynamic');
    return { layer: dynamic };
  }
  return {};
}

/** Layers as found (`vel100`, `mf`) become 0, 1, 2 … from soft to loud. */
function numberLayers(words: WordMeaning[]): void {
  const found = [...new Set(words.flatMap((word) => (word.layer === null ? [] : [word.layer])))];
  found.sort((a, b) => a - b);
  for (const word of words) if (word.layer !== null) word.layer = found.indexOf(word.layer);
  const first = Math.min(...words.flatMap((word) => (word.take === null ? [] : [word.take])));
  for (const word of words) if (word.take !== null && first > 0) word.take -= first;
}

/** What a zone's words say together: each question is answered by the first word that says something of it. */
export function meaningOf(found: FoundZone, meanings: ReadonlyMap<string, Meaning>): Meaning {
  const out: Meaning = { ...NO_MEANING };
  for (const word of found.words) {
    const meaning = meanings.get(wordKey(word));
    if (!meaning) continue;
    out.articulation ??= meaning.articulation;
    out.position ??= meaning.position;
    out.layer ??= meaning.layer;
    out.take ??= meaning.take;
    out.instrument ??= meaning.instrument;
  }
  return out;
}

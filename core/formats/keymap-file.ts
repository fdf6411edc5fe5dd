import { guessArticulation, CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import type { Entry, Keymap } from '../keymap/index.ts';
import type { ArticulationId, MiddleC } from '../music/index.ts';

/** Something of a keymap file that could not be taken, or was taken otherwise than written. */
export interface FileRemark {
  /** Line of the text, from 1; 0 when it is the file as a whole. */
  line: number;
  sentence: string;
  /** True when what stands there was left out. */
  leftOut: boolean;
}

/** A keymap read from a file: what could be taken, and what is to be said about the rest. Ids are unique within it only. */
export interface ReadKeymap {
  keymap: Keymap;
  remarks: FileRemark[];
  /** How the file counts octaves, where it can be told. */
  middleC: MiddleC | undefined;
}

/** Articulation that a word of a file means: itself when the house knows it, else the house word its parts point to. */
export function articulationOf(
  word: string,
  vocabulary: Vocabulary = CORE_VOCABULARY,
): { id: ArticulationId; known: boolean; guessed: boolean } {
  const id = word.trim().toLowerCase();
  if (vocabulary.has(id)) return { id, known: true, guessed: false };
  const guess = vocabulary.guess(word) ?? guessArticulation(word);
  return guess ? { id: guess.term.id, known: true, guessed: true } : { id, known: false, guessed: false };
}

/** Longest text that is looked at, and most lines. */
export const MOST_TEXT = 2_000_000;
export const MOST_LINES = 5000;
const LONGEST_WORD = 60;

/** A word of a file as it may stand in a sentence. */
export function quoted(text: string): string {
  const short = text.replace(/[^\P{C}]/gu, ' ').trim();
  return `“${short.length > LONGEST_WORD ? `${short.slice(0, LONGEST_WORD)}…` : short}”`;
}

/** An entry under construction, by articulation, in the order of the file. */
export class EntriesRead {
  private readonly entries = new Map<ArticulationId, { -readonly [K in keyof Entry]: Entry[K] }>();
  private ids = 0;

  nextId(): string {
    return `read ${this.ids++}`;
  }

  of(articulation: ArticulationId) {
    let known = this.entries.get(articulation);
    if (!known)
      this.entries.set(
        articulation,
        (known = { id: this.nextId(), articulation, triggers: [], sources: [] }),
      );
    return known;
  }

  get size(): number {
    return this.entries.size;
  }

  list(): Entry[] {
    return [...this.entries.values()];
  }
}

import type { ArticulationId } from '../music/index.ts';

/** How a technique behaves in time; decides what leads it, what ends it and which controller rules it. */
export type ArticulationGroup = 'long' | 'short' | 'connected' | 'dynamic' | 'pattern';

/** One entry of the house vocabulary. */
export interface ArticulationTerm {
  id: ArticulationId;
  group: ArticulationGroup;
  name: string;
  /** Two letters for the trigger tab. */
  tab: string;
  /** What musicians write above the note. */
  written: string;
  /** Words in file names and labels that point to this technique. */
  hints: readonly string[];
}

/** The closed core list. Order is the order of display. */
export const VOCABULARY: readonly ArticulationTerm[] = [
  {
    id: 'connected',
    group: 'connected',
    name: 'connected',
    tab: 'co',
    written: 'legato',
    hints: ['connected', 'legato', 'slur'],
  },
  {
    id: 'long',
    group: 'long',
    name: 'long',
    tab: 'lg',
    written: 'ten.',
    hints: ['long', 'sustain', 'sus', 'held', 'arco'],
  },
  { id: 'tremolo', group: 'long', name: 'tremolo', tab: 'tr', written: 'trem.', hints: ['tremolo', 'trem'] },
  {
    id: 'staccato',
    group: 'short',
    name: 'staccato',
    tab: 'st',
    written: 'stacc.',
    hints: ['staccato', 'stacc', 'stac', 'short'],
  },
  {
    id: 'pizzicato',
    group: 'short',
    name: 'pizzicato',
    tab: 'pz',
    written: 'pizz.',
    hints: ['pizzicato', 'pizz', 'plucked'],
  },
  { id: 'hit', group: 'short', name: 'hit', tab: 'ht', written: '', hints: ['hit', 'strike', 'struck'] },
];

const BY_ID = new Map(VOCABULARY.map((term) => [term.id, term]));

/** The term of an id; an id outside the core list is a user's own long technique under its own name. */
export function articulationTerm(id: ArticulationId): ArticulationTerm {
  return (
    BY_ID.get(id) ?? {
      id,
      group: 'long',
      name: id,
      tab: id.slice(0, 2).toLowerCase(),
      written: id,
      hints: [],
    }
  );
}

/** The term whose hint stands as a word in a label, the longest hint first; undefined when none does. */
export function guessArticulation(label: string): ArticulationTerm | undefined {
  const words = new Set(label.toLowerCase().split(/[^a-z]+/));
  let best: ArticulationTerm | undefined;
  let length = 0;
  for (const term of VOCABULARY)
    for (const hint of term.hints)
      if (words.has(hint) && hint.length > length) [best, length] = [term, hint.length];
  return best;
}

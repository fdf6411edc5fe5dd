import type { Note } from './part.ts';
import { metreTicks, type MetreMap } from './tempo-map.ts';

/** What a rule may look at beside the notes themselves, which come in time order. */
interface Asked {
  metre: MetreMap;
  /** Ids of notes that are selected now. */
  selected: ReadonlySet<string>;
}

/** A rule by which notes of a part are selected. */
export interface NoteRule {
  name: string;
  /** Notes that fit, of all of a part in time order. */
  of: (notes: readonly Note[], asked: Asked) => Note[];
}

/** So near to a beat, as a share of it, a note counts as on it. */
const NEAR_BEAT = 1 / 16;

function isOnBeat({ startTick }: Note, metre: MetreMap): boolean {
  const { tick, numerator, denominator } = metre.at(startTick);
  const { beat } = metreTicks({ numerator, denominator });
  const past = (startTick - tick) % beat;
  return Math.min(past, beat - past) <= beat * NEAR_BEAT;
}

/** Notes of which no other that begins with them lies further in one direction. @param way 1 upwards, −1 downwards */
function outermost(notes: readonly Note[], way: 1 | -1): Note[] {
  const furthest = new Map<number, number>();
  for (const { startTick, key } of notes)
    furthest.set(startTick, Math.max(furthest.get(startTick) ?? -Infinity, way * key));
  return notes.filter(({ startTick, key }) => way * key === furthest.get(startTick));
}

/** Notes of a key that follow right upon the same key in the same voice: nothing else begins between. */
function repeated(notes: readonly Note[]): Note[] {
  const starts = [...new Set(notes.map(({ startTick }) => startTick))].sort((a, b) => a - b);
  const before = new Map(starts.map((start, i) => [start, starts[i - 1]]));
  const struck = new Set(notes.map(({ startTick, key }) => `${startTick} ${key}`));
  return notes.filter(({ startTick, key }) => struck.has(`${before.get(startTick)} ${key}`));
}

/** Rules by which notes are selected, in the order in which they are offered. */
export const NOTE_RULES: readonly NoteRule[] = [
  { name: 'On the beat', of: (notes, { metre }) => notes.filter((note) => isOnBeat(note, metre)) },
  { name: 'Off the beat', of: (notes, { metre }) => notes.filter((note) => !isOnBeat(note, metre)) },
  { name: 'Highest of each chord', of: (notes) => outermost(notes, 1) },
  { name: 'Lowest of each chord', of: (notes) => outermost(notes, -1) },
  { name: 'Repeated notes', of: repeated },
  {
    name: 'Same keys as chosen',
    of: (notes, { selected }) => {
      const keys = new Set(notes.flatMap(({ id, key }) => (selected.has(id) ? key : [])));
      return notes.filter(({ key }) => keys.has(key));
    },
  },
  {
    name: 'Higher than the chosen',
    of: (notes, { selected }) => {
      const most = notes.reduce((key, note) => (selected.has(note.id) ? Math.max(key, note.key) : key), -1);
      return most < 0 ? [] : notes.filter(({ key }) => key > most);
    },
  },
  {
    name: 'Lower than the chosen',
    of: (notes, { selected }) => {
      const least = notes.reduce((key, note) => (selected.has(note.id) ? Math.min(key, note.key) : key), 128);
      return least > 127 ? [] : notes.filter(({ key }) => key < least);
    },
  },
  { name: 'All but the chosen', of: (notes, { selected }) => notes.filter(({ id }) => !selected.has(id)) },
];

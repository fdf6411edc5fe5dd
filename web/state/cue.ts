import { MetreMap, TempoMap, type MetreChange, type Part, type TempoChange } from '#core/music/index.ts';
import { itemOf, listOf, ownedBy, type Item } from './documents.ts';
import type { Records } from './tables.ts';

/** What is read out of the open cue and its template: maps, tracks, parts. Everything keeps its identity while it does not change. */

const tempoMaps = new WeakMap<object, TempoMap>();
const metreMaps = new WeakMap<object, MetreMap>();
const partsByTrack = new WeakMap<object, ReadonlyMap<string, Item<'part'>>>();
const parts = new Map<string, Part>();
const EMPTY_PART: Part = { notes: [], marks: [], points: [] };

/** The open cue's tempo map. */
export function tempoOf(records: Records): TempoMap {
  return cached(tempoMaps, listOf(records, 'tempo'), (list) => new TempoMap(list as readonly TempoChange[]));
}

/** The open cue's metres. */
export function metreOf(records: Records): MetreMap {
  return cached(metreMaps, listOf(records, 'metre'), (list) => new MetreMap(list as readonly MetreChange[]));
}

function cached<T extends object, V>(cache: WeakMap<object, V>, key: T, make: (key: T) => V): V {
  let value = cache.get(key);
  if (value === undefined) cache.set(key, (value = make(key)));
  return value;
}

/** Tracks in the template's order: their index is the engine's. */
export function orderedTracks(records: Records): readonly Item<'track'>[] {
  return listOf(records, 'track');
}

/** What is written for a track in the open cue. */
export function partOf(records: Records, trackId: string): { id: string | undefined; part: Part } {
  const byTrack = cached(
    partsByTrack,
    listOf(records, 'part'),
    (list) => new Map(list.map((part) => [part.trackId, part])),
  );
  const id = byTrack.get(trackId)?.id;
  if (id === undefined) return { id, part: EMPTY_PART };
  const notes = ownedBy(records, 'note', id);
  const marks = ownedBy(records, 'mark', id);
  const points = ownedBy(records, 'point', id);
  const known = parts.get(id);
  if (known && known.notes === notes && known.marks === marks && known.points === points)
    return { id, part: known };
  const part: Part = { notes, marks, points };
  parts.set(id, part);
  return { id, part };
}

/** The open cue itself. */
export function cueOf(records: Records, cueId: string | undefined): Item<'cue'> | undefined {
  return itemOf(records, 'cue', cueId);
}

/** An empty cue is shown as long as a bar. */
const SHORTEST = 3840;

/** Where the cue ends, with the last of its notes: the overviews of all tracks have one scale. */
export function endOfCue(records: Records, cueId: string | undefined): number {
  const last = orderedTracks(records).reduce(
    (end, { id }) => Math.max(end, partOf(records, id).part.notes.at(-1)?.endTick ?? 0),
    0,
  );
  return Math.max(cueOf(records, cueId)?.endTick ?? 0, last, SHORTEST);
}

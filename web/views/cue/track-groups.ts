import { create } from 'zustand';
import type { Item } from '../../state/documents.ts';

/** More tracks than this are searched and folded. */
export const MANY_TRACKS = 8;

/** Tracks of one family that follow one another in the template. */
export interface TrackGroup {
  /** Lasts while its first track stays where it is. */
  id: string;
  family: string;
  tracks: readonly Item<'track'>[];
}

/** How the list of tracks is looked at; no part of any document. */
export const useTrackList = create<{
  query: string;
  withNotes: boolean;
  folded: ReadonlySet<string>;
}>(() => ({ query: '', withNotes: false, folded: new Set<string>() }));

export function toggleFold(id: string): void {
  useTrackList.setState(({ folded }) => {
    const next = new Set(folded);
    if (!next.delete(id)) next.add(id);
    return { folded: next };
  });
}

/**
 * Tracks as they are listed: those whose name or family holds what is looked for, family by family where they follow one another.
 * @param hasNotes asked where only tracks with notes are wanted
 */
export function groupsOf(
  tracks: readonly Item<'track'>[],
  query: string,
  hasNotes: ((trackId: string) => boolean) | undefined,
): TrackGroup[] {
  const wanted = query.trim().toLowerCase();
  const groups: { id: string; family: string; tracks: Item<'track'>[] }[] = [];
  for (const track of tracks) {
    const { id, name, family } = track;
    if (wanted && !name.toLowerCase().includes(wanted) && !family.toLowerCase().includes(wanted)) continue;
    if (hasNotes && !hasNotes(id)) continue;
    const last = groups.at(-1);
    if (last?.family === family) last.tracks.push(track);
    else groups.push({ id: `${family} ${id}`, family, tracks: [track] });
  }
  return groups;
}

import { naturalId } from '#api/index.ts';
import { withPlayed, type ComingIn, type Part, type Played } from '#core/music/index.ts';
import { cueOf, metreOf, partOf } from './cue.ts';
import type { Edit } from './diff.ts';
import { useDocuments } from './documents.ts';

/** Id of the part of a track in the open cue, with the edit that makes one where there is none. */
export function ensurePart(trackId: string): { partId: string; edits: Edit[] } {
  const { records, cueId = '' } = useDocuments.getState();
  const { id } = partOf(records, trackId);
  if (id !== undefined) return { partId: id, edits: [] };
  // Two people who write the first note of a track make the same part.
  const partId = naturalId('part', cueId, trackId);
  return { partId, edits: [{ kind: 'part', id: partId, op: 'add', fields: { trackId } }] };
}

/** Edits that make one part of another. */
export function partEdits(before: Part, after: Part, partId: string): Edit[] {
  return [
    ...listEdits('note', before.notes, after.notes, partId),
    ...listEdits('mark', before.marks, after.marks, partId),
    ...listEdits('point', before.points, after.points, partId),
  ];
}

function listEdits<T extends { id: string }>(
  kind: 'note' | 'mark' | 'point',
  before: readonly T[],
  after: readonly T[],
  partId: string,
): Edit[] {
  if (before === after) return [];
  const old = new Map(before.map((one) => [one.id, one]));
  const ids = new Set(after.map(({ id }) => id));
  return [
    ...before.flatMap(({ id }): Edit[] => (ids.has(id) ? [] : [{ kind, id, op: 'remove' }])),
    ...after.flatMap((one): Edit[] => {
      const { id, ...fields } = one;
      const was = old.get(id);
      if (was === one) return [];
      if (!was) return [{ kind, id, op: 'add', fields: { ...fields, partId } }];
      const changed = Object.entries(fields).filter(([name, value]) => was[name as keyof T] !== value);
      return changed.length > 0 ? [{ kind, id, op: 'update', fields: Object.fromEntries(changed) }] : [];
    }),
  ];
}

/** Id of something that is new. */
export const newRecordId = () => crypto.randomUUID();

/** How what was played comes to what is there. */
export interface PlayedInto extends Omit<ComingIn, 'newId'> {
  trackId: string;
}

/** Edits that write what was played into the part of a track. */
export function playedEdits(played: Played, { trackId, ...into }: PlayedInto): Edit[] {
  const { partId, edits } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  return [...edits, ...partEdits(part, withPlayed(part, played, { ...into, newId: newRecordId }), partId)];
}

/** Edits by which the open cue reaches to a tick, with the bar it lies in; none where it does already. */
export function reachEdits(tick: number): Edit[] {
  const { records, cueId } = useDocuments.getState();
  const cue = cueOf(records, cueId);
  if (!cue || tick <= cue.endTick) return [];
  const metre = metreOf(records);
  const endTick = metre.barStart(metre.toBarBeat(tick - 1).bar + 1);
  return [{ kind: 'cue', id: cue.id, op: 'update', fields: { endTick } }];
}

import { naturalId } from '#api/index.ts';
import { clearedOfMarks, curveOf, curveValue, type Mark, type Part, type Played } from '#core/music/index.ts';
import { partOf } from './cue.ts';
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

/** Edits that make one list of a part's marks of another. */
export function markEdits(before: readonly Mark[], after: readonly Mark[], partId: string): Edit[] {
  const old = new Map(before.map((mark) => [mark.id, mark]));
  const ids = new Set(after.map(({ id }) => id));
  return [
    ...before.flatMap(({ id }): Edit[] => (ids.has(id) ? [] : [{ kind: 'mark', id, op: 'remove' }])),
    ...after.flatMap((mark): Edit[] => {
      const { id, startTick, endTick, articulation } = mark;
      const was = old.get(id);
      if (was === mark) return [];
      return [
        was
          ? { kind: 'mark', id, op: 'update', fields: { startTick, endTick } }
          : { kind: 'mark', id, op: 'add', fields: { partId, startTick, endTick, articulation } },
      ];
    }),
  ];
}

/** How what was played comes to what is there. */
export interface PlayedInto {
  trackId: string;
  /** Articulation of notes without a mark. */
  unmarked: string;
  /** Ids of the notes, one after the other. */
  newNoteId?: () => string;
  /** Ticks in which notes that are there give way; none where what was played comes to them. */
  replaces?: { fromTick: number; toTick: number };
}

/** Edits that write what was played into a part: notes, marks where they sounded otherwise than there, and the curves that were ridden. */
export function playedEdits(
  played: Played,
  { trackId, unmarked, replaces, newNoteId = () => crypto.randomUUID() }: PlayedInto,
): Edit[] {
  const { partId, edits } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  const newId = () => crypto.randomUUID();
  // Marks of notes that give way go with them.
  const free = replaces ? clearedOfMarks(part.marks, replaces.fromTick, replaces.toTick, newId) : part.marks;
  return [
    ...edits,
    ...(replaces ? cleared(part, replaces) : []),
    ...played.notes.map((note): Edit => ({
      kind: 'note',
      id: newNoteId(),
      op: 'add',
      fields: { ...note, partId },
    })),
    ...markEdits(part.marks, marked(free, played, unmarked), partId),
    ...played.ridden.flatMap((ridden) => curveEdits(part, partId, ridden)),
  ];
}

/** Notes that begin in a span go; those that reach into it end there. */
function cleared({ notes }: Part, { fromTick, toTick }: { fromTick: number; toTick: number }): Edit[] {
  return notes.flatMap(({ id, startTick, endTick }): Edit[] => {
    if (startTick >= fromTick && startTick < toTick) return [{ kind: 'note', id, op: 'remove' }];
    if (startTick < fromTick && endTick > fromTick)
      return [{ kind: 'note', id, op: 'update', fields: { endTick: fromTick } }];
    return [];
  });
}

/** Marks of a part in which stretches sound as they were played. */
function marked(marks: readonly Mark[], { stretches }: Played, unmarked: string): readonly Mark[] {
  return stretches.reduce<readonly Mark[]>((list, { startTick, endTick, articulation }) => {
    const over = list.filter((mark) => mark.endTick > startTick && mark.startTick < endTick);
    const [first] = over;
    const isSo = first
      ? over.length === 1 &&
        first.articulation === articulation &&
        first.startTick <= startTick &&
        first.endTick >= endTick
      : articulation === unmarked;
    if (isSo) return list;
    const rest = clearedOfMarks(list, startTick, endTick, () => crypto.randomUUID());
    return articulation === unmarked
      ? rest
      : [...rest, { id: crypto.randomUUID(), startTick, endTick, articulation }];
  }, marks);
}

/** Edits that put points in the place of what a curve was from the first to the last of them; before and after, the old one holds. */
export function curveEdits(
  part: Part,
  partId: string,
  { controller, points }: Played['ridden'][number],
): Edit[] {
  const from = points[0].tick;
  const to = points[points.length - 1].tick;
  const curve = curveOf(part.points, controller);
  const add = (tick: number, value: number): Edit => ({
    kind: 'point',
    id: crypto.randomUUID(),
    op: 'add',
    fields: { partId, controller, tick, value: Math.round(value * 10) / 10 },
  });
  const old = curve.filter(({ tick }) => tick >= from && tick <= to);
  const stays = curve.filter(({ tick }) => tick < from || tick > to);
  const last = points[points.length - 1].value;
  // A place beside the ridden one keeps the old course up to there, and from there on.
  const beside = (tick: number, ridden: number) => {
    const value = curveValue(curve, tick, ridden);
    return value === ridden || stays.some((one) => one.tick === tick) || tick < 0 ? [] : [add(tick, value)];
  };
  return [
    ...old.map(({ id }): Edit => ({ kind: 'point', id, op: 'remove' })),
    ...(curve.length > 0 && curve[0].tick < from ? beside(from - 1, points[0].value) : []),
    ...points.map(({ tick, value }) => add(tick, value)),
    ...(curve.length > 0 && curve[curve.length - 1].tick > to ? beside(to + 1, last) : []),
  ];
}

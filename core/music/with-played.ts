import type { ArticulationId } from './articulation-id.ts';
import { curveOf, curveValue } from './curve.ts';
import { clearedOfMarks } from './mark-spans.ts';
import type { CurvePoint, Mark, Note, Part } from './part.ts';
import type { Played, Ridden } from './played.ts';

/** How music comes into a part. */
export interface ComingIn {
  /** Articulation of notes without a mark. */
  unmarked: ArticulationId;
  /** Ticks in which what is there gives way, notes with their marks; none where it comes to what is there. */
  replaces?: { fromTick: number; toTick: number };
  newId: () => string;
  /** Ids of the notes, where they are known; new ones unless given. */
  noteIds?: readonly string[];
}

/** A part with music in it: its notes, marks where they would sound otherwise, and its curves in the place of those that were there. */
export function withPlayed(
  part: Part,
  played: Played,
  { unmarked, replaces, newId, noteIds }: ComingIn,
): Part {
  const notes = replaces ? clearedOfNotes(part.notes, replaces) : part.notes;
  // Marks of notes that give way go with them.
  const free = replaces ? clearedOfMarks(part.marks, replaces.fromTick, replaces.toTick, newId) : part.marks;
  return {
    notes: [...notes, ...played.notes.map((note, i) => ({ id: noteIds?.[i] ?? newId(), ...note }))],
    marks: played.stretches.reduce<readonly Mark[]>(
      (marks, stretch) => withStretch(marks, stretch, unmarked, newId),
      free,
    ),
    points: played.ridden.reduce<readonly CurvePoint[]>(
      (points, ridden) => withCurve(points, ridden, newId),
      part.points,
    ),
  };
}

/** Notes that begin in a span go; those that reach into it end there. */
function clearedOfNotes(
  notes: readonly Note[],
  { fromTick, toTick }: { fromTick: number; toTick: number },
): Note[] {
  return notes.flatMap((note) => {
    if (note.startTick >= fromTick && note.startTick < toTick) return [];
    return note.startTick < fromTick && note.endTick > fromTick ? [{ ...note, endTick: fromTick }] : [note];
  });
}

/** Marks under which a stretch sounds as it does. */
function withStretch(
  marks: readonly Mark[],
  { startTick, endTick, articulation }: Omit<Mark, 'id'>,
  unmarked: ArticulationId,
  newId: () => string,
): readonly Mark[] {
  const over = marks.filter((mark) => mark.endTick > startTick && mark.startTick < endTick);
  const [first] = over;
  const isSo = first
    ? over.length === 1 &&
      first.articulation === articulation &&
      first.startTick <= startTick &&
      first.endTick >= endTick
    : articulation === unmarked;
  if (isSo) return marks;
  const rest = clearedOfMarks(marks, startTick, endTick, newId);
  return articulation === unmarked ? rest : [...rest, { id: newId(), startTick, endTick, articulation }];
}

/** Points with others in the place of what a curve was from the first to the last of them; before and after, the old one holds. */
export function withCurve(
  points: readonly CurvePoint[],
  { controller, points: line }: Ridden,
  newId: () => string,
): CurvePoint[] {
  const from = line[0].tick;
  const { tick: to, value: last } = line[line.length - 1];
  const curve = curveOf(points, controller);
  const add = (tick: number, value: number): CurvePoint => ({
    id: newId(),
    controller,
    tick,
    value: Math.round(value * 10) / 10,
  });
  const stays = points.filter((one) => one.controller !== controller || one.tick < from || one.tick > to);
  // A place beside the new ones keeps the old course up to there, and from there on.
  const beside = (tick: number, value: number) => {
    const old = curveValue(curve, tick, value);
    return old === value || curve.some((one) => one.tick === tick) || tick < 0 ? [] : [add(tick, old)];
  };
  return [
    ...stays,
    ...(curve.length > 0 && curve[0].tick < from ? beside(from - 1, line[0].value) : []),
    ...line.map(({ tick, value }) => add(tick, value)),
    ...(curve.length > 0 && curve[curve.length - 1].tick > to ? beside(to + 1, last) : []),
  ];
}

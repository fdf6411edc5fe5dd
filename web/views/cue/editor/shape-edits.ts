import { create } from 'zustand';
import {
  joined,
  quantised,
  split,
  touching,
  withoutOverlaps,
  type Note,
  type NoteChange,
  type Quantising,
} from '#core/music/index.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import type { Edit } from '../../../state/diff.ts';
import { edit } from '../../../state/documents.ts';
import { useEditor } from './editor-state.ts';
import { selectedNotes } from './part-edits.ts';

/** How notes are drawn to the grid of the editor; no part of any document. */
export const useQuantising = create<Omit<Quantising, 'gridTicks'>>(() => ({
  strength: 1,
  swing: 0.5,
  ends: false,
}));

/** A way to change the selected notes as a whole. */
interface Shape {
  name: string;
  /** Letter that does it. */
  key: string;
  change: (notes: readonly Note[]) => NoteChange;
}

/** Ways to change the selected notes as a whole. */
export const SHAPES: readonly Shape[] = [
  {
    name: 'Draw to the grid',
    key: 'r',
    change: (notes) =>
      quantised(notes, { ...useQuantising.getState(), gridTicks: useEditor.getState().gridTicks }),
  },
  { name: 'Close the gaps', key: 'c', change: touching },
  { name: 'Cut overlaps', key: 'z', change: withoutOverlaps },
  {
    name: 'Cut at the playhead',
    key: 'x',
    change: (notes) => split(notes, Math.round(usePerformance.getState().restTick)),
  },
  { name: 'Make one of each key', key: 'i', change: joined },
];

/** Changes the selected notes; what comes is selected with what stays. @returns whether anything changed */
export function shapeSelected({ name, change }: Shape): boolean {
  const notes = selectedNotes();
  const { update, remove, add } = change(notes);
  if (update.length + remove.length + add.length === 0) return false;
  const ids = add.map(() => crypto.randomUUID());
  edit(name, [
    ...update.map(({ id, ...fields }): Edit => ({ kind: 'note', id, op: 'update', fields })),
    ...remove.map((id): Edit => ({ kind: 'note', id, op: 'remove' })),
    ...add.map((note, i): Edit => ({
      kind: 'note',
      id: ids[i],
      op: 'add',
      fields: { ...note, partId: notes[0].partId },
    })),
  ]);
  const gone = new Set(remove);
  useEditor.setState(({ selection }) => ({
    selection: new Set([...[...selection].filter((id) => !gone.has(id)), ...ids]),
  }));
  return true;
}

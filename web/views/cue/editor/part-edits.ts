import type { Note } from '#core/music/index.ts';
import {
  clearedOfMarks,
  curveOf,
  stepInScale,
  withCurve,
  type ArticulationId,
  type CurvePoint,
} from '#core/music/index.ts';
import { edit, itemOf, useDocuments, type Item } from '../../../state/documents.ts';
import type { Edit } from '../../../state/diff.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { partOf } from '../../../state/cue.ts';
import { ensurePart, partEdits } from '../../../state/part-edits.ts';
import { useEditor } from './editor-state.ts';

/** Notes of the current track that are selected. */
export function selectedNotes(): Item<'note'>[] {
  const { records } = useDocuments.getState();
  return [...useEditor.getState().selection]
    .flatMap((id) => itemOf(records, 'note', id) ?? [])
    .sort((a, b) => a.startTick - b.startTick || a.key - b.key);
}

/** Adds notes to a track and selects them. */
export function addNotes(trackId: string, label: string, notes: readonly Omit<Note, 'id'>[]): string[] {
  const { partId, edits } = ensurePart(trackId);
  const ids = notes.map(() => crypto.randomUUID());
  edit(label, [
    ...edits,
    ...notes.map((note, i): Edit => ({ kind: 'note', id: ids[i], op: 'add', fields: { ...note, partId } })),
  ]);
  useEditor.setState({ selection: new Set(ids), markId: undefined });
  return ids;
}

/** Moves notes by ticks and semitones from where they were; what would leave the keyboard or bar 1 stops there. */
export function moveNotes(
  notes: readonly Item<'note'>[],
  ticks: number,
  semitones: number,
  merge?: string,
): void {
  const least = Math.min(...notes.map((note) => note.startTick));
  const low = Math.min(...notes.map((note) => note.key));
  const high = Math.max(...notes.map((note) => note.key));
  const dt = Math.max(-least, ticks);
  const dk = Math.min(127 - high, Math.max(-low, semitones));
  edit(
    'Move notes',
    notes.map((note): Edit => ({
      kind: 'note',
      id: note.id,
      op: 'update',
      fields: { startTick: note.startTick + dt, endTick: note.endTick + dt, key: note.key + dk },
    })),
    merge,
  );
}

/** Moves notes by steps of the editor's scale; none moves when one would leave the keyboard. @returns whether they moved */
export function moveBySteps(notes: readonly Item<'note'>[], steps: number, merge?: string): boolean {
  const { scale } = useEditor.getState();
  const moved = notes.map((note) => ({ id: note.id, key: stepInScale(scale, note.key, steps) }));
  if (moved.length === 0 || moved.some(({ key }) => key < 0 || key > 127)) return false;
  edit(
    'Move notes in the scale',
    moved.map(({ id, key }): Edit => ({ kind: 'note', id, op: 'update', fields: { key } })),
    merge,
  );
  return true;
}

/** Changes the ends of notes by ticks; none gets shorter than `least`. */
export function resizeNotes(
  notes: readonly Item<'note'>[],
  ticks: number,
  least: number,
  merge?: string,
): void {
  edit(
    'Change length',
    notes.map((note): Edit => ({
      kind: 'note',
      id: note.id,
      op: 'update',
      fields: { endTick: Math.max(note.startTick + least, note.endTick + ticks) },
    })),
    merge,
  );
}

/** Sets the length of notes, ticks. */
export function setLength(notes: readonly Item<'note'>[], ticks: number): void {
  edit(
    'Change length',
    notes.map(({ id, startTick }): Edit => ({
      kind: 'note',
      id,
      op: 'update',
      fields: { endTick: startTick + Math.max(1, ticks) },
    })),
  );
}

/** Sets the velocity of notes. */
export function setVelocity(notes: readonly Item<'note'>[], velocity: number): void {
  const value = Math.min(127, Math.max(1, Math.round(velocity)));
  edit(
    'Velocity',
    notes.map((note): Edit => ({ kind: 'note', id: note.id, op: 'update', fields: { velocity: value } })),
    'velocity',
  );
}

/** Sets the velocities of notes, each its own. @param merge steps of the same name become one */
export function setVelocities(
  changes: readonly Pick<Item<'note'>, 'id' | 'velocity'>[],
  merge?: string,
): void {
  const { records } = useDocuments.getState();
  const list = changes.filter(({ id, velocity }) => itemOf(records, 'note', id)?.velocity !== velocity);
  if (list.length === 0) return;
  edit(
    'Velocity',
    list.map(({ id, velocity }): Edit => ({ kind: 'note', id, op: 'update', fields: { velocity } })),
    merge,
  );
}

/** Removes the selected notes, or else the selected mark. */
export function removeSelected(): void {
  const { selection, markId } = useEditor.getState();
  if (selection.size > 0)
    edit(
      'Delete notes',
      [...selection].map((id): Edit => ({ kind: 'note', id, op: 'remove' })),
    );
  else if (markId) edit('Delete mark', [{ kind: 'mark', id: markId, op: 'remove' }]);
  useEditor.setState({ selection: new Set(), markId: undefined });
}

let clipboard: Omit<Note, 'id'>[] = [];

/** Gives notes their syllables in turn; those left over get none. */
export function setSyllables(notes: readonly Item<'note'>[], syllables: readonly string[]): void {
  edit(
    'Syllables',
    notes.map(({ id }, i): Edit => ({
      kind: 'note',
      id,
      op: 'update',
      fields: { syllable: syllables.at(i) ?? '' },
    })),
  );
}

/** Keeps copies of the selected notes, counted from the first one's start. */
export function copySelected(): void {
  const notes = selectedNotes();
  if (notes.length === 0) return;
  const first = Math.min(...notes.map((note) => note.startTick));
  clipboard = notes.map(({ startTick, endTick, key, velocity, syllable }) => ({
    startTick: startTick - first,
    endTick: endTick - first,
    key,
    velocity,
    syllable,
  }));
}

/** Puts the copies at the resting playhead. */
export function paste(trackId: string): void {
  if (clipboard.length === 0) return;
  const at = usePerformance.getState().restTick;
  addNotes(
    trackId,
    'Paste notes',
    clipboard.map((note) => ({ ...note, startTick: note.startTick + at, endTick: note.endTick + at })),
  );
}

/** Gives a span of a track an articulation: marks under it are cut back, split or removed. */
export function markSpan(
  trackId: string,
  startTick: number,
  endTick: number,
  articulation: ArticulationId,
): void {
  const { partId, edits } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  const id = crypto.randomUUID();
  const rest = clearedOfMarks(part.marks, startTick, endTick, () => crypto.randomUUID());
  const marks = [...rest, { id, startTick, endTick, articulation }];
  edit('Mark', [...edits, ...partEdits(part, { ...part, marks }, partId)]);
  useEditor.setState({ markId: id });
}

/** Puts drawn points in the place of those within their span. */
export function replacePoints(
  trackId: string,
  controller: number,
  points: readonly { tick: number; value: number }[],
): void {
  if (points.length === 0) return;
  const { partId, edits } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  const from = points[0].tick;
  const to = points[points.length - 1].tick;
  const old = part.points.filter(
    (point) => point.controller === controller && point.tick >= from && point.tick <= to,
  );
  edit('Draw curve', [
    ...edits,
    ...old.map((point): Edit => ({ kind: 'point', id: point.id, op: 'remove' })),
    ...points.map((point): Edit => ({
      kind: 'point',
      id: crypto.randomUUID(),
      op: 'add',
      fields: {
        partId,
        controller,
        tick: Math.max(0, Math.round(point.tick)),
        value: Math.round(Math.min(127, Math.max(0, point.value)) * 10) / 10,
      },
    })),
  ]);
}

/** Sets one point of a curve at a tick, moving one that is there already. */
export function setPoint(trackId: string, controller: number, tick: number, value: number): void {
  const { partId, edits } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  const there = part.points.find((point) => point.controller === controller && point.tick === tick);
  const held = Math.min(127, Math.max(0, value));
  if (there)
    edit('Curve point', [{ kind: 'point', id: there.id, op: 'update', fields: { value: held } }], 'point');
  else
    edit(
      'Curve point',
      [
        ...edits,
        {
          kind: 'point',
          id: crypto.randomUUID(),
          op: 'add',
          fields: { partId, controller, tick, value: held },
        },
      ],
      'point',
    );
}

/** Removes the point at a tick, if there is one. */
export function removePoint(trackId: string, controller: number, tick: number): void {
  const { part } = partOf(useDocuments.getState().records, trackId);
  const there = part.points.find((point) => point.controller === controller && point.tick === tick);
  if (there) edit('Delete curve point', [{ kind: 'point', id: there.id, op: 'remove' }]);
}

/** Puts other points in the place of a curve over a span, as one step. @returns false where there is no curve */
export function changeCurve(
  trackId: string,
  controller: number,
  label: string,
  change: (curve: readonly CurvePoint[]) => readonly { tick: number; value: number }[],
): boolean {
  const { partId } = ensurePart(trackId);
  const { part } = partOf(useDocuments.getState().records, trackId);
  const points = change(curveOf(part.points, controller));
  if (points.length === 0) return false;
  const next = withCurve(part.points, { controller, points: [...points] }, () => crypto.randomUUID());
  edit(label, partEdits(part, { ...part, points: next }, partId));
  return true;
}

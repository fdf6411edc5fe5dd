import { partFromSmf, type ReadPart, type SmfTrack } from '../formats/index.ts';
import type { Keymap } from '../keymap/index.ts';
import type { Note, Part } from '../music/index.ts';
import { planPart, type PlanContext } from '../performance/index.ts';

/** Notes lie on a grid this fine once their leads are taken back: 24 to a quarter. */
const GRID_TICKS = 40;
/** How far connected notes are performed into the next one, and a little more. */
const OVERLAP_TICKS = 40;
/** Times the planner is asked; each halves what is left, and more. */
const ROUNDS = 4;

/**
 * Reads performed MIDI tracks back into a part: triggers become marks by the keymap, and every note goes back to the beat
 * it was meant for, by the leads the planner would give it. The inverse of `performedMidi` for one part.
 * @param aheadTicks empty time in front of the file's first beat
 * @param endTick where the last mark ends at the latest, in the part's own time
 */
export function readPerformed(
  tracks: readonly SmfTrack[],
  keymap: Keymap,
  context: PlanContext,
  aheadTicks: number,
  endTick: number,
): ReadPart {
  const heard = partFromSmf(tracks, keymap, context.articulation, endTick + aheadTicks);
  const { tempo } = context;
  const shifted = heard.notes.map((note, i) => ({
    ...note,
    id: `read ${i}`,
    startTick: note.startTick - aheadTicks,
    endTick: note.endTick - aheadTicks,
  }));
  const marks = heard.marks.map((mark, i) => ({
    ...mark,
    id: `mark ${i}`,
    startTick: mark.startTick - aheadTicks,
    endTick: mark.endTick - aheadTicks,
  }));
  const points = heard.points.map((point, i) => ({
    ...point,
    id: `point ${i}`,
    tick: Math.max(0, point.tick - aheadTicks),
  }));
  const performed = new Map(shifted.map((note) => [note.id, tempo.toSeconds(note.startTick)]));
  const followers = shifted.map((note) => followerOf(note, shifted));
  let notes: Note[] = shifted;
  // What is heard begins a lead before its beat: the beat is looked for whose lead leads there.
  for (let round = 0; round < ROUNDS; round++) {
    const part: Part = { notes, marks: marksAround(marks, shifted, notes), points };
    const begins = new Map<string, number>();
    for (const { sounds } of planPart(part, context).segments)
      for (const sound of sounds)
        if (sound.gesture !== 'hold' && !begins.has(sound.noteId))
          begins.set(sound.noteId, sound.startSeconds);
    const starts = notes.map((note) => {
      const wanted = performed.get(note.id) ?? 0;
      const late = wanted - (begins.get(note.id) ?? wanted);
      return Math.round(tempo.toTicks(tempo.toSeconds(note.startTick) + late));
    });
    notes = placed(shifted, starts, followers);
  }
  const onGrid = notes.map((note) => Math.max(0, Math.round(note.startTick / GRID_TICKS) * GRID_TICKS));
  const snapped = placed(shifted, onGrid, followers);
  const after = marksAround(marks, shifted, snapped);
  return {
    notes: snapped.map(({ startTick, endTick, key, velocity }) => ({ startTick, endTick, key, velocity })),
    marks: after.map(({ startTick, endTick: end, articulation }) => ({
      startTick,
      endTick: Math.max(startTick + 1, end),
      articulation,
    })),
    points: points.map(({ controller, tick, value }) => ({ controller, tick, value })),
    switches: heard.switches,
  };
}

/** The note that another reaches just into, as connected notes are performed; −1 when there is none. */
function followerOf(note: Note, notes: readonly Note[]): number {
  return notes.findIndex(
    (next) =>
      next !== note &&
      next.startTick > note.startTick &&
      next.startTick <= note.endTick &&
      note.endTick - next.startTick <= OVERLAP_TICKS,
  );
}

/** Notes with other beginnings; those that reach into another one go on to do so. */
function placed(notes: readonly Note[], starts: readonly number[], followers: readonly number[]): Note[] {
  return notes.map((note, i) => {
    const endTick = followers[i] < 0 ? note.endTick : starts[followers[i]];
    return { ...note, startTick: starts[i], endTick: Math.max(starts[i] + 1, endTick) };
  });
}

/** Marks over the same notes as before, after the notes have moved. */
function marksAround<M extends { startTick: number; endTick: number; articulation: string }>(
  marks: readonly M[],
  before: readonly Note[],
  now: readonly Note[],
): M[] {
  const moved = new Map(before.map((note, i) => [note.startTick, now[i].startTick]));
  return marks.map((mark) => ({
    ...mark,
    startTick: moved.get(mark.startTick) ?? mark.startTick,
    endTick: moved.get(mark.endTick) ?? mark.endTick,
  }));
}

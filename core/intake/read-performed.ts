import { partFromSong, type ReadPart, type SongTrack } from '../formats/index.ts';
import type { Keymap } from '../keymap/index.ts';
import type { Note, Part } from '../music/index.ts';
import { planPart, type PlanContext } from '../performance/index.ts';

/** Notes lie on a grid this fine once their leads are taken back: 24 to a quarter. */
const GRID_TICKS = 40;
/** How far connected notes are performed into the next one, and a little more. */
const OVERLAP_TICKS = 40;
/** Fewer notes than this tell nothing of where they are meant. */
const LEAST_NOTES = 4;
/** Notes lie on beats when they are on the whole no further from them than this. */
const NEAR_TICKS = 25;
/** Times the planner is asked; each halves what is left, and more. */
const ROUNDS = 4;

/**
 * Reads performed MIDI tracks back into a part: triggers become marks by the keymap, and every note goes back to the beat
 * it was meant for, by the leads the planner would give it. The inverse of `performedMidi` for one part.
 * @param aheadTicks empty time in front of the file's first beat
 * @param endTick where the last mark ends at the latest, in the part's own time
 */
export function readPerformed(
  tracks: readonly SongTrack[],
  keymap: Keymap,
  context: PlanContext,
  aheadTicks: number,
  endTick: number,
): ReadPart {
  const heard = partFromSong(tracks, keymap, context.articulation, endTick + aheadTicks);
  return withoutLeads(heard, context, aheadTicks).snapped(
    (tick) => Math.round(tick / GRID_TICKS) * GRID_TICKS,
  );
}

/**
 * Reads tracks of others whose notes were moved ahead, so that slow techniques speak on their beats: where a keymap's triggers are
 * found, and notes lie much nearer to beats once the leads the planner would give them are taken back. Those near to one go there.
 * @returns undefined where notes had better stay as they are
 */
export function readAhead(
  tracks: readonly SongTrack[],
  keymap: Keymap,
  context: PlanContext,
  endTick: number,
): ReadPart | undefined {
  const heard = partFromSong(tracks, keymap, context.articulation, endTick);
  if (heard.notes.length < LEAST_NOTES || (heard.switches === 0 && heard.marks.length === 0))
    return undefined;
  const back = withoutLeads(heard, context, 0);
  const near = offBeats(back.notes);
  if (near > NEAR_TICKS || near >= offBeats(heard.notes) / 2) return undefined;
  return back.snapped((tick) => {
    const beat = nearestBeat(tick);
    return Math.abs(beat - tick) <= 2 * NEAR_TICKS ? beat : tick;
  });
}

/** What people write notes on: sixteenths and triplets of quavers. */
const BEATS = [240, 320];
const nearestBeat = (tick: number) =>
  BEATS.map((step) => Math.round(tick / step) * step).reduce((best, one) =>
    Math.abs(one - tick) < Math.abs(best - tick) ? one : best,
  );

/** Middle distance of notes from beats, in ticks; about 50 where they have nothing to do with any. */
function offBeats(notes: readonly { startTick: number }[]): number {
  const off = notes
    .map(({ startTick }) => Math.abs(startTick - nearestBeat(startTick)))
    .sort((a, b) => a - b);
  return off[off.length >> 1];
}

/** A part with the leads of its notes taken back, to be put on a grid. */
function withoutLeads(heard: ReadPart, context: PlanContext, aheadTicks: number) {
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
  const snapped = (grid: (tick: number) => number): ReadPart => {
    const onGrid = notes.map((note) => Math.max(0, grid(note.startTick)));
    const moved = placed(shifted, onGrid, followers);
    const after = marksAround(marks, shifted, moved);
    return {
      notes: moved.map(({ startTick, endTick, key, velocity }) => ({ startTick, endTick, key, velocity })),
      marks: after.map(({ startTick, endTick: end, articulation }) => ({
        startTick,
        endTick: Math.max(startTick + 1, end),
        articulation,
      })),
      points: points.map(({ controller, tick, value }) => ({ controller, tick, value })),
      switches: heard.switches,
    };
  };
  return { notes, snapped };
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

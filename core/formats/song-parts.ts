import {
  compileKeymap,
  initialState,
  laneName,
  Responses,
  resolve,
  type CompiledKeymap,
  type Keymap,
  type KeymapEvent,
  type KeymapState,
} from '../keymap/index.ts';
import { fittedLine, type ArticulationId, type CurvePoint, type Mark, type Note } from '../music/index.ts';
import type { SongTrack } from './song.ts';

/** What tracks of a song become; ids are the caller's to give. */
export interface ReadPart {
  notes: Omit<Note, 'id'>[];
  marks: Omit<Mark, 'id'>[];
  points: Omit<CurvePoint, 'id'>[];
  /** Notes on keys that select an articulation: they became marks. */
  switches: number;
}

/** A note with what the keymap made of it. */
interface HeardNote {
  note: Omit<Note, 'id'>;
  articulation: ArticulationId;
}

/**
 * Turns the tracks of one part into it: controllers become curves with steps kept as steps; keyswitches, programs,
 * controllers and channels that select articulations become marks that hold until the next one.
 * @param keymap of the track it goes to; undefined keeps every note and makes no marks
 * @param articulation what notes without a mark get there
 * @param endTick where the last mark ends at the latest
 */
export function partFromSong(
  tracks: readonly SongTrack[],
  keymap: Keymap | undefined,
  articulation: ArticulationId,
  endTick: number,
): ReadPart {
  const heard = keymap
    ? hear(tracks, keymap, articulation)
    : tracks.flatMap(({ notes }) => notes.map((note) => ({ note: plain(note), articulation })));
  heard.sort((a, b) => a.note.startTick - b.note.startTick || a.note.key - b.note.key);
  const all = tracks.reduce((sum, track) => sum + track.notes.length, 0);
  const listens = keymap && compileKeymap(keymap).listens;
  const responses = new Responses(keymap?.rides);
  const points = tracks
    .flatMap((track) => [...pointsOf(track), ...(track.points ?? [])])
    .filter(({ controller }) => !listens?.has(controller))
    .map((point) => ({ ...point, controller: responses.written(point.controller) }));
  return {
    notes: heard.map(({ note }) => note),
    marks: [...marksOf(heard, articulation, endTick), ...tracks.flatMap(({ marks }) => marks ?? [])],
    points,
    switches: all - heard.length,
  };
}

const plain = ({ startTick, endTick, key, velocity, syllable }: Omit<Note, 'id'>): Omit<Note, 'id'> => ({
  startTick,
  endTick,
  key,
  velocity,
  ...(syllable ? { syllable } : {}),
});

interface Timed {
  tick: number;
  /** Of one tick: what selects goes before what sounds, and keys are let go last. */
  rank: number;
  event: KeymapEvent;
  note?: SongTrack['notes'][number];
}

/** Plays tracks to a keymap. A track named after an articulation (“Violins · staccato”) is that articulation's own. */
function hear(tracks: readonly SongTrack[], keymap: Keymap, articulation: ArticulationId): HeardNote[] {
  const compiled = compileKeymap(keymap);
  const heard: HeardNote[] = [];
  let shared: KeymapState = initialState(keymap, articulation);
  const own = (track: SongTrack) =>
    keymap.entries.find((entry) => track.name.endsWith(laneName(entry.articulation)));
  const timed = tracks.filter((track) => !own(track)).flatMap((track) => timedOf(track, compiled));
  timed.sort((a, b) => a.tick - b.tick || a.rank - b.rank);
  for (const { event, note } of timed) {
    const { state, taken, articulation: got } = resolve(compiled, shared, event);
    shared = state;
    if (note && !taken) heard.push({ note: plain(note), articulation: got });
  }
  for (const track of tracks) {
    const entry = own(track);
    if (entry)
      for (const note of track.notes) heard.push({ note: plain(note), articulation: entry.articulation });
  }
  return heard;
}

function timedOf(track: SongTrack, { switches, listens }: CompiledKeymap): Timed[] {
  const { channel } = track;
  const list: Timed[] = [];
  for (const note of track.notes) {
    const { key, velocity, startTick, endTick } = note;
    const isSwitch = switches[key] > 0;
    list.push({
      tick: startTick,
      rank: isSwitch ? 1 : 2,
      event: { kind: 'press', channel, key, velocity },
      note,
    });
    if (isSwitch) list.push({ tick: endTick, rank: 3, event: { kind: 'release', key } });
  }
  for (const { tick, program } of track.programs)
    list.push({ tick, rank: 1, event: { kind: 'program', program } });
  let upper = 0;
  for (const { tick, controller, value } of [...track.controls].sort((a, b) => a.tick - b.tick))
    if (listens.has(controller)) list.push({ tick, rank: 0, event: { kind: 'control', controller, value } });
    else if (controller === 0) upper = Math.round(value);
    else if (controller === 32)
      list.push({ tick, rank: 0, event: { kind: 'bank', bank: upper * 128 + Math.round(value) } });
  return list;
}

/** Marks over runs of notes that get another articulation than the part's own. */
function marksOf(heard: readonly HeardNote[], base: ArticulationId, endTick: number): Omit<Mark, 'id'>[] {
  const marks: Omit<Mark, 'id'>[] = [];
  const last = heard.reduce((end, { note }) => Math.max(end, note.endTick), endTick);
  let present: { articulation: ArticulationId; startTick: number } | undefined;
  const close = (tick: number) => {
    if (present && tick > present.startTick) marks.push({ ...present, endTick: tick });
    present = undefined;
  };
  for (const { note, articulation } of heard) {
    if ((present?.articulation ?? base) === articulation) continue;
    close(note.startTick);
    if (articulation !== base) present = { articulation, startTick: note.startTick };
  }
  close(last);
  return marks;
}

/** MIDI controllers hold their value until the next message: where that is a jump, the curve jumps too. */
function pointsOf(track: SongTrack): Omit<CurvePoint, 'id'>[] {
  const points: Omit<CurvePoint, 'id'>[] = [];
  const byController = new Map<number, { tick: number; value: number }[]>();
  for (const { controller, tick, value } of track.controls) {
    const list = byController.get(controller);
    if (list) list.push({ tick, value });
    else byController.set(controller, [{ tick, value }]);
  }
  for (const [controller, list] of byController) {
    list.sort((a, b) => a.tick - b.tick);
    const line: { tick: number; value: number }[] = [];
    list.forEach((point, i) => {
      const before = list[i - 1];
      // Dense messages are a drawn line; distant ones are steps.
      if (before && point.tick - before.tick > STEP_TICKS && point.value !== before.value)
        line.push({ tick: point.tick - 1, value: before.value });
      line.push({ tick: point.tick, value: point.value });
    });
    points.push(...fittedLine(line, THIN).map((point) => ({ ...point, controller })));
  }
  return points;
}

const STEP_TICKS = 120;
/** A line that was sent in whole steps is within half of one. */
const THIN = 0.499;

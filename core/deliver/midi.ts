import {
  curveOf,
  metreTicks,
  type MetreChange,
  type Part,
  type TempoChange,
  type TempoMap,
} from '../music/index.ts';
import type { Trigger } from '../keymap/index.ts';
import { curveSteps, type Plan, type PlannedSound } from '../performance/index.ts';
import type { SmfControl, SmfNote, SmfSong, SmfTrack } from '../formats/index.ts';

/** One track of a cue, as MIDI export needs it. */
export interface MidiTrackSource {
  name: string;
  part: Part;
  /** Needed for the performed way only. */
  plan?: Plan;
  triggers?: readonly Trigger[];
}

interface CueFacts {
  tempos: readonly TempoChange[];
  metres: readonly MetreChange[];
  markers: readonly { tick: number; text: string }[];
}

const DRUM_CHANNEL = 9;
/** A keyswitch is pressed this long before the first sound it is meant for. */
const SWITCH_AHEAD_TICKS = 40;
const SWITCH_LENGTH_TICKS = 30;

const channelOf = (index: number) => (index % 15) + (index % 15 >= DRUM_CHANNEL ? 1 : 0);

/** Notes on the grid, curves as drawn, articulations as text: what another program or a copyist wants. */
export function cleanMidi(cue: CueFacts, tracks: readonly MidiTrackSource[], tempo: TempoMap): SmfSong {
  return {
    tempos: [...cue.tempos],
    metres: [...cue.metres],
    texts: cue.markers.map(({ tick, text }) => ({ tick, text })),
    tracks: tracks.map(({ name, part }, i): SmfTrack => ({
      name,
      channel: channelOf(i),
      notes: part.notes.map(({ startTick, endTick, key, velocity }) => ({
        startTick,
        endTick,
        key,
        velocity,
      })),
      controls: controls(part, tempo),
      programs: [],
      texts: part.marks.map((mark) => ({ tick: mark.startTick, text: mark.articulation })),
    })),
  };
}

/**
 * As the library must be played: notes moved ahead by their leads, connected notes overlapped, keyswitches
 * pressed before the notes that need them. One empty bar stands in front, so that the first lead has room.
 */
export function performedMidi(cue: CueFacts, tracks: readonly MidiTrackSource[], tempo: TempoMap): SmfSong {
  const first = [...cue.metres].sort((a, b) => a.tick - b.tick)[0] ?? {
    tick: 0,
    numerator: 4,
    denominator: 4,
  };
  const ahead = metreTicks(first).bar;
  const later = <T extends { tick: number }>(list: readonly T[]): T[] =>
    list.map((item) => ({ ...item, tick: item.tick === 0 ? 0 : item.tick + ahead }));
  return {
    tempos: later(cue.tempos),
    metres: later(cue.metres),
    texts: [
      { tick: 0, text: 'one empty bar, so that leads have room' },
      ...cue.markers.map(({ tick, text }) => ({ tick: tick + ahead, text })),
    ],
    tracks: tracks.map(({ name, part, plan, triggers = [] }, i): SmfTrack => ({
      name,
      channel: channelOf(i),
      notes: plan ? performedNotes(plan, triggers, tempo, ahead) : [],
      controls: controls(part, tempo).map((control) => ({
        ...control,
        tick: control.tick === 0 ? 0 : control.tick + ahead,
      })),
      programs: [],
      texts: [],
    })),
  };
}

function performedNotes(plan: Plan, triggers: readonly Trigger[], tempo: TempoMap, ahead: number): SmfNote[] {
  const toTick = (time: number) => Math.max(0, Math.round(tempo.toTicks(time)) + ahead);
  const keyOf = new Map(triggers.map((trigger) => [trigger.articulation, trigger.key]));
  const written = new Map(plan.notes.map((note) => [note.id, note]));
  const sounds = plan.segments
    .flatMap((segment) => segment.sounds)
    .filter((sound) => sound.gesture !== 'hold');
  sounds.sort((a, b) => a.startSeconds - b.startSeconds);
  const notes: SmfNote[] = [];
  let selected = -1;
  sounds.forEach((sound, i) => {
    const start = toTick(sound.startSeconds);
    if (sound.articulation !== selected) {
      selected = sound.articulation;
      const key = keyOf.get(plan.context.instrument.articulations[selected].id);
      const at = Math.max(0, start - SWITCH_AHEAD_TICKS);
      if (key !== undefined)
        notes.push({ startTick: at, endTick: at + SWITCH_LENGTH_TICKS, key, velocity: 100 });
    }
    const note = written.get(sound.noteId);
    if (!note) return;
    notes.push({
      startTick: start,
      endTick: Math.max(start + 1, endOf(sound, sounds[i + 1], tempo, ahead, note.endTick)),
      key: note.key,
      velocity: note.velocity,
    });
  });
  return notes.sort((a, b) => a.startTick - b.startTick || a.key - b.key);
}

/** Connected notes reach a little over the beginning of the next, which tells a sampler to connect them. */
function endOf(
  sound: PlannedSound,
  next: PlannedSound | undefined,
  tempo: TempoMap,
  ahead: number,
  writtenEnd: number,
): number {
  if (next?.gesture === 'move' && next.fromKey === sound.key)
    return Math.round(tempo.toTicks(next.startSeconds)) + ahead + 24;
  return writtenEnd + ahead;
}

/** Curves as controller messages, thinned to whole values. */
function controls(part: Part, tempo: TempoMap): SmfControl[] {
  const list: SmfControl[] = [];
  for (const controller of new Set(part.points.map((point) => point.controller))) {
    let last = -1;
    for (const { time, value } of curveSteps(curveOf(part.points, controller), tempo)) {
      const rounded = controller > 127 ? value : Math.round(value);
      if (rounded === last) continue;
      last = rounded;
      list.push({ tick: Math.max(0, Math.round(tempo.toTicks(time))), controller, value: rounded });
    }
  }
  return list;
}

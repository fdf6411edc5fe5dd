import {
  curveOf,
  metreTicks,
  MarkLine,
  steppedTempos,
  type KeyChange,
  type MetreChange,
  type Note,
  type Part,
  type TempoChange,
  type TempoMap,
} from '../music/index.ts';
import {
  compileKeymap,
  EMPTY_BAR,
  initialState,
  laneName,
  Responses,
  selectingOf,
  type CompiledKeymap,
  type Keymap,
  type KeymapEvent,
  type KeymapState,
} from '../keymap/index.ts';
import { curveSteps, type Plan, type PlannedSound } from '../performance/index.ts';
import { channelOf, type Song, type SongControl, type SongTrack } from '../formats/index.ts';

/** One track of a cue, as MIDI export needs it. */
export interface MidiTrackSource {
  name: string;
  part: Part;
  /** Needed for the performed way only. */
  plan?: Plan;
  keymap?: Keymap;
}

interface CueFacts {
  tempos: readonly TempoChange[];
  metres: readonly MetreChange[];
  keys: readonly KeyChange[];
  markers: readonly { tick: number; text: string }[];
}

/** What selects an articulation is sent this long before the first sound it is meant for, one after the other. */
const SWITCH_AHEAD_TICKS = 40;
const SWITCH_LENGTH_TICKS = 30;
const SWITCH_APART_TICKS = 2;

/** Notes on the grid, curves as drawn, articulations as text: what another program or a copyist wants. */
export function cleanMidi(cue: CueFacts, tracks: readonly MidiTrackSource[], tempo: TempoMap): Song {
  return {
    tempos: steppedTempos(cue.tempos),
    metres: [...cue.metres],
    keys: [...cue.keys],
    texts: cue.markers.map(({ tick, text }) => ({ tick, text })),
    tracks: tracks.map(({ name, part }, i): SongTrack => ({
      name,
      channel: channelOf(i),
      notes: part.notes.map(({ startTick, endTick, key, velocity, syllable }) => ({
        startTick,
        endTick,
        key,
        velocity,
        ...(syllable ? { syllable } : {}),
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
export function performedMidi(cue: CueFacts, tracks: readonly MidiTrackSource[], tempo: TempoMap): Song {
  const first = [...cue.metres].sort((a, b) => a.tick - b.tick)[0] ?? {
    tick: 0,
    numerator: 4,
    denominator: 4,
  };
  const ahead = metreTicks(first).bar;
  const later = <T extends { tick: number }>(list: readonly T[]): T[] =>
    list.map((item) => ({ ...item, tick: item.tick === 0 ? 0 : item.tick + ahead }));
  return {
    tempos: later(steppedTempos(cue.tempos)),
    metres: later(cue.metres),
    keys: later(cue.keys),
    texts: [
      { tick: 0, text: EMPTY_BAR },
      ...cue.markers.map(({ tick, text }) => ({ tick: tick + ahead, text })),
    ],
    tracks: tracks.flatMap(({ name, part, plan, keymap }, i): SongTrack[] => {
      const responses = new Responses(keymap?.rides);
      const curves = controls(part, tempo).map((control) => ({
        ...control,
        controller: responses.wire(control.controller),
        tick: control.tick === 0 ? 0 : control.tick + ahead,
      }));
      const performed = plan
        ? new Performed(name, channelOf(i), plan, keymap, tempo, ahead).write()
        : [emptyTrack(name, channelOf(i))];
      // Every channel and every track of its own needs the curves: a sampler behind it hears nothing of the others.
      return performed.map((track) => ({ ...track, controls: [...track.controls, ...curves] }));
    }),
  };
}

const emptyTrack = (name: string, channel: number): SongTrack => ({
  name,
  channel,
  notes: [],
  controls: [],
  programs: [],
  texts: [],
});

/** One part on its way into MIDI tracks: the one it shares, one per channel that its triggers ask for, and one per articulation without a trigger. */
class Performed {
  private readonly tracks = new Map<string, SongTrack>();
  private readonly compiled: CompiledKeymap;
  private readonly marks: MarkLine;
  private state: KeymapState;

  constructor(
    private readonly name: string,
    private readonly channel: number,
    private readonly plan: Plan,
    keymap: Keymap | undefined,
    private readonly tempo: TempoMap,
    private readonly ahead: number,
  ) {
    const used = keymap ?? { id: '', name: '', initial: plan.context.articulation, entries: [] };
    this.compiled = compileKeymap(used);
    this.state = initialState(used, plan.context.articulation);
    this.marks = new MarkLine(plan.part.marks);
    this.track(channel);
  }

  private track(channel: number, lane = ''): SongTrack {
    const id = `${channel}${lane}`;
    let track = this.tracks.get(id);
    if (!track) this.tracks.set(id, (track = emptyTrack(`${this.name}${lane}`, channel)));
    return track;
  }

  write(): SongTrack[] {
    const written = new Map(this.plan.notes.map((note) => [note.id, note]));
    // One sound a note stands for it: what sounds beside it, and the tone after a move, are the sampler's own affair.
    const told = new Set<string>();
    const sounds = this.plan.segments
      .flatMap((segment) => segment.sounds)
      .filter((sound) => sound.gesture !== 'hold' && !told.has(sound.noteId) && told.add(sound.noteId))
      .sort((a, b) => a.startSeconds - b.startSeconds);
    sounds.forEach((sound, i) => {
      const note = written.get(sound.noteId);
      if (note) this.note(sound, sounds[i + 1], note);
    });
    for (const { notes } of this.tracks.values())
      notes.sort((a, b) => a.startTick - b.startTick || a.key - b.key);
    return [...this.tracks.values()];
  }

  private note(sound: PlannedSound, next: PlannedSound | undefined, note: Note): void {
    const { tempo, ahead, channel } = this;
    const startTick = Math.max(0, Math.round(tempo.toTicks(sound.startSeconds)) + ahead);
    const endTick = Math.max(startTick + 1, endOf(sound, next, tempo, ahead, note.endTick));
    const played = { startTick, endTick, key: note.key, velocity: note.velocity };
    const wanted = this.marks.at(note.startTick) ?? this.plan.context.articulation;
    const selecting = selectingOf(this.compiled, this.state, wanted, { channel, velocity: note.velocity });
    if (!selecting) {
      this.track(channel, laneName(wanted)).notes.push(played);
      return;
    }
    this.state = selecting.state;
    const track = this.track(selecting.channel);
    selecting.before.forEach((event, i) =>
      this.send(track, event, startTick + 1, SWITCH_AHEAD_TICKS - i * SWITCH_APART_TICKS, selecting.heldKeys),
    );
    track.notes.push({ ...played, velocity: selecting.velocity });
  }

  private send(
    track: SongTrack,
    event: KeymapEvent,
    until: number,
    before: number,
    held: readonly number[],
  ): void {
    const tick = Math.max(0, until - 1 - before);
    switch (event.kind) {
      case 'press': {
        const endTick = held.includes(event.key) ? until : tick + SWITCH_LENGTH_TICKS;
        track.notes.push({ startTick: tick, endTick, key: event.key, velocity: event.velocity });
        break;
      }
      case 'control':
        track.controls.push({ tick, controller: event.controller, value: event.value });
        break;
      case 'program':
        track.programs.push({ tick, program: event.program });
        break;
      case 'bank':
        track.controls.push({ tick, controller: 0, value: event.bank >> 7 });
        track.controls.push({ tick, controller: 32, value: event.bank & 127 });
        break;
      default:
    }
  }
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
function controls(part: Part, tempo: TempoMap): SongControl[] {
  const list: SongControl[] = [];
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

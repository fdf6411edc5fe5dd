import { articulationTerm, type Instrument } from '../catalogue/index.ts';
import { hashText } from '../dsp/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import {
  CONTROLLER,
  controllerRest,
  curveOf,
  curveValue,
  type ArticulationId,
  type CurvePoint,
  type Mark,
  type Note,
  type Part,
  type TempoMap,
} from '../music/index.ts';
import { Leads } from './leads.ts';
import { nextTake } from './takes.ts';

/**
 * How connected notes are played: `immediate` enters the recorded move shortly before its landing, on the beat;
 * `natural` plays the whole move from the beat on; `planned` begins early, so that it lands on the beat.
 */
export type ConnectedMode = 'immediate' | 'natural' | 'planned';

/** What a part is planned for. */
export interface PlanContext {
  tempo: TempoMap;
  instrument: Instrument;
  mix: TrackMix;
  mode: ConnectedMode;
  /** Articulation of notes without a mark. */
  articulation: ArticulationId;
  /** Recordings loaded so far, by sample id: with them leads are exact. A new map when more has come. */
  audio?: ReadonlyMap<string, SampleAudio>;
}

/** One sound that the engine will start for a note. Times are seconds of the cue. */
export interface PlannedSound {
  noteId: string;
  /** Index in the instrument's articulations. */
  articulation: number;
  role: 'attack' | 'transition';
  /** What the player does, for display: `attack`, `move`, or `hold` (the tone after a move). */
  gesture: 'attack' | 'move' | 'hold';
  key: number;
  velocity: number;
  fromKey: number;
  /** When it is to speak or land. */
  beatSeconds: number;
  /** Lead per take. */
  leads: Float64Array;
  take: number;
  startSeconds: number;
  offsetSeconds: number;
  fadeInSeconds: number;
  endSeconds: number;
  /** Fade at the end; negative takes the instrument's own release. */
  endFadeSeconds: number;
  release: boolean;
  /** Seed from the note's id. */
  seed: number;
}

/** Something that will not sound as written. */
export interface Finding {
  noteId: string;
  sentence: string;
}

interface Segment {
  /** Notes it covers, in order. */
  count: number;
  sounds: PlannedSound[];
  /** True when any of its sounds has several takes. */
  takes: boolean;
  findings: Finding[];
}

/** A planned part. Keep it and hand it to the next `planPart`: only what changed is planned anew. */
export interface Plan {
  context: PlanContext;
  part: Part;
  notes: readonly Note[];
  segments: readonly Segment[];
  leads: Leads;
}

/** Notes closer than this are one line. */
const CONNECT_GAP_SECONDS = 0.03;
/** Crossfade from a tone into a recorded move, and from the move into the tone that follows. */
const MOVE_IN_SECONDS = 0.05;
const HOLD_AFTER_SECONDS = 0.09;
const HOLD_IN_SECONDS = 0.16;
/** Where in a long recording the tone has settled. */
const HOLD_OFFSET_SECONDS = 0.45;
/** How much of a move is heard before its landing in `immediate`. */
export const IMMEDIATE_LEAD_SECONDS = 0.04;

const byTime = (a: Note, b: Note) =>
  a.startTick - b.startTick || a.key - b.key || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);

/**
 * Plans a part: for every note which recordings sound, when they start, and how they hand over to each other.
 * Pure: equal input gives equal output; an edit of one note does not reshuffle the takes of others beyond what
 * keeps neighbours unlike.
 * @param previous the plan before the edit; reused where notes, marks, curves and context are the same objects
 */
export function planPart(part: Part, context: PlanContext, previous?: Plan): Plan {
  const sameContext =
    previous?.context.instrument === context.instrument &&
    previous.context.mix === context.mix &&
    previous.context.tempo === context.tempo &&
    previous.context.mode === context.mode &&
    previous.context.articulation === context.articulation &&
    previous.context.audio === context.audio;
  const leads = sameContext ? previous.leads : new Leads(context.instrument, context.mix, context.audio);
  const writer = new SegmentWriter(part, context, leads);
  const reusable = sameContext && previous.part.marks === part.marks && previous.part.points === part.points;
  const change = reusable ? changeBetween(previous.notes, part.notes) : undefined;
  // Outside of what changed the notes are the sorted ones of before.
  const sorted = isSorted(part.notes, change?.front ?? 0, part.notes.length - (change?.back ?? 0));
  const notes = sorted ? part.notes : [...part.notes].sort(byTime);
  const segments =
    reusable && change
      ? spliceSegments(previous, notes, sorted ? change : changeBetween(previous.notes, notes), writer)
      : writer.write(notes, 0, notes.length);
  chooseTakes(segments);
  return { context, part, notes, segments, leads };
}

/** All sounds of a plan in order of their notes. Allocates. */
export function soundsOf(plan: Plan): PlannedSound[] {
  return plan.segments.flatMap((segment) => segment.sounds);
}

/** A sound may start this long before that of the note before it: leads differ. */
const MOST_LEAD_SECONDS = 5;

/**
 * Calls back for the planned sounds that may be heard between two moments, in order, without looking at those after
 * them. Allocates nothing.
 */
export function eachSoundBetween(
  plan: Plan,
  fromSeconds: number,
  toSeconds: number,
  visit: (sound: PlannedSound) => void,
): void {
  for (const { sounds } of plan.segments) {
    if (sounds.length > 0 && sounds[0].startSeconds > toSeconds + MOST_LEAD_SECONDS) return;
    for (const sound of sounds)
      if (
        sound.startSeconds <= toSeconds &&
        (sound.endSeconds >= fromSeconds || sound.beatSeconds >= fromSeconds)
      )
        visit(sound);
  }
}

/** All findings of a plan. Allocates. */
export function findingsOf(plan: Plan): Finding[] {
  return plan.segments.flatMap((segment) => segment.findings);
}

/** True when notes [from, to) and their neighbours are in order. */
function isSorted(notes: readonly Note[], from: number, to: number): boolean {
  for (let i = Math.max(1, from); i < Math.min(notes.length, to + 1); i++)
    if (byTime(notes[i - 1], notes[i]) > 0) return false;
  return true;
}

/** How many notes at the front and at the back are the same objects. */
interface Change {
  front: number;
  back: number;
}

function changeBetween(old: readonly Note[], notes: readonly Note[]): Change {
  const shorter = Math.min(old.length, notes.length);
  let front = 0;
  while (front < shorter && old[front] === notes[front]) front++;
  let back = 0;
  while (back < shorter - front && old[old.length - 1 - back] === notes[notes.length - 1 - back]) back++;
  return { front, back };
}

/** Keeps the segments before and after the changed notes, and writes those between. */
function spliceSegments(
  previous: Plan,
  notes: readonly Note[],
  { front, back }: Change,
  writer: SegmentWriter,
): Segment[] {
  const { segments } = previous;
  // A note's end depends on the next one and its beginning on the one before: leave a margin of one note.
  let head = 0;
  let from = 0;
  while (head < segments.length && from + segments[head].count <= front - 1) from += segments[head++].count;
  let tail = segments.length;
  let fromEnd = 0;
  while (tail > head && fromEnd + segments[tail - 1].count <= back - 1) fromEnd += segments[--tail].count;
  return segments
    .slice(0, head)
    .concat(writer.write(notes, from, notes.length - fromEnd), segments.slice(tail));
}

/** Gives every sound with takes one unlike its predecessor's on the same key, and with it its start. */
function chooseTakes(segments: readonly Segment[]): void {
  const last = new Int16Array(128 * 64).fill(-1);
  for (const { sounds, takes } of segments) {
    if (!takes) continue;
    for (const sound of sounds) {
      const count = sound.leads.length;
      if (count <= 1) continue;
      const slot = (sound.articulation % 64) * 128 + sound.key;
      sound.take = nextTake(sound.seed, last[slot], count);
      last[slot] = sound.take;
      sound.startSeconds = sound.beatSeconds - sound.leads[sound.take];
    }
  }
}

/** Writes segments: each a line of connected notes, or a single note. */
class SegmentWriter {
  private readonly dynamics: CurvePoint[];
  private readonly vibrato: CurvePoint[];
  private readonly marks: Mark[];
  private readonly indexOf: Map<ArticulationId, number>;

  constructor(
    part: Part,
    private readonly context: PlanContext,
    private readonly leads: Leads,
  ) {
    this.dynamics = curveOf(part.points, CONTROLLER.dynamics);
    this.vibrato = curveOf(part.points, CONTROLLER.vibrato);
    this.marks = [...part.marks].sort((a, b) => a.startTick - b.startTick);
    this.indexOf = new Map(context.instrument.articulations.map((articulation, i) => [articulation.id, i]));
  }

  write(notes: readonly Note[], from: number, to: number): Segment[] {
    const segments: Segment[] = [];
    for (let i = from; i < to;) {
      let end = i + 1;
      while (end < to && this.moveBetween(notes[end - 1], notes[end]) !== undefined) end++;
      segments.push(this.segment(notes, i, end));
      i = end;
    }
    return segments;
  }

  /** Lead of the recorded move from one note to the next, when they are one connected line and it exists. */
  private moveBetween(a: Note, b: Note): number | undefined {
    if (b.startTick <= a.startTick || a.key === b.key) return undefined;
    const articulation = this.articulationOf(b).index;
    if (articulation !== this.articulationOf(a).index) return undefined;
    const { instrument, tempo } = this.context;
    if (articulationTerm(instrument.articulations[articulation]?.id ?? '').group !== 'connected')
      return undefined;
    if (tempo.toSeconds(b.startTick) - tempo.toSeconds(a.endTick) > CONNECT_GAP_SECONDS) return undefined;
    return this.leads.transition(articulation, a.key, b.key);
  }

  private articulationOf(note: Note): { index: number; wanted: ArticulationId } {
    let wanted = this.context.articulation;
    const at = lastAtOrBefore(this.marks, note.startTick);
    // Marks may overlap; the one that began last and still holds decides.
    for (let i = at; i >= 0 && i > at - 8; i--)
      if (note.startTick < this.marks[i].endTick) {
        wanted = this.marks[i].articulation;
        break;
      }
    return { index: this.indexOf.get(wanted) ?? this.standIn(wanted), wanted };
  }

  /** The nearest technique the instrument has: of the same group, else the first. */
  private standIn(wanted: ArticulationId): number {
    const { group } = articulationTerm(wanted);
    const alike = group === 'connected' ? ['connected', 'long'] : [group];
    const at = this.context.instrument.articulations.findIndex((a) =>
      alike.includes(articulationTerm(a.id).group),
    );
    return Math.max(0, at);
  }

  private segment(notes: readonly Note[], from: number, to: number): Segment {
    const sounds: PlannedSound[] = [];
    const findings: Finding[] = [];
    const { tempo, mode, instrument } = this.context;
    for (let i = from; i < to; i++) {
      const note = notes[i];
      const { index, wanted } = this.articulationOf(note);
      const articulation = instrument.articulations[index];
      if (!articulation) continue;
      if (articulation.id !== wanted)
        findings.push({
          noteId: note.id,
          sentence: `${instrument.name} have no ${articulationTerm(wanted).name}; ${articulationTerm(articulation.id).name} stands in.`,
        });
      const beat = tempo.toSeconds(note.startTick);
      const end = tempo.toSeconds(note.endTick);
      const dynamics = curveValue(this.dynamics, note.startTick, controllerRest(CONTROLLER.dynamics));
      const vibrato = curveValue(this.vibrato, note.startTick, controllerRest(CONTROLLER.vibrato));
      const leads = this.leads.attack(index, note.key, note.velocity, dynamics, vibrato);
      const plain: PlannedSound = {
        noteId: note.id,
        articulation: index,
        role: 'attack',
        gesture: 'attack',
        key: note.key,
        velocity: note.velocity,
        fromKey: note.key,
        beatSeconds: beat,
        leads,
        take: 0,
        startSeconds: beat - leads[0],
        offsetSeconds: 0,
        fadeInSeconds: 0,
        endSeconds: end,
        endFadeSeconds: -1,
        release: true,
        seed: hashText(note.id),
      };
      const lead = i > from ? this.moveBetween(notes[i - 1], note) : undefined;
      if (lead === undefined) {
        sounds.push(plain);
        continue;
      }
      // A line faster than its moves: each is entered where the note before it has just landed, so that one is heard at a time.
      const room = beat - tempo.toSeconds(notes[i - 1].startTick);
      const heard = Math.min(lead, mode === 'immediate' ? IMMEDIATE_LEAD_SECONDS : room);
      const start = mode === 'planned' ? beat - heard : beat;
      const landing = start + heard;
      // The tone of a move that would only begin after the next one has begun is not played at all.
      if (sounds[sounds.length - 1].startSeconds >= start) sounds.pop();
      const before = sounds[sounds.length - 1];
      before.endSeconds = start;
      before.endFadeSeconds = MOVE_IN_SECONDS;
      before.release = false;
      const holdStart = landing + HOLD_AFTER_SECONDS;
      sounds.push({
        ...plain,
        role: 'transition',
        gesture: 'move',
        fromKey: notes[i - 1].key,
        leads: Float64Array.of(lead),
        startSeconds: start,
        offsetSeconds: lead - heard,
        fadeInSeconds: MOVE_IN_SECONDS,
        endSeconds: Math.min(holdStart, Math.max(end, start)),
        endFadeSeconds: HOLD_IN_SECONDS,
        release: holdStart >= end,
      });
      if (holdStart < end)
        sounds.push({
          ...plain,
          gesture: 'hold',
          startSeconds: holdStart,
          offsetSeconds: HOLD_OFFSET_SECONDS,
          fadeInSeconds: HOLD_IN_SECONDS,
        });
    }
    for (const note of notes.slice(from, to)) this.checkRange(note, findings);
    return { count: to - from, sounds, takes: sounds.some((sound) => sound.leads.length > 1), findings };
  }

  private checkRange(note: Note, findings: Finding[]): void {
    const { instrument } = this.context;
    const { index } = this.articulationOf(note);
    if (instrument.articulations[index] && this.leads.has(index, note.key)) return;
    findings.push({
      noteId: note.id,
      sentence: `This key has no recording in ${instrument.name}; it stays silent.`,
    });
  }
}

/** Index of the last mark that starts at or before a tick, −1 when none does. */
function lastAtOrBefore(marks: readonly Mark[], tick: number): number {
  let low = -1;
  let high = marks.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (marks[middle].startTick <= tick) low = middle;
    else high = middle - 1;
  }
  return low;
}

import { articulationTerm } from '../catalogue/index.ts';
import { hashText } from '../dsp/index.ts';
import {
  CONTROLLER,
  controllerRest,
  curveOf,
  curveValue,
  pitchName,
  type ArticulationId,
  type CurvePoint,
  type Mark,
  type Note,
  type Part,
} from '../music/index.ts';
import type { Touch } from './touch.ts';
import type { Leads } from './leads.ts';
import type { Move } from './moves.ts';
import type { Finding, PlanContext, PlannedSound, Segment } from './planned.ts';

/** Notes closer than this are one line. */
const CONNECT_GAP_SECONDS = 0.03;
/** Longest crossfade from a tone into a recorded move, and from the move into the tone that follows. */
const MOVE_IN_SECONDS = 0.05;
const HOLD_IN_SECONDS = 0.1;
const LEAST_FADE_SECONDS = 0.02;
/** Fade of a move whose note ends with it: its own release would let one that plays to its end ring on. */
export const MOVE_OUT_SECONDS = 0.16;
/** The tone after a move is not brought in before the new pitch has settled. */
const HOLD_AFTER_SECONDS = 0.05;
/** How much of a move is heard before its landing in `immediate`. */
export const IMMEDIATE_LEAD_SECONDS = 0.04;
/** A move of which less than this can be heard before its landing is no move. */
const LEAST_LEAD_SECONDS = 0.04;
/** A move that is entered later than this is told. */
const TOLD_SECONDS = 0.02;
/** Crossfade between tones where no move was recorded, or none fits: around the beat. */
const BLEND_SECONDS = 0.04;
/** How far a move and the tone after it may be shifted so that their waves agree. */
export const ALIGN_MOVE_SECONDS = 0.0008;
export const ALIGN_HOLD_SECONDS = 0.012;

/**
 * When after its landing a move hands over to the tone that follows, and how long their crossfade takes: as soon as the new
 * pitch has settled, and before the move's own tone fades.
 */
export function handOverOf({ lastsSeconds }: Move): { afterSeconds: number; overSeconds: number } {
  const overSeconds = Math.min(
    HOLD_IN_SECONDS,
    Math.max(LEAST_FADE_SECONDS, lastsSeconds - HOLD_AFTER_SECONDS),
  );
  const afterSeconds = Math.max(LEAST_FADE_SECONDS, Math.min(HOLD_AFTER_SECONDS, lastsSeconds - overSeconds));
  return { afterSeconds, overSeconds };
}

const NO_LEVELS: readonly number[] = [];

/** How one note is reached from the one before it. */
type Road = { kind: 'move'; move: Move; articulation: number } | { kind: 'blend' };

/** Writes segments: each a line of connected notes, or a single note. */
export class SegmentWriter {
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
      while (end < to && this.isConnected(notes[end - 1], notes[end])) end++;
      segments.push(this.segment(notes, i, end));
      i = end;
    }
    return segments;
  }

  /** True when a note is played on from the one before it, without a new attack. */
  private isConnected(a: Note, b: Note): boolean {
    if (b.startTick <= a.startTick) return false;
    const { index } = this.articulationOf(b);
    if (this.groupOf(index) !== 'connected' || !this.leads.has(index, b.key)) return false;
    const before = this.groupOf(this.articulationOf(a).index);
    if (before !== 'connected' && before !== 'long') return false;
    const { tempo } = this.context;
    if (tempo.toSeconds(b.startTick) - tempo.toSeconds(a.endTick) > CONNECT_GAP_SECONDS) return false;
    // A repeated key is struck anew, unless its repetition was recorded.
    return a.key !== b.key || this.leads.move(index, a.key, b.key) !== undefined;
  }

  private groupOf(articulation: number): string {
    return articulationTerm(this.context.instrument.articulations[articulation]?.id ?? '').group;
  }

  /** The recorded move from one connected note to the next, a quicker kind where the line leaves it no time, or a blend. */
  private roadBetween(a: Note, b: Note, roomSeconds: number): Road {
    const { index } = this.articulationOf(b);
    const own = this.leads.move(index, a.key, b.key);
    const runs = this.indexOf.get('runs');
    const quick = runs === undefined || runs === index ? undefined : this.leads.move(runs, a.key, b.key);
    if (own && (own.leadSeconds <= roomSeconds || !quick))
      return roomSeconds < LEAST_LEAD_SECONDS
        ? { kind: 'blend' }
        : { kind: 'move', move: own, articulation: index };
    if (own && quick && runs !== undefined && roomSeconds >= LEAST_LEAD_SECONDS)
      return { kind: 'move', move: quick, articulation: runs };
    return { kind: 'blend' };
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
    for (let i = from; i < to; i++) {
      const note = notes[i];
      const { index, wanted } = this.articulationOf(note);
      const articulation = this.context.instrument.articulations[index];
      if (!articulation) continue;
      if (articulation.id !== wanted)
        findings.push({
          noteId: note.id,
          sentence: `${this.context.instrument.name} have no ${articulationTerm(wanted).name}; ${articulationTerm(articulation.id).name} stands in.`,
        });
      if (this.groupOf(index) === 'dynamic')
        findings.push({
          noteId: note.id,
          sentence: `${articulation.name} of ${this.context.instrument.name} grows or fades from its beginning on and has no moment at which it speaks; it is placed by its first quarter of a second.`,
        });
      if (i > from) this.connect(notes[i - 1], note, index, sounds, findings);
      else sounds.push(this.attack(note, index));
    }
    for (const note of notes.slice(from, to)) this.checkRange(note, findings);
    return { count: to - from, sounds, takes: sounds.some((sound) => sound.leads.length > 1), findings };
  }

  private touchAt(note: Note): Touch {
    return {
      velocity: note.velocity,
      dynamics: curveValue(this.dynamics, note.startTick, controllerRest(CONTROLLER.dynamics)),
      vibrato: curveValue(this.vibrato, note.startTick, controllerRest(CONTROLLER.vibrato)),
    };
  }

  /** A note that begins by itself. */
  private attack(note: Note, articulation: number): PlannedSound {
    const { tempo } = this.context;
    const beat = tempo.toSeconds(note.startTick);
    const { velocity, dynamics, vibrato } = this.touchAt(note);
    const leads = this.leads.attack(articulation, note.key, velocity, dynamics, vibrato);
    return {
      noteId: note.id,
      articulation,
      role: 'attack',
      gesture: 'attack',
      key: note.key,
      velocity,
      fromKey: note.key,
      beatSeconds: beat,
      leads,
      take: 0,
      startSeconds: beat - leads[0],
      offsetSeconds: 0,
      fadeInSeconds: 0,
      joins: false,
      levelsDb: NO_LEVELS,
      fadesSeconds: Infinity,
      endSeconds: tempo.toSeconds(note.endTick),
      endFadeSeconds: -1,
      release: true,
      seed: hashText(note.id),
    };
  }

  /** A note that is reached from the one before it: the sounds of both are tied together. */
  private connect(last: Note, note: Note, index: number, sounds: PlannedSound[], findings: Finding[]): void {
    const { tempo, mode, instrument } = this.context;
    const plain = this.attack(note, index);
    const { beatSeconds: beat, endSeconds: end } = plain;
    const settled = this.leads.settled(index, note.key, note.velocity);
    const room = beat - tempo.toSeconds(last.startTick);
    const road = this.roadBetween(last, note, mode === 'planned' ? room : Infinity);
    if (road.kind === 'blend') {
      const over = Math.min(BLEND_SECONDS, room / 2);
      const start = Math.max(beat - over / 2, tempo.toSeconds(last.startTick));
      this.handOver(sounds, start, over, last);
      sounds.push({
        ...plain,
        gesture: 'hold',
        leads: Float64Array.of(0),
        startSeconds: start,
        offsetSeconds: settled,
        fadeInSeconds: over,
      });
      findings.push({
        noteId: note.id,
        sentence: `${instrument.name} have no recorded move that fits from ${pitchName(last.key)} to ${pitchName(note.key)} here; the tones are blended.`,
      });
      return;
    }
    const { move, articulation } = road;
    const heard = Math.min(move.leadSeconds, mode === 'immediate' ? IMMEDIATE_LEAD_SECONDS : room);
    if (mode === 'planned') {
      const { name, articulations } = instrument;
      const pressed = articulation !== index || heard < move.leadSeconds - TOLD_SECONDS;
      if (pressed)
        findings.push({
          noteId: note.id,
          sentence: `${name} have no time for their whole recorded move here; ${
            articulation === index ? 'its later part leads' : `their ${articulations[articulation].name} lead`
          } to the beat.`,
        });
    }
    const start = mode === 'planned' ? beat - heard : beat;
    const landing = start + heard;
    const over = Math.min(MOVE_IN_SECONDS, Math.max(LEAST_FADE_SECONDS, heard / 2));
    this.handOver(sounds, start, over, last);
    const before = sounds[sounds.length - 1];
    const levelsDb = this.leads.matched(
      move,
      move.leadSeconds - heard,
      [before?.articulation ?? index, last.key],
      [index, note.key],
      this.touchAt(note),
    );
    const { afterSeconds, overSeconds } = handOverOf(move);
    const holdStart = landing + afterSeconds;
    const holds = holdStart < end;
    sounds.push({
      ...plain,
      articulation,
      role: 'transition',
      gesture: 'move',
      fromKey: last.key,
      leads: Float64Array.of(move.leadSeconds),
      startSeconds: start,
      offsetSeconds: move.leadSeconds - heard,
      fadeInSeconds: over,
      joins: true,
      levelsDb,
      fadesSeconds: landing + move.lastsSeconds,
      endSeconds: holds ? holdStart : Math.max(end, start),
      endFadeSeconds: holds ? overSeconds : MOVE_OUT_SECONDS,
      release: !holds,
    });
    if (holds)
      sounds.push({
        ...plain,
        gesture: 'hold',
        leads: Float64Array.of(0),
        startSeconds: holdStart,
        offsetSeconds: settled,
        fadeInSeconds: overSeconds,
        joins: true,
      });
  }

  /** Lets what sounds end under a crossfade that begins at a moment. */
  private handOver(sounds: PlannedSound[], start: number, overSeconds: number, last: Note): void {
    // The tone after a move that would only begin as the next one comes is not played, as long as the move itself lasts.
    for (;;) {
      const hold = sounds[sounds.length - 1];
      const move = sounds[sounds.length - 2];
      if (hold?.gesture !== 'hold' || hold.noteId !== last.id || move?.gesture !== 'move') break;
      const late = hold.startSeconds + hold.fadeInSeconds / 2 >= start;
      if (!(hold.startSeconds >= start || (late && move.fadesSeconds >= start + overSeconds))) break;
      sounds.pop();
    }
    const before = sounds[sounds.length - 1];
    if (!before) return;
    before.endSeconds = start;
    before.endFadeSeconds = overSeconds;
    before.release = false;
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

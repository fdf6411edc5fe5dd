import type { ArticulationGroup } from '../catalogue/index.ts';
import { hashText, Random } from '../dsp/index.ts';
import {
  paceShare,
  PARAMETERS,
  Responses,
  startSeconds,
  trimSeconds,
  Voicing,
  type Answer,
  type ParameterId,
  type Sounding,
} from '../keymap/index.ts';
import {
  curveOf,
  curveValue,
  MarkLine,
  pitchName,
  type CurvePoint,
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
/** How much of an articulation that lends its attack is heard, and its fade; how quickly the body under it comes in. */
const ATTACK_SECONDS = 0.12;
const ATTACK_FADE_SECONDS = 0.2;
const BODY_IN_SECONDS = 0.06;
/** Fade with which a recording is entered after its beginning. */
const CUT_IN_SECONDS = 0.003;
/** However quick the transition pace, this much of a move is heard. */
const LEAST_PACED_SECONDS = 0.04;
/** The house's word for recorded noises. */
const NOISES = 'noises';
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
  private readonly curves = new Map<ParameterId, CurvePoint[]>();
  private readonly responses: Responses;
  private readonly marks: MarkLine;
  private readonly voicing: Voicing;
  private readonly runs: number;
  private readonly slide: number;
  private readonly bow: number;

  constructor(
    private readonly part: Part,
    private readonly context: PlanContext,
    private readonly leads: Leads,
  ) {
    this.responses = context.responses ?? new Responses();
    this.marks = new MarkLine(part.marks);
    this.voicing = context.voicing ?? Voicing.plain(context.instrument);
    this.runs = this.voicing.repertoire.ownIndex('runs');
    this.slide = this.voicing.repertoire.ownIndex('slide');
    this.bow = this.voicing.repertoire.ownIndex('bow change');
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
    const [first, second] = [this.answerTo(a)[0], this.answerTo(b)[0]];
    return second !== undefined && this.goesOn(a, b, first, second);
  }

  /** True when what sounds for a note goes on from what sounds for the one before. */
  private goesOn(a: Note, b: Note, first: Sounding | undefined, second: Sounding): boolean {
    if (b.startTick <= a.startTick || !first || second.part === 'attack') return false;
    const { index } = second;
    if (this.groupOf(index) !== 'connected' || !this.leads.has(index, b.key)) return false;
    const before = this.groupOf(first.index);
    if (before !== 'connected' && before !== 'long') return false;
    const { tempo } = this.context;
    if (tempo.toSeconds(b.startTick) - tempo.toSeconds(a.endTick) > CONNECT_GAP_SECONDS) return false;
    // A repeated key is struck anew, unless its repetition was recorded.
    return a.key !== b.key || this.leads.move(this.kindOf(index, b), a.key, b.key) !== undefined;
  }

  /** The articulation whose recorded move leads to a note: its own, a slide where it is soft, a new bow where it is hard. */
  private kindOf(index: number, note: Note): number {
    const { slideBelow, bowFrom } = this.responses.touch;
    if (this.slide >= 0 && note.velocity <= slideBelow) return this.slide;
    if (this.bow >= 0 && bowFrom > 0 && note.velocity >= bowFrom) return this.bow;
    return index;
  }

  private groupOf(articulation: number): ArticulationGroup {
    return this.voicing.repertoire.groupOf(articulation);
  }

  /** The recorded move from one connected note to the next, a quicker kind where the line leaves it no time, or a blend. */
  private roadBetween(a: Note, b: Note, sounding: number, roomSeconds: number): Road {
    const kind = this.kindOf(sounding, b);
    const index = this.leads.move(kind, a.key, b.key) ? kind : sounding;
    const own = this.leads.move(index, a.key, b.key);
    const { runs } = this;
    const quick = runs < 0 || runs === index ? undefined : this.leads.move(runs, a.key, b.key);
    if (own && (own.leadSeconds <= roomSeconds || !quick))
      return roomSeconds < LEAST_LEAD_SECONDS
        ? { kind: 'blend' }
        : { kind: 'move', move: own, articulation: index };
    if (own && quick && roomSeconds >= LEAST_LEAD_SECONDS)
      return { kind: 'move', move: quick, articulation: runs };
    return { kind: 'blend' };
  }

  /** What sounds for a note: its mark's articulation, or the part's own. */
  private answerTo(note: Note): Answer {
    const wanted = this.marks.at(note.startTick) ?? this.context.articulation;
    return this.voicing.answer(wanted, note.velocity);
  }

  private segment(notes: readonly Note[], from: number, to: number): Segment {
    const findings: Finding[] = [];
    const answers = notes.slice(from, to).map((note) => this.answerTo(note));
    const voices = Math.max(...answers.map(({ length }) => length));
    const sounds: PlannedSound[] = [];
    // What sounds beside the first is planned as a line of its own; only the first is spoken of twice.
    for (let voice = 0; voice < voices; voice++)
      for (const sound of this.line(notes, from, to, answers, voice, findings)) sounds.push(sound);
    for (let i = from; i < to; i++) this.checkRange(notes[i], answers[i - from], findings);
    let untilSeconds = -Infinity;
    for (const { endSeconds, beatSeconds } of sounds)
      untilSeconds = Math.max(untilSeconds, endSeconds, beatSeconds);
    const takes = sounds.some((sound) => sound.leads.length > 1);
    return { count: to - from, sounds, untilSeconds, takes, findings };
  }

  /** The sounds of one voice of a segment's answers. */
  private line(
    notes: readonly Note[],
    from: number,
    to: number,
    answers: readonly Answer[],
    voice: number,
    findings: Finding[],
  ): PlannedSound[] {
    const sounds: PlannedSound[] = [];
    for (let i = from; i < to; i++) {
      const note = notes[i];
      const sounding = answers[i - from].at(voice);
      if (!sounding) continue;
      this.checkTechnique(note, sounding, findings);
      const before = i > from ? answers[i - from - 1].at(voice) : undefined;
      if (i > from && this.goesOn(notes[i - 1], note, before, sounding))
        this.connect(notes[i - 1], note, sounding, sounds, findings);
      else sounds.push(this.begin(note, sounding));
    }
    return sounds;
  }

  /** A note that begins by itself: whole, its attack alone, or what follows the attack of another. */
  private begin(note: Note, sounding: Sounding): PlannedSound {
    const attack = this.cutInto(note, sounding, this.attack(note, sounding));
    if (sounding.part === 'attack')
      return {
        ...attack,
        endSeconds: Math.min(attack.endSeconds, attack.beatSeconds + ATTACK_SECONDS),
        endFadeSeconds: ATTACK_FADE_SECONDS,
        release: false,
      };
    if (sounding.part === 'body')
      return {
        ...attack,
        leads: Float64Array.of(0),
        startSeconds: attack.beatSeconds - BODY_IN_SECONDS / 2,
        offsetSeconds: attack.leads[0],
        fadeInSeconds: BODY_IN_SECONDS,
      };
    return attack;
  }

  /** Enters a recording after its beginning: by the onset trim of shorts, or somewhere near it for longs. Leads follow. */
  private cutInto(note: Note, { index }: Sounding, sound: PlannedSound): PlannedSound {
    const group = this.groupOf(index);
    const cut =
      group === 'short'
        ? trimSeconds(this.heard('trim', note.startTick))
        : group === 'long'
          ? new Random(sound.seed).next() * startSeconds(this.heard('start', note.startTick))
          : 0;
    if (cut === 0) return sound;
    const leads = sound.leads.map((lead) => Math.max(0, lead - cut));
    return {
      ...sound,
      leads,
      startSeconds: sound.beatSeconds - leads[0],
      offsetSeconds: cut,
      fadeInSeconds: CUT_IN_SECONDS,
    };
  }

  private checkTechnique(note: Note, sounding: Sounding, findings: Finding[]): void {
    const { instrument } = this.context;
    const { vocabulary } = this.voicing.repertoire;
    if (sounding.distance !== 'own')
      findings.push({
        noteId: note.id,
        sentence: `${instrument.name} have no ${vocabulary.term(sounding.wanted).name}; ${vocabulary.term(sounding.term).name} stands in.`,
      });
    if (this.groupOf(sounding.index) === 'dynamic')
      findings.push({
        noteId: note.id,
        sentence: `${instrument.articulations[sounding.index].name} of ${instrument.name} grows or fades from its beginning on and has no moment at which it speaks; it is placed by its first quarter of a second.`,
      });
  }

  private touchAt(note: Note): Touch {
    return {
      velocity: note.velocity,
      dynamics: this.heard('dynamics', note.startTick),
      vibrato: this.heard('vibrato', note.startTick),
    };
  }

  /** Value by which a parameter is heard at a tick. */
  private heard(id: ParameterId, tick: number): number {
    const leader = this.responses.leader(id);
    let curve = this.curves.get(leader);
    if (!curve) {
      const controller = PARAMETERS.find((one) => one.id === leader)?.controller ?? -1;
      this.curves.set(leader, (curve = curveOf(this.part.points, controller)));
    }
    return this.responses.shape(id, curveValue(curve, tick, this.responses.ride(leader).rest));
  }

  /** A note that begins by itself. */
  private attack(note: Note, { index: articulation, levelDb, morph, term }: Sounding): PlannedSound {
    const { tempo } = this.context;
    const beat = tempo.toSeconds(note.startTick);
    const { dynamics, vibrato } = this.touchAt(note);
    const struck = this.responses.struck(this.groupOf(articulation), note.velocity, dynamics);
    const { velocity } = struck;
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
      levelDb: levelDb + struck.levelDb,
      noise: term === NOISES,
      morph,
      fadesSeconds: Infinity,
      endSeconds: tempo.toSeconds(note.endTick),
      endFadeSeconds: -1,
      release: true,
      seed: hashText(note.id),
    };
  }

  /** A note that is reached from the one before it: the sounds of both are tied together. */
  private connect(
    last: Note,
    note: Note,
    sounding: Sounding,
    sounds: PlannedSound[],
    findings: Finding[],
  ): void {
    const { tempo, mode, instrument } = this.context;
    const { index } = sounding;
    const plain = this.attack(note, sounding);
    const { beatSeconds: beat, endSeconds: end } = plain;
    const settled = this.leads.settled(index, note.key, note.velocity);
    const room = beat - tempo.toSeconds(last.startTick);
    const road = this.roadBetween(last, note, index, mode === 'planned' ? room : Infinity);
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
    const share = paceShare(this.heard('pace', note.startTick));
    const most = mode === 'immediate' ? IMMEDIATE_LEAD_SECONDS : room;
    const heard = Math.min(most, Math.max(LEAST_PACED_SECONDS, move.leadSeconds * share), move.leadSeconds);
    if (mode === 'planned') {
      const { name, articulations } = instrument;
      const pressed =
        (articulation !== index && articulation === this.runs) || room < move.leadSeconds - TOLD_SECONDS;
      if (pressed)
        findings.push({
          noteId: note.id,
          sentence: `${name} have no time for their whole recorded move here; ${
            articulation !== this.runs || articulation === index
              ? 'its later part leads'
              : `their ${articulations[articulation].name} lead`
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

  private checkRange(note: Note, answer: Answer, findings: Finding[]): void {
    const { instrument } = this.context;
    if (answer.some(({ index }) => this.leads.has(index, note.key))) return;
    findings.push({
      noteId: note.id,
      sentence: `This key has no recording in ${instrument.name}; it stays silent.`,
    });
  }
}

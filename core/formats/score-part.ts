import type { DirectionEntry, Measure, NoteEntry, PartInfo } from 'musicxml-io';
import type { Vocabulary } from '../catalogue/index.ts';
import { controllerRest, CONTROLLER, curveValue, type CurvePoint } from '../music/index.ts';
import { soundingShift, ticksOf, type PlayedBar } from './score-bars.ts';
import { dynamicsCurve, dynamicsOf, type DynamicAt, type WedgeAt } from './score-dynamics.ts';
import { ScoreMarks } from './score-marks.ts';
import { isDynamicWord, isTempoWord, techniqueOfSign, techniqueOfWord } from './score-words.ts';
import type { SongNote, SongTrack } from './song.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';

/** What parts say for the whole score, gathered over all of them. */
export interface ScoreTold {
  /** Tempos that are set, and words by which they move, as they come. */
  tempos: { tick: number; bpm: number; isMarked: boolean }[];
  moves: { tick: number; word: string }[];
  rehearsals: { tick: number; text: string }[];
  /** Counts what is not taken. */
  pass(what: string): void;
}

/** Quarters of a note that beats are counted in. */
const QUARTERS: Readonly<Record<string, number>> = {
  breve: 8,
  whole: 4,
  half: 2,
  quarter: 1,
  eighth: 0.5,
  '16th': 0.25,
  '32nd': 0.125,
};
const STEPS: Readonly<Record<string, number>> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const GRACE_TICKS = 120;
/** Velocities along the dynamics, where the file has none. */
const [LIGHTEST, HEAVIER] = [32, 0.65];
const ACCENT = 20;

/** A note while its part is read. */
type Open = SongNote & { isPlayed: boolean };

/** Reads one part of a score in the order it is played. */
export class PartReader {
  private readonly notes: Open[] = [];
  /** Tied notes that go on, by voice and key. */
  private readonly held = new Map<string, Open>();
  private readonly marks = new ScoreMarks();
  private readonly dynamics: DynamicAt[] = [];
  private readonly accents = new Set<number>();
  private readonly wedges: WedgeAt[] = [];
  private wedge: { startTick: number; opens: boolean; isWord?: boolean } | undefined;
  private readonly pedal: Omit<CurvePoint, 'id'>[] = [];
  private graces: NoteEntry[] = [];
  private scale = TICKS_PER_QUARTER;
  private shift = 0;
  private lastOnset = 0;

  constructor(
    private readonly info: PartInfo | undefined,
    private readonly vocabulary: Vocabulary,
    private readonly told: ScoreTold,
  ) {}

  /** Reads a bar at its place. Bars come in the order they are played. */
  bar(measure: Measure, { contentTick }: PlayedBar): void {
    this.attributes(measure.attributes);
    let at = contentTick;
    this.lastOnset = at;
    for (const entry of measure.entries)
      switch (entry.type) {
        case 'note':
          at += this.note(entry, at);
          break;
        case 'backup':
          at = Math.max(contentTick, at - entry.duration * this.scale);
          break;
        case 'forward':
          at += entry.duration * this.scale;
          break;
        case 'direction':
          this.direction(entry, at);
          break;
        case 'sound':
          if (entry.tempo) this.told.tempos.push({ tick: Math.round(at), bpm: entry.tempo, isMarked: false });
          break;
        case 'attributes':
          this.attributes(entry.attributes);
          break;
        case 'harmony':
          this.told.pass('chord symbol');
          break;
        case 'figured-bass':
          this.told.pass('figured bass');
          break;
        default:
      }
  }

  /** The part, once all bars were read. @param endTick where the score ends */
  done(name: string, channel: number, endTick: number): SongTrack {
    if (this.wedge) this.endWedge(endTick);
    const curve = dynamicsCurve(this.dynamics, this.wedges, controllerRest(CONTROLLER.dynamics));
    const withIds = curve.map((point) => ({ ...point, id: '' }));
    const notes = this.notes
      .map(({ isPlayed, ...note }): SongNote =>
        isPlayed ? note : { ...note, velocity: this.velocityAt(note.startTick, withIds) },
      )
      .sort((a, b) => a.startTick - b.startTick || a.key - b.key);
    const program = this.info?.midiInstruments?.[0]?.program;
    return {
      name,
      channel,
      notes,
      controls: [],
      programs: program === undefined ? [] : [{ tick: 0, program: Math.min(127, Math.max(0, program - 1)) }],
      texts: [],
      marks: this.marks.all(this.notes, endTick),
      points: [...curve, ...this.pedal],
    };
  }

  private velocityAt(tick: number, curve: readonly CurvePoint[]): number {
    const value = curveValue(curve, tick, controllerRest(CONTROLLER.dynamics));
    const accent = this.accents.has(tick) ? ACCENT : 0;
    return Math.min(127, Math.round(LIGHTEST + HEAVIER * value) + accent);
  }

  private attributes(attributes: Measure['attributes']): void {
    if (!attributes) return;
    this.scale = ticksOf(attributes.divisions) ?? this.scale;
    this.shift = soundingShift(attributes) ?? this.shift;
  }

  /** @returns how far it leads on */
  private note(entry: NoteEntry, at: number): number {
    const ticks = entry.duration * this.scale;
    if (entry.grace) {
      if (!entry.rest) this.graces.push(entry);
      return 0;
    }
    const onset = entry.chord ? this.lastOnset : at;
    const leads = entry.chord ? 0 : ticks;
    if (!entry.chord) this.lastOnset = at;
    if (entry.rest) return leads;
    if (entry.cue) {
      this.told.pass('cue note');
      return leads;
    }
    const key = this.keyOf(entry);
    if (key === undefined) return leads;
    if (!(ticks > 0)) {
      this.told.pass('note without a length');
      return leads;
    }
    const [startTick, endTick] = [Math.round(onset), Math.round(onset + ticks)];
    const ties = new Set([...(entry.ties ?? []), ...(entry.tie ? [entry.tie] : [])].map(({ type }) => type));
    const name = `${entry.voice ?? ''} ${key}`;
    const held = ties.has('stop') || ties.has('continue') ? this.heldUpTo(startTick, name, key) : undefined;
    const goesOn = ties.has('start') || ties.has('continue');
    let note: Open;
    if (held) {
      note = held;
      note.endTick = Math.max(endTick, note.endTick);
      this.notations(entry, note, startTick);
    } else {
      this.graceNotes(startTick);
      note = this.add(key, startTick, Math.max(endTick, startTick + 1), entry);
      this.notations(entry, note, startTick);
    }
    if (goesOn) this.held.set(name, note);
    return leads;
  }

  /** Takes the tied note that reaches up to a tick: of its own voice, else of another one that it came from. */
  private heldUpTo(tick: number, own: string, key: number): Open | undefined {
    const names = [own, ...[...this.held.keys()].filter((name) => name !== own && name.endsWith(` ${key}`))];
    const name = names.find((one) => Math.abs((this.held.get(one)?.endTick ?? -9) - tick) <= 1);
    if (name === undefined) return undefined;
    const note = this.held.get(name);
    this.held.delete(name);
    return note;
  }

  private add(key: number, startTick: number, endTick: number, entry: NoteEntry): Open {
    const percent = entry.dynamics;
    const syllable = syllableOf(entry);
    const verses = (entry.lyrics ?? []).length;
    if (verses > 1) for (let i = 1; i < verses; i++) this.told.pass('syllable of another verse');
    const note: Open = {
      startTick,
      endTick,
      key,
      velocity: percent === undefined ? 0 : Math.min(127, Math.max(1, Math.round(percent * 0.9))),
      isPlayed: percent !== undefined,
      ...(syllable ? { syllable } : {}),
    };
    this.notes.push(note);
    return note;
  }

  /** Grace notes are played before the note they lead to; at the very beginning they are left out. */
  private graceNotes(startTick: number): void {
    const graces = this.graces;
    this.graces = [];
    const onsets = graces.filter(({ chord }) => !chord).length;
    let place = -1;
    for (const grace of graces) {
      if (!grace.chord) place++;
      const begin = startTick - (onsets - Math.max(0, place)) * GRACE_TICKS;
      const key = this.keyOf(grace);
      if (key === undefined) continue;
      if (begin < 0) this.told.pass('grace note before the beginning');
      else this.add(key, begin, begin + GRACE_TICKS, grace);
    }
  }

  private keyOf(entry: NoteEntry): number | undefined {
    const { pitch, unpitched } = entry;
    if (unpitched) {
      const struck = (this.info?.midiInstruments ?? []).find(
        ({ id }, i) => id === entry.instrument || (entry.instrument === undefined && i === 0),
      )?.unpitched;
      if (struck !== undefined) return Math.min(127, Math.max(0, struck - 1));
      this.told.pass('note without a pitch, read where it is written');
      return keyAt(unpitched.displayStep ?? 'B', 0, unpitched.displayOctave ?? 4);
    }
    if (!pitch) return undefined;
    const alter = pitch.alter ?? 0;
    if (!Number.isInteger(alter)) this.told.pass('quarter tone, read as the semitone below');
    const key = keyAt(pitch.step, Math.floor(alter), pitch.octave) + this.shift;
    if (key >= 0 && key <= 127) return key;
    this.told.pass('note outside of all keys');
    return undefined;
  }

  private notations(entry: NoteEntry, note: Open, startTick: number): void {
    for (const notation of entry.notations ?? [])
      switch (notation.type) {
        case 'slur':
          if (notation.slurType !== 'continue')
            this.marks.slur(notation.slurType === 'start', notation.number ?? 1, note);
          break;
        case 'articulation':
          this.sign(notation.articulation, note);
          break;
        case 'technical':
          this.sign(notation.technical, note);
          break;
        case 'ornament':
          if (notation.ornament === 'trill-mark')
            this.marks.sign(
              note.startTick,
              (notation.accidentalMark ?? notation.accidentalMarks?.at(0)?.value) === 'natural'
                ? 'trill whole'
                : 'trill half',
            );
          else this.sign(notation.ornament, note);
          break;
        case 'dynamics':
          for (const name of notation.dynamics) this.dynamic(name, startTick);
          break;
        case 'glissando':
        case 'slide':
          this.sign('slide', note);
          break;
        case 'fermata':
          this.told.pass('fermata');
          break;
        case 'arpeggiate':
          this.told.pass('sign for a broken chord');
          break;
        case 'other-notation':
          this.told.pass(`sign “${notation.name.slice(0, 40)}”`);
          break;
        default:
      }
  }

  private sign(name: string, note: Open): void {
    const id = name === 'slide' ? 'slide' : techniqueOfSign(name);
    if (id === undefined) {
      // A dash asks for what a plain note is; fingers and strings are the player's.
      if (!PLAYERS.has(name)) this.told.pass(`sign “${name}”`);
    } else this.marks.sign(note.startTick, id);
  }

  private direction(entry: DirectionEntry, at: number): void {
    const tick = Math.max(0, Math.round(at + (entry.offset ?? 0) * this.scale));
    const bpm = entry.sound?.tempo;
    let marked: number | undefined;
    for (const type of entry.directionTypes)
      switch (type.kind) {
        case 'dynamics':
          if (type.value) this.dynamic(type.value, tick);
          else this.told.pass(`dynamic “${(type.otherDynamics ?? '').slice(0, 40)}”`);
          break;
        case 'wedge':
          if (type.type === 'stop') this.endWedge(tick);
          else {
            if (this.wedge) this.endWedge(tick);
            this.wedge = { startTick: tick, opens: type.type === 'crescendo' };
          }
          break;
        case 'words':
          this.word(type.text, tick);
          break;
        case 'metronome':
          marked = bpmOf(type);
          break;
        case 'rehearsal':
          this.told.rehearsals.push({ tick, text: type.text });
          break;
        case 'pedal':
          this.pedalAt(type.type, tick);
          break;
        // Pitches are those that sound; where repeats lead is played out.
        case 'octave-shift':
        case 'segno':
        case 'coda':
        case 'bracket':
        case 'dashes':
          break;
        default:
          this.told.pass(`direction “${type.kind}”`);
      }
    const tempo = bpm ?? marked;
    if (tempo !== undefined && tempo > 0)
      this.told.tempos.push({ tick, bpm: tempo, isMarked: marked !== undefined });
  }

  private dynamic(name: string, tick: number): void {
    const asked = dynamicsOf(name, tick);
    // A way in words leads to the next dynamic.
    if (this.wedge?.isWord && tick > this.wedge.startTick && asked.length > 0) this.endWedge(tick);
    // What only accents a note is in how hard it is played.
    if (asked.length === 0) this.accents.add(tick);
    this.dynamics.push(...asked);
  }

  private endWedge(tick: number): void {
    if (!this.wedge) return;
    const { startTick, opens } = this.wedge;
    if (tick > startTick) this.wedges.push({ startTick, opens, endTick: tick });
    this.wedge = undefined;
  }

  private pedalAt(type: string, tick: number): void {
    const put = (at: number, value: number) =>
      this.pedal.push({ controller: CONTROLLER.pedal, tick: at, value });
    if (type === 'start') {
      if (tick > 0) put(tick - 1, 0);
      put(tick, 127);
    } else if (type === 'stop') {
      if (tick > 0) put(tick - 1, 127);
      put(tick, 0);
    } else if (type === 'change') {
      put(Math.max(0, tick - 1), 127);
      put(tick, 0);
      put(tick + GRACE_TICKS, 127);
    }
  }

  private word(text: string, tick: number): void {
    const said = text.trim();
    if (said === '') return;
    if (isTempoWord(said)) {
      this.told.moves.push({ tick, word: said.toLowerCase() });
      return;
    }
    if (isDynamicWord(said)) {
      if (this.wedge) this.endWedge(tick);
      this.wedge = { startTick: tick, opens: /^c/i.test(said), isWord: true };
      return;
    }
    const id = techniqueOfWord(said, this.vocabulary);
    if (id === undefined) this.told.pass(`“${said.slice(0, 40)}” over the notes`);
    else this.marks.word(tick, id);
  }
}

/** Signs that are the player's affair, or say what a plain note is. */
const PLAYERS = new Set([
  'tenuto',
  'breath-mark',
  'stress',
  'unstress',
  'up-bow',
  'down-bow',
  'open-string',
  'thumb-position',
  'fingering',
  'string',
  'fret',
  'pluck',
  'heel',
  'toe',
  'wavy-line',
]);

const keyAt = (step: string, alter: number, octave: number) => 12 * (octave + 1) + (STEPS[step] ?? 0) + alter;

function bpmOf({
  beatUnit,
  beatUnitDot,
  perMinute,
}: {
  beatUnit: string;
  beatUnitDot?: boolean;
  perMinute?: number | string;
}): number | undefined {
  const count =
    typeof perMinute === 'number' ? perMinute : Number(/\d+([.,]\d+)?/.exec(perMinute ?? '')?.[0]);
  const quarters = QUARTERS[beatUnit];
  if (!(count > 0) || quarters === undefined) return undefined;
  return count * quarters * (beatUnitDot ? 1.5 : 1);
}

/** A syllable as notes keep it: with a hyphen on the sides its word goes on. */
function syllableOf({ lyrics }: NoteEntry): string | undefined {
  const first = lyrics?.at(0);
  const text = first?.text.trim();
  if (!first || !text) return undefined;
  const before = first.syllabic === 'middle' || first.syllabic === 'end' ? '-' : '';
  const after = first.syllabic === 'middle' || first.syllabic === 'begin' ? '-' : '';
  return `${before}${text}${after}`.slice(0, 60);
}

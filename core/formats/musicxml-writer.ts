import { XMLBuilder } from 'fast-xml-parser';
import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import {
  fifthsAt,
  MarkLine,
  MetreMap,
  notate,
  spelled,
  steppedTempos,
  transposedFifths,
  writtenDynamics,
  type Mark,
  type KeyChange,
  type Note,
  type MetreChange,
  type NotatedBar,
  type NotatedEvent,
  type NotatedKey,
  type Part,
  type TempoChange,
} from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import { ORDINARY, PLAIN, signOf, SLURRED, wordFor, type Sign } from './score-words.ts';

/** One part of a score. */
export interface ScorePart {
  name: string;
  part: Part;
  /** Articulation of notes without a mark. */
  articulation: string;
  /** Semitones from its written to its sounding pitch; 0 (the default) is written as it sounds. */
  transposition?: number;
}

/** A cue as a score. */
export interface Score {
  title: string;
  tempos: readonly TempoChange[];
  metres: readonly MetreChange[];
  keys: readonly KeyChange[];
  markers: readonly { tick: number; text: string }[];
  endTick: number;
  /** Number of its first bar; 1 unless given. */
  firstBar?: number;
  parts: readonly ScorePart[];
}

/** Divisions of a quarter: every length that can be written is a whole number of them. */
const DIVISIONS = 48;
const TICKS = TICKS_PER_QUARTER / DIVISIONS;
/** Staffs whose middle key lies lower have a bass clef. */
const BASS_BELOW = 55;
/** A part with so large a share of its notes both well above and well below middle C has two staffs. */
const BOTH_SIDES = 0.15;
const MIDDLE = 60;
const WELL = 5;
const MOST_VOICES = 4;
type Node = { [name: string]: unknown };

const text = (name: string, value: string | number): Node => ({ [name]: [{ '#text': String(value) }] });
const node = (name: string, children: readonly Node[] = [], attributes?: Record<string, string>): Node => ({
  [name]: children,
  ...(attributes ? { ':@': attributes } : {}),
});

/**
 * Writes a cue as MusicXML 4.0, part by part: notes drawn to what can be written (see `notate`) and spelled in the key, at the pitch
 * their instrument is written in; marks as words, signs and slurs, dynamics and hairpins from the curve, syllables, tempos, metres and
 * markers over the first staff. Velocities go along as what a note is to be played with.
 */
export function writeMusicXml(score: Score, vocabulary: Vocabulary = CORE_VOCABULARY): string {
  const placed = placedParts(score);
  const parts = score.parts.map((one, i) => ({ ...one, id: `P${i + 1}` }));
  const document = [
    node('?xml', [{ '#text': '' }], { version: '1.0', encoding: 'UTF-8' }),
    node(
      'score-partwise',
      [
        node('work', [text('work-title', score.title)]),
        node('identification', [node('encoding', [text('software', 'Farlo')])]),
        node(
          'part-list',
          parts.map(({ id, name }) => node('score-part', [text('part-name', name)], { id })),
        ),
        ...parts.map((one, i) =>
          node('part', new PartWriter(one, placed[i], vocabulary, score, i === 0).write(), { id: one.id }),
        ),
      ],
      { version: '4.0' },
    ),
  ];
  const builder = new XMLBuilder({
    preserveOrder: true,
    format: true,
    ignoreAttributes: false,
    attributeNamePrefix: '',
    suppressEmptyNode: true,
  });
  return String(builder.build(document)).trimStart();
}

/** Bars of each staff of each part. */
function placedParts({ metres, parts, endTick }: Score): NotatedBar[][][] {
  const metre = new MetreMap(metres);
  const ends = parts.flatMap(({ part }) => part.notes.map((note) => note.endTick));
  const last = ends.reduce((most, one) => Math.max(most, one), endTick);
  return parts.map(({ part }) => staffsOf(part.notes).map((notes) => notate(notes, metre, last)));
}

/** Where a note of a part stands in the score: which one it is, by what a reader of the score can see of it. */
export interface WrittenPlace {
  part: number;
  /** From 0. */
  bar: number;
  /** From the beginning of its bar. */
  tick: number;
  /** MIDI key at the written pitch. */
  key: number;
}

export const writtenPlace = ({ part, bar, tick, key }: WrittenPlace): string =>
  `${part} ${bar} ${tick} ${key}`;

/** Ids of the notes of a score by where they are written (`writtenPlace`), tied ones at each of their places. */
export function writtenNotes(score: Score): Map<string, string> {
  const found = new Map<string, string>();
  placedParts(score).forEach((staffs, part) => {
    const { transposition = 0 } = score.parts[part];
    for (const bars of staffs)
      bars.forEach(({ voices }, bar) => {
        for (const { tick, keys } of voices.flat())
          for (const { key, noteId } of keys)
            found.set(writtenPlace({ part, bar, tick, key: key - transposition }), noteId);
      });
  });
  return found;
}

/** Something that is written over or under a staff at a tick; without a type, something that is heard alone. */
interface Direction {
  tick: number;
  type?: Node;
  placement?: 'above' | 'below';
  sound?: Record<string, string>;
}

/** Notes of one staff, or of two where they lie on both sides of middle C. */
function staffsOf(notes: readonly Note[]): Note[][] {
  const share = (lies: (key: number) => boolean) =>
    notes.filter(({ key }) => lies(key)).length / Math.max(1, notes.length);
  const both =
    share((key) => key > MIDDLE + WELL) >= BOTH_SIDES && share((key) => key < MIDDLE - WELL) >= BOTH_SIDES;
  if (!both) return [[...notes]];
  return [notes.filter(({ key }) => key >= MIDDLE), notes.filter(({ key }) => key < MIDDLE)];
}

/** One part on its way into bars. */
class PartWriter {
  private readonly directions: Direction[];
  private readonly signs = new Map<string, Node>();
  private readonly played: ReadonlyMap<string, Note>;
  /** Slurs that are still to be written, by the onset they begin or end at. */
  private readonly slurs = new Map<number, 'start' | 'stop'>();

  constructor(
    private readonly staff: ScorePart,
    /** Bars of each of its staffs. */
    private readonly staffs: readonly (readonly NotatedBar[])[],
    private readonly vocabulary: Vocabulary,
    private readonly score: Score,
    /** What holds for all stands over the first part. */
    isLeading: boolean,
  ) {
    this.played = new Map(staff.part.notes.map((note) => [note.id, note]));
    this.directions = [...(isLeading ? this.ofScore() : []), ...this.ofDynamics(), ...this.ofMarks()].sort(
      (a, b) => a.tick - b.tick,
    );
  }

  write(): Node[] {
    const [first] = this.staffs;
    let signature: number | undefined;
    return first.map((bar, i) => {
      const children: Node[] = [];
      const own = this.signatureAt(bar.startTick);
      if (bar.metre || own !== signature)
        children.push(this.attributes(bar, i === 0, own === signature ? undefined : own));
      signature = own;
      this.staffs.forEach((bars, staff) => {
        bars[i].voices.forEach((events, voice) => {
          if (events.length === 0) return;
          const isFirst = staff === 0 && voice === 0;
          if (!isFirst) children.push(node('backup', [text('duration', bar.ticks / TICKS)]));
          for (const event of events) {
            if (isFirst) children.push(...this.directionsBefore(bar, event, event === events.at(-1)));
            children.push(...this.chord(event, staff, voice, own));
          }
        });
      });
      return node('measure', children, { number: String(i + (this.score.firstBar ?? 1)) });
    });
  }

  /** The signature it is written in. */
  private signatureAt(tick: number): number {
    return transposedFifths(fifthsAt(this.score.keys, tick), -(this.staff.transposition ?? 0));
  }

  private attributes({ metre }: NotatedBar, isFirst: boolean, fifths: number | undefined): Node {
    const { staffs } = this;
    return node('attributes', [
      ...(isFirst ? [text('divisions', DIVISIONS)] : []),
      ...(fifths === undefined ? [] : [node('key', [text('fifths', fifths)])]),
      ...(metre
        ? [node('time', [text('beats', metre.numerator), text('beat-type', metre.denominator)])]
        : []),
      ...(isFirst && staffs.length > 1 ? [text('staves', staffs.length)] : []),
      ...(isFirst ? [...this.clefs(), ...transposed(this.staff.transposition ?? 0)] : []),
    ]);
  }

  private clefs(): Node[] {
    const clef = (isBass: boolean, attributes?: Record<string, string>) =>
      node('clef', [text('sign', isBass ? 'F' : 'G'), text('line', isBass ? 4 : 2)], attributes);
    if (this.staffs.length > 1) return [clef(false, { number: '1' }), clef(true, { number: '2' })];
    const keys = this.staff.part.notes.map(({ key }) => this.writtenKey(key)).sort((a, b) => a - b);
    return [clef(keys.length > 0 && keys[keys.length >> 1] < BASS_BELOW)];
  }

  /** Directions up to where an event ends that were not written yet, as far from it as they are. */
  private directionsBefore(bar: NotatedBar, event: NotatedEvent, isLast: boolean): Node[] {
    const until = isLast ? bar.startTick + bar.ticks : bar.startTick + event.tick + event.ticks;
    const due: Node[] = [];
    while (this.directions.length > 0 && this.directions[0].tick < until) {
      const { tick, type, placement, sound } = this.directions.shift() as Direction;
      const past = Math.round((tick - bar.startTick - event.tick) / TICKS);
      const offset = past === 0 ? [] : [text('offset', past)];
      if (type)
        due.push(
          node(
            'direction',
            [node('direction-type', [type]), ...offset, ...(sound ? [node('sound', [], sound)] : [])],
            placement && { placement },
          ),
        );
      else due.push(node('sound', offset, sound));
    }
    return due;
  }

  private chord(event: NotatedEvent, staff: number, place: number, fifths: number): Node[] {
    const voice = staff * MOST_VOICES + place;
    const { ticks, type, dots, isTriplet, keys } = event;
    const rest = [undefined];
    return (keys.length > 0 ? keys : rest).map((key, i) => {
      const played = key && !key.tiedFrom ? this.played.get(key.noteId) : undefined;
      const children = [
        ...(i > 0 ? [node('chord')] : []),
        key
          ? pitch(this.writtenKey(key.key), fifths)
          : node('rest', [], type === undefined ? { measure: 'yes' } : undefined),
        text('duration', ticks / TICKS),
        ...(key?.tiedFrom ? [node('tie', [], { type: 'stop' })] : []),
        ...(key?.tiedTo ? [node('tie', [], { type: 'start' })] : []),
        text('voice', voice + 1),
        ...(type === undefined ? [] : [text('type', type)]),
        ...(dots === 1 ? [node('dot')] : []),
        ...(isTriplet ? [node('time-modification', [text('actual-notes', 3), text('normal-notes', 2)])] : []),
        ...(this.staffs.length > 1 ? [text('staff', staff + 1)] : []),
        ...this.notations(event, i, voice),
        ...(played?.syllable ? [lyric(played.syllable)] : []),
      ];
      return node('note', children, played && { dynamics: String(percentOf(played.velocity)) });
    });
  }

  private writtenKey(key: number): number {
    return key - (this.staff.transposition ?? 0);
  }

  private notations({ keys, bracket }: NotatedEvent, i: number, voice: number): Node[] {
    const key = keys.at(i);
    const isFirst = key !== undefined && i === 0 && !key.tiedFrom;
    const slur = key && i === 0 ? this.slurAt(key) : undefined;
    const sign = isFirst ? this.signs.get(key.noteId) : undefined;
    const number = String(voice + 1);
    const list = [
      ...(key?.tiedFrom ? [node('tied', [], { type: 'stop' })] : []),
      ...(key?.tiedTo ? [node('tied', [], { type: 'start' })] : []),
      ...(slur ? [node('slur', [], { type: slur, number: '1' })] : []),
      ...(bracket && i === 0 ? [node('tuplet', [], { type: bracket, number })] : []),
      ...(sign ? [sign] : []),
    ];
    return list.length > 0 ? [node('notations', list)] : [];
  }

  /** The slur that begins or ends with a note, once of all that sound together. */
  private slurAt({ noteId, tiedFrom, tiedTo }: NotatedKey): 'start' | 'stop' | undefined {
    const onset = this.played.get(noteId)?.startTick ?? -1;
    const slur = this.slurs.get(onset);
    if (slur === undefined || (slur === 'start' ? tiedFrom : tiedTo)) return undefined;
    this.slurs.delete(onset);
    return slur;
  }

  private ofScore(): Direction[] {
    const { tempos, markers } = this.score;
    const stands = new Set(tempos.map(({ tick }) => tick));
    const words = (value: string) => node('words', [{ '#text': value }]);
    const sorted = [...tempos].sort((a, b) => a.tick - b.tick);
    return [
      ...markers.map(({ tick, text: name }): Direction => ({
        tick,
        type: node('rehearsal', [{ '#text': name }]),
        placement: 'above',
      })),
      ...sorted.flatMap(({ tick, bpm, ramp }, i): Direction[] => {
        const next = sorted[i + 1];
        const shown = String(Math.round(bpm * 100) / 100);
        return [
          {
            tick,
            type: node('metronome', [text('beat-unit', 'quarter'), text('per-minute', shown)]),
            placement: 'above',
            sound: { tempo: shown },
          },
          ...(ramp && next && next.bpm !== bpm
            ? [{ tick, type: words(next.bpm > bpm ? 'accel.' : 'rit.'), placement: 'above' } as const]
            : []),
        ];
      }),
      // What plays the score follows a tempo that moves.
      ...steppedTempos(tempos)
        .filter(({ tick }) => !stands.has(tick))
        .map(({ tick, bpm }): Direction => ({
          tick,
          sound: { tempo: String(Math.round(bpm * 1000) / 1000) },
        })),
    ];
  }

  private ofDynamics(): Direction[] {
    const { notes, points } = this.staff.part;
    const starts = [...new Set(notes.map(({ startTick }) => startTick))].sort((a, b) => a - b);
    const { marks, hairpins } = writtenDynamics(points, starts);
    const wedge = (type: string) => node('wedge', [], { type });
    return [
      ...hairpins.flatMap(({ startTick, endTick, opens }): Direction[] => [
        { tick: startTick, type: wedge(opens ? 'crescendo' : 'diminuendo'), placement: 'below' },
        { tick: endTick, type: wedge('stop'), placement: 'below' },
      ]),
      ...marks.map(({ tick, name }): Direction => ({
        tick,
        type: node('dynamics', [node(name)]),
        placement: 'below',
      })),
    ];
  }

  /** Marks as signs over every note, as slurs, or as words where the notes that need another one begin. */
  private ofMarks(): Direction[] {
    const { part, articulation: base } = this.staff;
    const inTime = [...part.notes].sort((a, b) => a.startTick - b.startTick);
    const all = new MarkLine(part.marks);
    const spoken = new MarkLine(part.marks.filter((one) => this.wordOf(one.articulation) !== undefined));
    const words: Direction[] = [];
    // What a part has without a mark, and no word of its own, is what its players take it for.
    const usual = this.vocabulary.term(base).written === '' ? undefined : this.wordOf(base);
    let said: string | undefined;
    let slurred: { under: Mark | string; notes: Note[] } | undefined;
    for (const note of inTime) {
      const mark = all.markAt(note.startTick);
      const sign = signOf(mark?.articulation ?? base);
      if (sign) this.signs.set(note.id, signNode(sign));
      // Beside each other, connected phrases are slurs of their own; of what is said in words the word holds on.
      const under = mark?.articulation === 'connected' ? mark : (mark?.articulation ?? '');
      if (slurred && slurred.under !== under) {
        this.slur(slurred.notes);
        slurred = undefined;
      }
      if (mark && SLURRED.has(mark.articulation)) (slurred ??= { under, notes: [] }).notes.push(note);
      const spokenOf = spoken.at(note.startTick);
      const word = spokenOf === undefined ? usual : this.wordOf(spokenOf);
      // Behind a word the usual has to be said again.
      if (word !== said)
        words.push({
          tick: note.startTick,
          type: node('words', [{ '#text': word ?? ORDINARY }]),
          placement: 'above',
        });
      said = word;
    }
    if (slurred) this.slur(slurred.notes);
    return words;
  }

  /** What is written over the staff for a technique; undefined for what is usual, a sign, or a slur alone. */
  private wordOf(id: string): string | undefined {
    return id === PLAIN || signOf(id) ? undefined : wordFor(id, this.vocabulary);
  }

  private slur(notes: readonly Note[]): void {
    const [first, last] = [notes[0].startTick, notes[notes.length - 1].startTick];
    if (first === last) return;
    this.slurs.set(first, 'start');
    this.slurs.set(last, 'stop');
  }
}

function pitch(key: number, fifths: number): Node {
  const { step, alter, octave } = spelled(key, fifths);
  return node('pitch', [
    text('step', step),
    ...(alter === 0 ? [] : [text('alter', alter)]),
    text('octave', octave),
  ]);
}

/** Steps of the staff that semitones within an octave take. */
const DIATONIC = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6];

/** How the written pitch becomes the sounding one. */
function transposed(semitones: number): Node[] {
  if (semitones === 0) return [];
  const octaves = Math.trunc(semitones / 12);
  const rest = semitones - 12 * octaves;
  return [
    node('transpose', [
      text('diatonic', Math.sign(rest) * DIATONIC[Math.abs(rest)]),
      text('chromatic', rest),
      ...(octaves === 0 ? [] : [text('octave-change', octaves)]),
    ]),
  ];
}

/** The standard's unit for how hard a note is played: hundredths of velocity 90. */
const percentOf = (velocity: number) => Math.round((velocity / 90) * 10_000) / 100;

/** A syllable: a hyphen behind it, or one before it, says that its word goes on. */
function lyric(written: string): Node {
  const before = written.startsWith('-');
  const after = written.endsWith('-') && written.length > 1;
  const syllabic = before ? (after ? 'middle' : 'end') : after ? 'begin' : 'single';
  return node('lyric', [
    text('syllabic', syllabic),
    text('text', written.slice(before ? 1 : 0, after ? -1 : undefined)),
  ]);
}

function signNode({ element, sign, content, accidental }: Sign): Node {
  return node(element, [
    node(
      sign,
      content === undefined ? [] : [{ '#text': content }],
      content === undefined ? undefined : { type: 'single' },
    ),
    ...(accidental ? [text('accidental-mark', accidental)] : []),
  ]);
}

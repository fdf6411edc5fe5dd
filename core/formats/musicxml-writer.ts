import { XMLBuilder } from 'fast-xml-parser';
import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import {
  MetreMap,
  notate,
  steppedTempos,
  writtenDynamics,
  type Mark,
  type Note,
  type MetreChange,
  type NotatedBar,
  type NotatedEvent,
  type Part,
  type TempoChange,
} from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';

/** One part of a score. */
export interface ScorePart {
  name: string;
  part: Part;
  /** Articulation of notes without a mark. */
  articulation: string;
}

/** A cue as a score. */
export interface Score {
  title: string;
  tempos: readonly TempoChange[];
  metres: readonly MetreChange[];
  markers: readonly { tick: number; text: string }[];
  endTick: number;
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
const STEPS: readonly [step: string, alter: number][] = [
  ['C', 0],
  ['C', 1],
  ['D', 0],
  ['E', -1],
  ['E', 0],
  ['F', 0],
  ['F', 1],
  ['G', 0],
  ['G', 1],
  ['A', 0],
  ['B', -1],
  ['B', 0],
];
/** Articulations with a sign of their own. */
const SIGNS: Readonly<Record<string, string>> = {
  staccato: 'staccato',
  spiccato: 'spiccato',
  tenuto: 'tenuto',
  marcato: 'strong-accent',
  accent: 'accent',
};

/** Plain held notes, and the word that takes another articulation back to them. */
const PLAIN = 'long';
const ORDINARY = 'ord.';

type Node = { [name: string]: unknown };

const text = (name: string, value: string | number): Node => ({ [name]: [{ '#text': String(value) }] });
const node = (name: string, children: readonly Node[] = [], attributes?: Record<string, string>): Node => ({
  [name]: children,
  ...(attributes ? { ':@': attributes } : {}),
});

/**
 * Writes a cue as MusicXML 4.0, part by part, at concert pitch: notes drawn to what can be written (see `notate`), marks as words, signs
 * and slurs, dynamics and hairpins from the curve, tempos, metres and markers over the first staff.
 */
export function writeMusicXml(score: Score, vocabulary: Vocabulary = CORE_VOCABULARY): string {
  const metre = new MetreMap(score.metres);
  const ends = score.parts.flatMap(({ part }) => part.notes.map(({ endTick }) => endTick));
  const endTick = ends.reduce((most, one) => Math.max(most, one), score.endTick);
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
          node(
            'part',
            new PartWriter(
              one,
              staffsOf(one.part.notes).map((notes) => notate(notes, metre, endTick)),
              vocabulary,
              i === 0 ? score : undefined,
            ).write(),
            { id: one.id },
          ),
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
  private readonly signs = new Map<string, string>();
  private readonly slurs = new Map<string, 'start' | 'stop'>();

  constructor(
    private readonly staff: ScorePart,
    /** Bars of each of its staffs. */
    private readonly staffs: readonly (readonly NotatedBar[])[],
    private readonly vocabulary: Vocabulary,
    private readonly score: Score | undefined,
  ) {
    this.directions = [...this.ofScore(), ...this.ofDynamics(), ...this.ofMarks()].sort(
      (a, b) => a.tick - b.tick,
    );
  }

  write(): Node[] {
    const [first] = this.staffs;
    return first.map((bar, i) => {
      const children: Node[] = [];
      if (i === 0 || bar.metre) children.push(this.attributes(bar, i === 0));
      this.staffs.forEach((bars, staff) => {
        bars[i].voices.forEach((events, voice) => {
          if (events.length === 0) return;
          const isFirst = staff === 0 && voice === 0;
          if (!isFirst) children.push(node('backup', [text('duration', bar.ticks / TICKS)]));
          for (const event of events) {
            if (isFirst) children.push(...this.directionsBefore(bar, event, event === events.at(-1)));
            children.push(...this.chord(event, staff, voice));
          }
        });
      });
      return node('measure', children, { number: String(i + 1) });
    });
  }

  private attributes({ metre }: NotatedBar, isFirst: boolean): Node {
    const { staffs } = this;
    return node('attributes', [
      ...(isFirst ? [text('divisions', DIVISIONS), node('key', [text('fifths', 0)])] : []),
      ...(metre
        ? [node('time', [text('beats', metre.numerator), text('beat-type', metre.denominator)])]
        : []),
      ...(isFirst && staffs.length > 1 ? [text('staves', staffs.length)] : []),
      ...(isFirst ? this.clefs() : []),
    ]);
  }

  private clefs(): Node[] {
    const clef = (isBass: boolean, attributes?: Record<string, string>) =>
      node('clef', [text('sign', isBass ? 'F' : 'G'), text('line', isBass ? 4 : 2)], attributes);
    if (this.staffs.length > 1) return [clef(false, { number: '1' }), clef(true, { number: '2' })];
    const keys = this.staff.part.notes.map(({ key }) => key).sort((a, b) => a - b);
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

  private chord(event: NotatedEvent, staff: number, place: number): Node[] {
    const voice = staff * MOST_VOICES + place;
    const { ticks, type, dots, isTriplet, keys } = event;
    const rest = [undefined];
    return (keys.length > 0 ? keys : rest).map((key, i) =>
      node('note', [
        ...(i > 0 ? [node('chord')] : []),
        key ? pitch(key.key) : node('rest', [], type === undefined ? { measure: 'yes' } : undefined),
        text('duration', ticks / TICKS),
        ...(key?.tiedFrom ? [node('tie', [], { type: 'stop' })] : []),
        ...(key?.tiedTo ? [node('tie', [], { type: 'start' })] : []),
        text('voice', voice + 1),
        ...(type === undefined ? [] : [text('type', type)]),
        ...(dots === 1 ? [node('dot')] : []),
        ...(isTriplet ? [node('time-modification', [text('actual-notes', 3), text('normal-notes', 2)])] : []),
        ...(this.staffs.length > 1 ? [text('staff', staff + 1)] : []),
        ...this.notations(event, i, voice),
      ]),
    );
  }

  private notations({ keys, bracket }: NotatedEvent, i: number, voice: number): Node[] {
    const key = keys.at(i);
    const isFirst = key !== undefined && i === 0 && !key.tiedFrom;
    const slur = key && this.slurs.get(key.noteId);
    const starts = slur === 'start' && isFirst;
    const stops = slur === 'stop' && i === 0 && !key?.tiedTo;
    const sign = isFirst ? this.signs.get(key.noteId) : undefined;
    const number = String(voice + 1);
    const list = [
      ...(key?.tiedFrom ? [node('tied', [], { type: 'stop' })] : []),
      ...(key?.tiedTo ? [node('tied', [], { type: 'start' })] : []),
      ...(starts || stops ? [node('slur', [], { type: slur, number })] : []),
      ...(bracket && i === 0 ? [node('tuplet', [], { type: bracket, number })] : []),
      ...(sign ? [node('articulations', [node(sign)])] : []),
    ];
    return list.length > 0 ? [node('notations', list)] : [];
  }

  private ofScore(): Direction[] {
    if (!this.score) return [];
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

  /** Marks as words where they begin, as signs over every note, or as slurs. */
  private ofMarks(): Direction[] {
    const { part, articulation } = this.staff;
    const marks = [...part.marks].sort((a, b) => a.startTick - b.startTick);
    const inTime = [...part.notes].sort((a, b) => a.startTick - b.startTick);
    const words: Direction[] = [];
    const say = (tick: number, written: string) => {
      if (written) words.push({ tick, type: node('words', [{ '#text': written }]), placement: 'above' });
    };
    marks.forEach((mark: Mark, i) => {
      const own = inTime.filter(({ startTick }) => startTick >= mark.startTick && startTick < mark.endTick);
      const sign = SIGNS[mark.articulation];
      const { group } = this.vocabulary.term(mark.articulation);
      if (sign) for (const { id } of own) this.signs.set(id, sign);
      else if (group === 'connected') this.slur(own);
      else say(mark.startTick, this.vocabulary.term(mark.articulation).written);
      const isWord = !sign && group !== 'connected';
      const next = marks.at(i + 1);
      const goesOn = next !== undefined && next.startTick <= mark.endTick;
      // Behind a word the usual has to be said again.
      if (isWord && !goesOn && inTime.some(({ startTick }) => startTick >= mark.endTick))
        say(mark.endTick, articulation === PLAIN ? ORDINARY : this.vocabulary.term(articulation).written);
    });
    return words;
  }

  private slur(notes: readonly { id: string }[]): void {
    if (notes.length < 2) return;
    this.slurs.set(notes[0].id, 'start');
    this.slurs.set(notes[notes.length - 1].id, 'stop');
  }
}

function pitch(key: number): Node {
  const [step, alter] = STEPS[((key % 12) + 12) % 12];
  return node('pitch', [
    text('step', step),
    ...(alter === 0 ? [] : [text('alter', alter)]),
    text('octave', Math.floor(key / 12) - 1),
  ]);
}

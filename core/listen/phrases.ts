import {
  articulationTerm,
  playableRange,
  type Articulation,
  type ArticulationGroup,
  type Instrument,
} from '../catalogue/index.ts';
import { CONTROLLER, type CurvePoint, type Note, type Part } from '../music/index.ts';
import { TICKS_PER_QUARTER, clamp } from '../units/index.ts';

/** Keys a phrase may use, both inclusive. */
export interface KeyRange {
  low: number;
  high: number;
}

/** A test phrase that is made to fit any range and technique. */
export interface PhraseKind {
  id: string;
  name: string;
  /** Kind of technique it is written for; a whole instrument plays it with one of these. */
  suits: ArticulationGroup;
  /** What to listen for. */
  tells: string;
  write(pen: Pen): void;
}

/** A phrase written out. */
export interface WrittenPhrase {
  part: Part;
  endTick: number;
}

const MIDDLE_DYNAMICS = 80;
const MIDDLE_VIBRATO = 64;
const MAJOR = [0, 2, 4, 5, 7, 9, 11, 12];

/** Writes notes and curves one after the other; times are quarters at the phrase's tempo, or seconds where it says so. */
class Pen {
  readonly notes: Note[] = [];
  readonly points: CurvePoint[] = [];
  at = 0;
  private readonly curves = new Set<number>();

  constructor(
    readonly range: KeyRange,
    private readonly bpm: number,
  ) {}

  /** Quarters that last so many seconds. */
  seconds(time: number): number {
    return (time * this.bpm) / 60;
  }

  /** A key at a share of the range, 0 lowest … 1 highest, with room left above. */
  key(share: number, above = 0): number {
    const { low, high } = this.range;
    return clamp(Math.round(low + share * (high - low)), low, Math.max(low, high - above));
  }

  /** Keys at the same time, then on by `length`; `sounding` is the part of it that they are held. */
  chord(keys: readonly number[], length: number, velocity = 90, sounding = 0.95): this {
    const startTick = Math.round(this.at * TICKS_PER_QUARTER);
    for (const key of new Set(keys.map((one) => clamp(one, this.range.low, this.range.high))))
      this.notes.push({
        id: `phrase ${this.notes.length}`,
        startTick,
        endTick: startTick + Math.max(1, Math.round(length * sounding * TICKS_PER_QUARTER)),
        key,
        velocity,
      });
    this.at += length;
    return this;
  }

  note(key: number, length: number, velocity = 90, sounding = 0.95): this {
    return this.chord([key], length, velocity, sounding);
  }

  /** Notes that touch, as connected playing wants them. */
  line(keys: readonly number[], length: number, velocity = 90): this {
    for (const key of keys) this.note(key, length, velocity, 1);
    return this;
  }

  rest(length: number): this {
    this.at += length;
    return this;
  }

  curve(controller: number, points: readonly (readonly [at: number, value: number])[]): this {
    this.curves.add(controller);
    for (const [at, value] of points)
      this.points.push({
        id: `phrase ${controller} ${this.points.length}`,
        controller,
        tick: Math.round(at * TICKS_PER_QUARTER),
        value,
      });
    return this;
  }

  done(): WrittenPhrase {
    if (!this.curves.has(CONTROLLER.dynamics)) this.curve(CONTROLLER.dynamics, [[0, MIDDLE_DYNAMICS]]);
    if (!this.curves.has(CONTROLLER.vibrato)) this.curve(CONTROLLER.vibrato, [[0, MIDDLE_VIBRATO]]);
    return {
      part: { notes: this.notes, marks: [], points: this.points },
      endTick: Math.round(this.at * TICKS_PER_QUARTER),
    };
  }
}

const up = (from: number, steps: readonly number[]) => steps.map((step) => from + step);
const there = (keys: readonly number[]) => [...keys, ...keys.slice(0, -1).reverse()];

/** The house phrases, in order of display. */
export const PHRASES: readonly PhraseKind[] = [
  {
    id: 'single',
    name: 'Single notes, low to high',
    suits: 'long',
    tells: 'Tone and evenness over the range.',
    write: (pen) => {
      for (const share of [0.12, 0.5, 0.88])
        pen.note(pen.key(share), pen.seconds(1.8)).rest(pen.seconds(0.5));
    },
  },
  {
    id: 'rise',
    name: 'Slow rise and fall',
    suits: 'long',
    tells: 'Joins between the layers: a jump of tone, two players in the blend.',
    write: (pen) => {
      const [half, whole] = [pen.seconds(3.5), pen.seconds(7)];
      pen.curve(CONTROLLER.dynamics, [
        [0, 2],
        [half, 127],
        [whole, 2],
      ]);
      pen.note(pen.key(0.45), whole).rest(pen.seconds(0.6));
    },
  },
  {
    id: 'vibrato',
    name: 'Vibrato, none to full',
    suits: 'long',
    tells: 'How wide and quick the vibrato grows, and whether the change is smooth.',
    write: (pen) => {
      const [half, whole] = [pen.seconds(3), pen.seconds(6)];
      pen.curve(CONTROLLER.vibrato, [
        [0, 0],
        [half, 127],
        [whole, 0],
      ]);
      pen.note(pen.key(0.5), whole).rest(pen.seconds(0.6));
    },
  },
  {
    id: 'attack',
    name: 'Soft against hard attack',
    suits: 'short',
    tells: 'How much velocity changes the beginning of a note.',
    write: (pen) => {
      for (const velocity of [20, 120, 20, 120])
        pen.note(pen.key(0.5), pen.seconds(0.5), velocity, 0.8).rest(pen.seconds(0.3));
    },
  },
  {
    id: 'takes',
    name: 'Sixteen of the same',
    suits: 'short',
    tells: 'Repeated or borrowed takes give a machine-like row.',
    write: (pen) => {
      for (let i = 0; i < 16; i++) pen.note(pen.key(0.45), 0.5, 95, 0.6);
    },
  },
  {
    id: 'even',
    name: 'Even fast notes',
    suits: 'short',
    tells: 'Whether a fast line stays tight, or some notes speak late.',
    write: (pen) => {
      const keys = up(pen.key(0.35, 7), [0, 2, 4, 5, 7, 5, 4, 2]);
      for (let bar = 0; bar < 3; bar++)
        for (const key of keys) pen.note(key, 0.25, bar === 2 ? 110 : 90, 0.7);
      pen.note(keys[0], 1, 110, 0.4);
    },
  },
  {
    id: 'scale slow',
    name: 'Scale, slow',
    suits: 'connected',
    tells: 'Evenness from key to key.',
    write: (pen) => void pen.line(there(up(pen.key(0.35, 12), MAJOR)), 0.75).rest(0.5),
  },
  {
    id: 'scale fast',
    name: 'Scale, fast',
    suits: 'connected',
    tells: 'Whether moves keep up with the pace.',
    write: (pen) => {
      const keys = there(up(pen.key(0.35, 12), MAJOR));
      pen.line([...keys, ...keys.slice(1)], 0.25).note(keys[0], 1.5, 90, 1);
    },
  },
  {
    id: 'arpeggio slow',
    name: 'Broken chord, slow',
    suits: 'connected',
    tells: 'Leaps of a third and a fourth.',
    write: (pen) => void pen.line(there(up(pen.key(0.3, 16), [0, 4, 7, 12, 16])), 0.75).rest(0.5),
  },
  {
    id: 'arpeggio fast',
    name: 'Broken chord, fast',
    suits: 'short',
    tells: 'Clarity of quick leaps in the room.',
    write: (pen) => {
      const keys = there(up(pen.key(0.3, 16), [0, 4, 7, 12, 16]));
      for (const key of [...keys, ...keys.slice(1)]) pen.note(key, 0.25, 95, 0.7);
      pen.note(keys[0], 1, 100, 0.4);
    },
  },
  {
    id: 'melody small',
    name: 'Melody in small steps',
    suits: 'connected',
    tells: 'How seconds and thirds are joined.',
    write: (pen) => {
      const keys = up(pen.key(0.45, 7), [0, 2, 3, 2, 0, -1, 0, 3, 5, 3]);
      pen.line(keys, 0.75).note(keys[0] + 2, 2, 90, 1);
    },
  },
  {
    id: 'melody wide',
    name: 'Melody in wide leaps',
    suits: 'connected',
    tells: 'Moves of a fifth to an octave: do they lag?',
    write: (pen) => {
      const keys = up(pen.key(0.35, 12), [0, 7, 2, 9, 0, 12, 5, 12]);
      pen.line(keys, 1).note(keys[0] + 7, 2, 90, 1);
    },
  },
  {
    id: 'melody quick',
    name: 'Quick connected figure',
    suits: 'connected',
    tells: 'Leads at speed: every pitch should land on its beat.',
    write: (pen) => {
      const keys = up(pen.key(0.4, 8), [0, 2, 3, 5, 7, 5, 3, 2]);
      pen.line([...keys, ...keys], 0.375).note(keys[0], 1.5, 90, 1);
    },
  },
  {
    id: 'leaps quick',
    name: 'Quick connected leaps',
    suits: 'connected',
    tells: 'Whether wide moves keep up: none should come late or be swallowed.',
    write: (pen) => {
      const keys = up(pen.key(0.35, 12), [0, 7, 3, 10, 5, 12, 7, 0]);
      pen.line([...keys, ...keys], 0.5).note(keys[0], 1.5, 90, 1);
    },
  },
  {
    id: 'repeated',
    name: 'Repeated pitch, new bow or breath',
    suits: 'connected',
    tells: 'How the same pitch begins anew inside a line.',
    write: (pen) => {
      const key = pen.key(0.45, 4);
      pen.line([key, key, key, key + 2, key + 2, key, key], 0.75).note(key, 1.5, 90, 1);
    },
  },
  {
    id: 'triads close',
    name: 'Triads, close',
    suits: 'long',
    tells: 'Build-up in the low mids and the presence region.',
    write: (pen) => {
      const root = pen.key(0.3, 14);
      for (const steps of [
        [0, 4, 7],
        [-1, 5, 7],
        [0, 5, 9],
        [0, 4, 7],
      ])
        pen.chord(up(root, steps), pen.seconds(1.4));
      pen.rest(pen.seconds(0.6));
    },
  },
  {
    id: 'triads wide',
    name: 'Triads, wide',
    suits: 'long',
    tells: 'Whether a spread chord stays clear.',
    write: (pen) => {
      const root = pen.key(0.15, 19);
      for (const steps of [
        [0, 7, 16],
        [5, 9, 17],
        [-1, 7, 14],
        [0, 7, 16],
      ])
        pen.chord(up(root, steps), pen.seconds(1.4));
      pen.rest(pen.seconds(0.6));
    },
  },
  {
    id: 'tail',
    name: 'Loudest short, then silence',
    suits: 'short',
    tells: 'The room alone: how long it sounds, how clear it stays.',
    write: (pen) => void pen.note(pen.key(0.5), pen.seconds(0.3), 127, 0.7).rest(pen.seconds(3.2)),
  },
  {
    id: 'walk',
    name: 'Walk through the whole range',
    suits: 'long',
    tells: 'Keys that stick out or drop away.',
    write: (pen) => {
      const { low, high } = pen.range;
      const step = Math.max(1, Math.round((high - low) / 18));
      for (let key = low; key <= high; key += step) pen.note(key, pen.seconds(0.55), 90, 0.9);
      pen.rest(pen.seconds(0.4));
    },
  },
];

/** A house phrase written for a range at a tempo. */
export function writePhrase(id: string, range: KeyRange, bpm: number): WrittenPhrase {
  const kind = PHRASES.find((one) => one.id === id) ?? PHRASES[0];
  const pen = new Pen(range, bpm);
  kind.write(pen);
  return pen.done();
}

/** Techniques tried first for each kind of phrase. */
const FIRST: Record<ArticulationGroup, readonly string[]> = {
  long: ['long', 'ah', 'hit'],
  short: ['staccato', 'hit', 'pizzicato'],
  connected: ['connected', 'long', 'hit'],
  dynamic: ['swell'],
  pattern: ['roll'],
};

/** The articulation with which an instrument plays a kind of phrase: one that was asked for, or what suits best. */
export function articulationFor(
  instrument: Pick<Instrument, 'articulations'>,
  suits: ArticulationGroup,
  wanted = '',
): Articulation | undefined {
  const playable = instrument.articulations.filter((one) => playableRange(one) !== undefined);
  const find = (id: string) => playable.find((one) => one.id === id);
  if (wanted !== '') return find(wanted);
  for (const id of FIRST[suits]) {
    const found = find(id);
    if (found) return found;
  }
  const alike = suits === 'connected' ? ['connected', 'long'] : [suits];
  return playable.find((one) => alike.includes(articulationTerm(one.id).group)) ?? playable[0];
}

/** Keys that all of several techniques share; where that is less than an octave each keeps its own (undefined). */
export function sharedRange(articulations: readonly Articulation[]): KeyRange | undefined {
  let low = 0;
  let high = 127;
  for (const one of articulations) {
    const range = playableRange(one);
    if (!range) continue;
    low = Math.max(low, range.low);
    high = Math.min(high, range.high);
  }
  return high - low >= 12 ? { low, high } : undefined;
}

import { TICKS_PER_QUARTER } from '#core/units/index.ts';

/**
 * “Night Crossing” from “The Night Ferry to Ellowick”: thirty bars for the whole orchestra, as lists of plain values. The ferry leaves in
 * the dark (1–6), the crossing begins (7–12), the sea rises (13–18), the lamp is seen (19–24), the shore is near (25–30).
 */

const BEATS = 4;
const BAR = BEATS * TICKS_PER_QUARTER;
const BARS = 30;

export interface WrittenNote {
  startTick: number;
  endTick: number;
  key: number;
  velocity: number;
}
export interface WrittenMark {
  startTick: number;
  endTick: number;
  articulation: string;
}
/** What one track plays, without ids. */
export interface WrittenPart {
  notes: WrittenNote[];
  marks: WrittenMark[];
  /** Tick and value of the dynamics. */
  dynamics: [number, number][];
}

const at = (bar: number, beat = 1) => Math.round((bar - 1) * BAR + (beat - 1) * TICKS_PER_QUARTER);

/** Chords by bar, as pitch classes from the root up. */
const CHORDS: readonly (readonly number[])[] = [
  [2, 5, 9],
  [10, 2, 5],
  [7, 10, 2],
  [9, 1, 4],
  [2, 5, 9],
  [0, 4, 7],
  [5, 9, 0],
  [0, 4, 7],
  [2, 5, 9],
  [10, 2, 5],
  [7, 10, 2],
  [9, 1, 4],
  [2, 5, 9],
  [10, 2, 5],
  [5, 9, 0],
  [0, 4, 7],
  [7, 10, 2],
  [9, 1, 4],
  [2, 6, 9],
  [7, 11, 2],
  [11, 2, 6],
  [9, 1, 4],
  [7, 11, 2],
  [9, 1, 4],
  [11, 2, 6],
  [7, 11, 2],
  [2, 6, 9],
  [4, 7, 11],
  [9, 1, 4],
  [2, 6, 9],
];
const chord = (bar: number) => CHORDS[bar - 1];

/** The nth tone of a bar's chord counted upwards from a key. */
function tone(bar: number, from: number, nth = 0): number {
  const pitches = chord(bar);
  let found = -1;
  for (let key = from; ; key++) {
    if (pitches.includes(key % 12)) found++;
    if (found === nth) return key;
  }
}
/** The root of a bar's chord at or above a key. */
function root(bar: number, from: number): number {
  let key = from;
  while (key % 12 !== chord(bar)[0]) key++;
  return key;
}
const bars = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, i) => from + i);

/** Puts a part together. */
class Writer {
  readonly part: WrittenPart = { notes: [], marks: [], dynamics: [] };

  /** [bar, beat, length in beats, key] one after the other. */
  line(list: readonly (readonly [number, number, number, number])[], velocity = 80): this {
    for (const [bar, beat, beats, key] of list) this.note(bar, beat, beats, key, velocity);
    return this;
  }
  note(bar: number, beat: number, beats: number, key: number, velocity = 80): this {
    const startTick = at(bar, beat);
    this.part.notes.push({
      startTick,
      endTick: startTick + Math.round(beats * TICKS_PER_QUARTER),
      key,
      velocity,
    });
    return this;
  }
  /** Whole bars of chord tones above a key. */
  held(from: number, to: number, above: number, tones: readonly number[] = [0], velocity = 80): this {
    for (const bar of bars(from, to))
      for (const nth of tones) this.note(bar, 1, BEATS, tone(bar, above, nth), velocity);
    return this;
  }
  /** The same rhythm in every bar, in beats and chord tones above a key. */
  figure(
    from: number,
    to: number,
    above: number,
    steps: readonly (readonly [beat: number, beats: number, nth: number, velocity: number])[],
  ): this {
    for (const bar of bars(from, to))
      for (const [beat, beats, nth, velocity] of steps)
        this.note(bar, beat, beats, tone(bar, above, nth), velocity);
    return this;
  }
  mark(from: number, to: number, articulation: string): this {
    this.part.marks.push({ startTick: at(from), endTick: at(to + 1), articulation });
    return this;
  }
  /** [bar, value] with straight lines between, 0 … 127. */
  dynamics(...points: [number, number][]): this {
    for (const [bar, value] of points) this.part.dynamics.push([at(bar), value]);
    return this;
  }
}
const write = () => new Writer();

const EIGHTHS = [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5];
/** Eighths with accents where the oars would fall. */
const ostinato = (order: readonly number[], soft: number, hard: number) =>
  EIGHTHS.map((beat, i) => [beat, 0.4, order[i % order.length], i % 3 === 0 ? hard : soft] as const);
/** Quarters of a broken chord upwards and down again. */
const ripple = (velocity: number) =>
  [0, 1, 2, 3, 4, 3, 2, 1].map((nth, i) => [1 + i / 2, 1, nth, velocity] as const);

/** The tune of the crossing, eight bars in D minor, and as it comes back in major. */
const TUNE = [
  [7, 1, 1.5, 69],
  [7, 2.5, 0.5, 72],
  [7, 3, 2, 77],
  [8, 1, 1.5, 76],
  [8, 2.5, 0.5, 74],
  [8, 3, 2, 72],
  [9, 1, 1, 69],
  [9, 2, 1, 74],
  [9, 3, 1, 77],
  [9, 4, 1, 81],
  [10, 1, 3, 82],
  [10, 4, 1, 77],
  [11, 1, 1.5, 79],
  [11, 2.5, 0.5, 77],
  [11, 3, 1, 74],
  [11, 4, 1, 70],
  [12, 1, 3.5, 73],
] as const;
const LAMP = [
  [19, 1, 1.5, 78],
  [19, 2.5, 0.5, 81],
  [19, 3, 2, 86],
  [20, 1, 1.5, 83],
  [20, 2.5, 0.5, 81],
  [20, 3, 2, 79],
  [21, 1, 1, 78],
  [21, 2, 1, 83],
  [21, 3, 1, 86],
  [21, 4, 1, 90],
  [22, 1, 3, 88],
  [22, 4, 1, 85],
  [23, 1, 1.5, 86],
  [23, 2.5, 0.5, 83],
  [23, 3, 1, 81],
  [23, 4, 1, 79],
  [24, 1, 3.5, 81],
] as const;
const moved = (list: readonly (readonly [number, number, number, number])[], keys: number) =>
  list.map(([bar, beat, beats, key]) => [bar, beat, beats, key + keys] as const);

/** Every track of the orchestra that plays, by its name. */
function parts(): Record<string, Writer> {
  const short = (above: number, order: readonly number[]) =>
    write()
      .figure(13, 18, above, ostinato(order, 62, 96))
      .figure(19, 24, above, ostinato(order, 84, 118))
      .mark(13, 24, 'staccato');
  return {
    Piccolo: write()
      .line(
        moved(
          LAMP.filter(([bar]) => bar < 24),
          12,
        ),
      )
      .mark(19, 23, 'connected')
      .dynamics([19, 92], [22, 116]),
    'Flute 1': write()
      .line([[9, 1, 4, 81], [10, 1, 4, 86], [11, 1, 2, 86], [11, 3, 2, 82], [12, 1, 3.5, 85], ...LAMP])
      .mark(9, 12, 'connected')
      .mark(19, 24, 'connected')
      .dynamics([9, 48], [11, 74], [13, 40], [19, 96], [22, 120], [25, 40]),
    'Flute 2': write()
      .held(9, 12, 72, [1])
      .held(19, 24, 74, [0])
      .mark(9, 12, 'connected')
      .dynamics([9, 44], [11, 66], [13, 40], [19, 92], [24, 112]),
    Oboe: write()
      .line(TUNE)
      .held(19, 23, 74, [1])
      .mark(7, 12, 'connected')
      .dynamics([7, 52], [10, 84], [12, 46], [19, 90], [23, 108]),
    Clarinet: write()
      .line([
        [5, 3, 2, 65],
        [6, 1, 3, 67],
        [6, 4, 1, 64],
      ])
      .held(7, 12, 60, [1])
      .held(19, 24, 62, [2])
      .mark(5, 12, 'connected')
      .dynamics([5, 30], [7, 50], [10, 70], [12, 44], [19, 88], [24, 104]),
    'Bass clarinet': write()
      .held(1, 6, 38)
      .held(13, 18, 38)
      .dynamics([1, 26], [4, 40], [6, 28], [13, 64], [18, 92]),
    Bassoon: write()
      .held(7, 12, 43)
      .figure(13, 18, 43, ostinato([0, 0, 2, 1], 66, 96))
      .held(19, 24, 50)
      .mark(13, 18, 'staccato')
      .dynamics([7, 44], [10, 64], [12, 44], [19, 92], [24, 110]),
    'Horns A': write()
      .line([
        [13, 1, 3, 62],
        [13, 4, 1, 65],
        [14, 1, 4, 65],
        [15, 1, 3, 69],
        [15, 4, 1, 67],
        [16, 1, 4, 64],
        [17, 1, 2, 67],
        [17, 3, 2, 70],
        [18, 1, 4, 69],
        ...moved(LAMP, -24).map(([bar, beat, beats, key]) => [bar, beat, beats, Math.max(48, key)] as const),
      ])
      .held(29, 30, 54, [0])
      .mark(13, 24, 'connected')
      .dynamics([13, 72], [16, 96], [19, 108], [22, 124], [25, 40], [29, 34], [30, 18]),
    'Horns B': write()
      .held(13, 18, 53, [0])
      .held(19, 24, 57, [0])
      .dynamics([13, 64], [18, 94], [19, 104], [24, 118]),
    Trumpets: write()
      .held(19, 22, 67, [0, 1])
      .figure(23, 24, 67, [
        [1, 0.5, 0, 110],
        [2, 0.5, 1, 110],
        [3, 1.8, 2, 118],
      ])
      .mark(23, 24, 'accented')
      .dynamics([19, 92], [22, 118], [24, 124]),
    Trombones: write()
      .held(17, 18, 50, [0, 1])
      .held(19, 24, 50, [0, 1, 2])
      .mark(18, 18, 'crescendo short')
      .dynamics([17, 60], [19, 104], [24, 122]),
    Tuba: write()
      .line(bars(19, 24).map((bar) => [bar, 1, BEATS, root(bar, 29)] as const))
      .dynamics([19, 98], [24, 118]),
    Timpani: write()
      .line(
        bars(13, 17).flatMap((bar) => [
          [bar, 1, 0.5, root(bar, 38)] as const,
          [bar, 3.5, 0.5, root(bar, 38)] as const,
        ]),
        84,
      )
      .line([[18, 1, 4, 45]], 96)
      .line(
        bars(19, 24).map((bar) => [bar, 1, 1, root(bar, 38)] as const),
        116,
      )
      .mark(18, 18, 'roll')
      .dynamics([18, 50], [19, 110]),
    'Bass drum': write()
      .line(
        [1, 3, 5].map((i) => [18 + i, 1, 2, 36] as const),
        112,
      )
      .note(13, 1, 2, 36, 60),
    'Snare drum': write()
      .figure(15, 18, 60, [
        [2.5, 0.25, 0, 52],
        [2.75, 0.25, 0, 58],
        [4, 0.5, 0, 76],
      ])
      .figure(19, 24, 60, [
        [1, 0.5, 0, 104],
        [2.5, 0.25, 0, 84],
        [4, 0.5, 0, 100],
        [4.5, 0.25, 0, 88],
      ]),
    Cymbals: write()
      .note(18, 1, 4, 60, 90)
      .note(19, 1, 4, 62, 116)
      .note(23, 1, 4, 62, 110)
      .mark(18, 18, 'crescendo long'),
    Glockenspiel: write().figure(19, 24, 86, [
      [1, 2, 2, 96],
      [3, 2, 1, 88],
    ]),
    Marimba: write().figure(7, 12, 57, [
      [1, 0.5, 0, 58],
      [2.5, 0.5, 2, 46],
      [3, 0.5, 1, 52],
      [4.5, 0.5, 3, 46],
    ]),
    Harp: write()
      .figure(1, 6, 50, ripple(48))
      .figure(7, 12, 53, ripple(62))
      .figure(19, 24, 50, ripple(92))
      .figure(25, 29, 50, ripple(44))
      .note(30, 1, 4, 50, 40),
    Piano: write()
      .line(
        bars(1, 6).map((bar) => [bar, 1, BEATS, root(bar, 26)] as const),
        40,
      )
      .line(
        bars(13, 24).map((bar) => [bar, 1, 2, root(bar, 26)] as const),
        92,
      )
      .line(
        bars(25, 30).map((bar) => [bar, 1, BEATS, root(bar, 38)] as const),
        38,
      ),
    Celesta: write()
      .figure(1, 6, 74, [
        [1, 1, 2, 42],
        [2.5, 1, 1, 36],
        [4, 1, 3, 40],
      ])
      .figure(25, 30, 74, [
        [1, 1, 1, 44],
        [3, 1, 2, 38],
      ]),
    Women: write()
      .held(1, 6, 62, [0])
      .held(19, 24, 69, [0, 2])
      .held(25, 30, 62, [1])
      .mark(1, 6, 'hum')
      .mark(25, 30, 'oo')
      .dynamics([1, 24], [4, 46], [6, 30], [19, 100], [22, 122], [24, 110], [25, 44], [30, 16]),
    Men: write()
      .held(5, 6, 48, [0])
      .held(17, 18, 48, [0])
      .held(19, 24, 50, [0, 1])
      .mark(5, 6, 'hum')
      .dynamics([5, 30], [6, 24], [17, 60], [19, 98], [22, 120], [24, 108]),
    'Violins I': write()
      .line([...TUNE.map(([bar, beat, beats, key]) => [bar, beat, beats, key] as const), ...LAMP])
      .held(13, 18, 74, [0])
      .held(25, 30, 74, [1])
      .mark(7, 12, 'connected')
      .mark(13, 18, 'tremolo')
      .mark(19, 24, 'connected')
      .mark(25, 30, 'muted')
      .dynamics(
        [7, 46],
        [10, 88],
        [12, 50],
        [13, 44],
        [18, 104],
        [19, 106],
        [22, 124],
        [24, 112],
        [25, 42],
        [30, 14],
      ),
    'Violins II': write()
      .held(7, 12, 65, [1])
      .held(13, 18, 69, [0])
      .held(19, 24, 69, [1])
      .held(25, 30, 69, [0])
      .mark(13, 18, 'tremolo')
      .mark(25, 30, 'muted')
      .dynamics([7, 42], [10, 72], [12, 46], [13, 42], [18, 100], [19, 102], [24, 112], [25, 40], [30, 14]),
    Violas: write()
      .held(1, 6, 57, [0])
      .held(7, 12, 60, [0])
      .held(19, 24, 60, [2])
      .held(25, 30, 57, [1])
      .mark(1, 6, 'muted')
      .dynamics(
        [1, 28],
        [4, 50],
        [6, 32],
        [7, 44],
        [10, 70],
        [12, 44],
        [19, 102],
        [24, 112],
        [25, 42],
        [30, 16],
      ),
    Cellos: write()
      .held(1, 6, 48, [0])
      .held(7, 12, 45, [1])
      .line(moved(LAMP, -24))
      .held(25, 30, 45, [1])
      .mark(19, 24, 'connected')
      .dynamics(
        [1, 26],
        [4, 48],
        [6, 30],
        [7, 46],
        [10, 72],
        [12, 46],
        [19, 106],
        [22, 122],
        [25, 44],
        [30, 16],
      ),
    Basses: write()
      .line(bars(1, 6).map((bar) => [bar, 1, BEATS, root(bar, 28)] as const))
      .line(
        bars(7, 12).flatMap((bar) => [
          [bar, 1, 0.8, root(bar, 28)] as const,
          [bar, 3, 0.8, root(bar, 28)] as const,
        ]),
        76,
      )
      .line(bars(19, 30).map((bar) => [bar, 1, BEATS, root(bar, 28)] as const))
      .mark(7, 12, 'pizzicato')
      .dynamics([1, 24], [4, 44], [6, 28], [19, 104], [24, 114], [25, 44], [30, 18]),
    'Violins I, short': short(69, [0, 1, 2, 1]),
    'Violins II, short': short(62, [1, 2, 0, 2]),
    'Violas, short': short(57, [0, 0, 2, 1]),
    'Cellos, short': short(45, [0, 0, 1, 0]),
    'Basses, short': write()
      .line(
        bars(13, 24).flatMap((bar) => [1, 2.5, 4].map((beat) => [bar, beat, 0.4, root(bar, 28)] as const)),
        96,
      )
      .mark(13, 24, 'staccato'),
    'Solo violin': write()
      .line(
        moved(
          TUNE.filter(([bar]) => bar < 11),
          0,
        ).map(([bar, beat, beats, key]) => [bar + 18, beat, beats, major(key)] as const),
      )
      .mark(25, 30, 'connected')
      .note(30, 1, 3.8, 86)
      .dynamics([25, 40], [27, 74], [29, 50], [30, 22]),
    'Solo cello': write()
      .line([
        [1, 3, 2, 57],
        [2, 1, 3, 62],
        [2, 4, 1, 65],
        [3, 1, 2, 67],
        [3, 3, 2, 62],
        [4, 1, 3, 64],
        [4, 4, 1, 61],
        [5, 1, 3.5, 62],
      ])
      .mark(1, 5, 'connected')
      .dynamics([1, 30], [3, 66], [5, 40]),
    'Lamp bells': write().line(
      [
        [19, 1, 2, 86],
        [21, 1, 2, 90],
        [23, 1, 2, 91],
        [27, 1, 2, 86],
        [30, 1, 2, 90],
      ],
      84,
    ),
  };
}

/** The tune's tones in D minor as they are in D major. */
function major(key: number): number {
  return [0, 5, 10].includes(key % 12) ? key + 1 : key;
}

export const NIGHT_CROSSING = {
  name: '3M1 Night Crossing',
  bpm: 96,
  bars: BARS,
  endTick: BARS * BAR,
  /** Bars 19 to 22: where all play. */
  loop: [at(19), at(23)] as const,
  parts: Object.fromEntries(Object.entries(parts()).map(([name, { part }]) => [name, part])),
};

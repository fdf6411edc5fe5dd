import { TICKS_PER_QUARTER } from '#core/units/index.ts';

/** The demo cue: eight bars of “The Night Ferry to Ellowick”, as lists of plain values. */

const BAR = 4 * TICKS_PER_QUARTER;
const at = (bar: number, beat: number) => Math.round((bar - 1) * BAR + (beat - 1) * TICKS_PER_QUARTER);

/** [bar, beat, length in beats, key, velocity] */
const MELODY: [number, number, number, number, number][] = [
  [1, 1, 3, 67, 84],
  [1, 4, 1, 69, 84],
  [2, 1, 2, 72, 88],
  [2, 3, 1, 71, 80],
  [2, 4, 1, 69, 78],
  [3, 1, 2.5, 74, 92],
  [3, 3.5, 0.5, 72, 84],
  [3, 4, 1, 71, 84],
  [4, 1, 3.5, 67, 80],
  [5, 1, 0.5, 62, 90],
  [5, 2, 0.5, 67, 84],
  [5, 3, 0.5, 71, 92],
  [5, 4, 0.5, 74, 100],
  [6, 1, 0.5, 74, 70],
  [6, 2, 0.5, 76, 86],
  [6, 3, 0.5, 78, 100],
  [6, 4, 0.5, 79, 116],
  [7, 1, 4, 79, 96],
  [8, 1, 3.5, 74, 84],
];

const BELLS: [number, number, number, number, number][] = [
  [1, 1, 1, 79, 60],
  [3, 1, 1, 86, 64],
  [5, 1, 1, 74, 96],
  [7, 1, 1, 91, 110],
  [8, 1, 1, 86, 70],
];

/** Notes as records without ids. */
function notesOf(list: typeof MELODY) {
  return list.map(([bar, beat, beats, key, velocity]) => ({
    startTick: at(bar, beat),
    endTick: at(bar, beat) + Math.round(beats * TICKS_PER_QUARTER),
    key,
    velocity,
    syllable: '',
  }));
}

export const DEMO_CUE = {
  name: '1M2 The Lamp Is Lit',
  bpm: 84,
  bars: 8,
  violins: {
    notes: notesOf(MELODY),
    marks: [
      { startTick: at(1, 1), endTick: at(5, 1), articulation: 'connected' },
      { startTick: at(5, 1), endTick: at(6, 1), articulation: 'pizzicato' },
      { startTick: at(6, 1), endTick: at(7, 1), articulation: 'staccato' },
      { startTick: at(7, 1), endTick: at(8, 1), articulation: 'tremolo' },
      { startTick: at(8, 1), endTick: at(9, 1), articulation: 'long' },
    ],
    dynamics: [
      [at(1, 1), 46],
      [at(3, 1), 104],
      [at(4, 1), 84],
      [at(4, 4), 40],
      [at(7, 1), 44],
      [at(8, 1), 118],
      [at(8, 2), 92],
      [at(8, 4.5), 30],
    ] as [number, number][],
    vibrato: [
      [at(1, 1), 20],
      [at(2, 1), 76],
      [at(4, 1), 96],
      [at(4, 4), 30],
      [at(8, 1), 90],
      [at(8, 4), 10],
    ] as [number, number][],
  },
  bells: { notes: notesOf(BELLS) },
  endTick: 8 * BAR,
};

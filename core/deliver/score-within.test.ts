import { describe, expect, it } from 'vitest';
import { writeMusicXml, writtenNotes, writtenPlace, type Score } from '../formats/index.ts';
import { scoreWithin } from './index.ts';

const BAR = 3840;
const score: Score = {
  title: 'Tide',
  tempos: [
    { tick: 0, bpm: 60, ramp: true },
    { tick: 2 * BAR, bpm: 120 },
  ],
  metres: [
    { tick: 0, numerator: 4, denominator: 4 },
    { tick: 2 * BAR, numerator: 3, denominator: 4 },
  ],
  keys: [{ tick: 0, fifths: -2 }],
  markers: [
    { tick: 0, text: 'quay' },
    { tick: BAR, text: 'lamp' },
    { tick: 2 * BAR, text: 'sea' },
  ],
  endTick: 4 * BAR,
  parts: [
    {
      name: 'Horn',
      articulation: 'long',
      transposition: -7,
      part: {
        notes: [
          { id: 'before', startTick: 0, endTick: 960, key: 60, velocity: 80 },
          { id: 'into', startTick: 2880, endTick: BAR + 960, key: 62, velocity: 80 },
          { id: 'out', startTick: 2 * BAR + 1920, endTick: 3 * BAR, key: 64, velocity: 80 },
          { id: 'behind', startTick: 3 * BAR, endTick: 3 * BAR + 960, key: 65, velocity: 80 },
        ],
        marks: [{ id: 'm', startTick: 0, endTick: 2 * BAR, articulation: 'muted' }],
        points: [
          { id: 'a', controller: 1, tick: 0, value: 20 },
          { id: 'b', controller: 1, tick: 2 * BAR, value: 100 },
        ],
      },
    },
  ],
};
/** Bars 2 and 3: the second has three beats. */
const some = scoreWithin(score, { fromTick: BAR, toTick: 2 * BAR + 2880 });

describe('some bars of a score', () => {
  it('have what reaches in and out cut at their ends, and what held before from their beginning', () => {
    const [{ part }] = some.parts;
    expect(part.notes.map(({ id, startTick, endTick }) => [id, startTick, endTick])).toEqual([
      ['into', 0, 960],
      ['out', BAR + 1920, BAR + 2880],
    ]);
    expect(part.marks.map(({ startTick, endTick }) => [startTick, endTick])).toEqual([[0, BAR]]);
    // The curve is half way at its middle.
    expect(part.points.map(({ tick, value }) => [tick, value])).toEqual([
      [0, 60],
      [BAR, 100],
      [BAR + 2880, 100],
    ]);
    // 60 → 120 quarter by quarter over two bars: 90 in the middle.
    expect(some.tempos).toEqual([
      { tick: 0, bpm: 90, ramp: true },
      { tick: BAR, bpm: 120 },
    ]);
    expect(some.metres.map(({ tick, numerator }) => [tick, numerator])).toEqual([
      [0, 4],
      [BAR, 3],
    ]);
    expect([some.keys, some.markers, some.firstBar]).toEqual([
      [{ tick: 0, fifths: -2 }],
      [
        { tick: 0, text: 'lamp' },
        { tick: BAR, text: 'sea' },
      ],
      2,
    ]);
  });
  it('are numbered as they are', () => {
    expect([...writeMusicXml(some).matchAll(/measure number="(\d+)"/g)].map(([, number]) => number)).toEqual([
      '2',
      '3',
    ]);
  });
});

describe('where notes are written', () => {
  it('they are found by part, bar, place and written key, tied ones in each bar', () => {
    const found = writtenNotes(score);
    const at = (bar: number, tick: number, key: number) =>
      found.get(writtenPlace({ part: 0, bar, tick, key }));
    expect([at(0, 0, 67), at(0, 2880, 69), at(1, 0, 69), at(2, 1920, 71), at(0, 960, 67)]).toEqual([
      'before',
      'into',
      'into',
      'out',
      undefined,
    ]);
  });
});

import { describe, expect, it } from 'vitest';
import type { Part } from '../music/index.ts';
import type { PlayedMessage } from '../music/index.ts';
import { cutPhrase, intoRange, playedPhrase, readPhrase } from './index.ts';

const empty: Part = { notes: [], marks: [], points: [] };
const point = (controller: number, tick: number, value: number) => ({
  id: `${controller} ${tick}`,
  controller,
  tick,
  value,
});
const note = (startTick: number, endTick: number, key = 60) => ({
  id: `${startTick} ${key}`,
  startTick,
  endTick,
  key,
  velocity: 80,
});

describe('a stretch cut out of a part', () => {
  const cutPoints = (points: readonly ReturnType<typeof point>[], from = 1000, to = 2000) =>
    cutPhrase({ ...empty, points }, from, to).part.points.map(({ controller, tick, value }) => [
      controller,
      tick,
      value,
    ]);
  it('takes curves from where it begins to where it ends, whatever order they are kept in', () => {
    expect(
      cutPoints([
        point(1, 2001, 9),
        point(1, 2000, 70),
        point(1, 1500, 60),
        point(1, 1001, 50),
        point(1, 999, 40),
      ]),
    ).toEqual([
      [1, 0, 40],
      [1, 1, 50],
      [1, 500, 60],
      [1, 1000, 70],
    ]);
  });
  it('begins with what holds there: the last value before it, or the one that stands there', () => {
    expect(cutPoints([point(1, 300, 10), point(1, 700, 20)])).toEqual([[1, 0, 20]]);
    expect(cutPoints([point(1, 300, 10), point(1, 1000, 20)])).toEqual([[1, 0, 20]]);
    expect(cutPoints([point(1, 1200, 30)])).toEqual([[1, 200, 30]]);
  });
  it('keeps controllers apart', () => {
    expect(cutPoints([point(11, 500, 100), point(1, 1500, 60), point(77, 2500, 5)])).toEqual([
      [11, 0, 100],
      [1, 500, 60],
    ]);
  });
  it('takes notes that begin in it and marks that reach into it, and ends them with it', () => {
    const { part, endTick } = cutPhrase(
      {
        ...empty,
        notes: [note(999, 1500), note(1000, 1100), note(1999, 5000), note(2000, 2100)],
        marks: [
          { id: 'before', startTick: 0, endTick: 1000, articulation: 'long' },
          { id: 'into', startTick: 500, endTick: 1500, articulation: 'staccato' },
          { id: 'beyond', startTick: 1900, endTick: 9000, articulation: 'tremolo' },
          { id: 'after', startTick: 2000, endTick: 2500, articulation: 'long' },
        ],
      },
      1000,
      2000,
    );
    expect(part.notes.map(({ startTick, endTick: end }) => [startTick, end])).toEqual([
      [0, 100],
      [999, 1000],
    ]);
    expect(
      part.marks.map(({ startTick, endTick: end, articulation }) => [startTick, end, articulation]),
    ).toEqual([
      [0, 500, 'staccato'],
      [900, 1000, 'tremolo'],
    ]);
    expect(endTick).toBe(1000);
  });
});

describe('a phrase moved by octaves', () => {
  const of = (keys: readonly number[]) => ({
    part: { ...empty, notes: keys.map((key) => note(0, 1, key)) },
    endTick: 1,
  });
  const keys = (list: readonly number[], low: number, high: number) =>
    intoRange(of(list), { low, high }).part.notes.map(({ key }) => key);
  it('goes where most of it can be played, by as little as it takes, down first', () => {
    expect(keys([40, 47], 60, 80)).toEqual([64, 71]);
    expect(keys([90, 100], 30, 60)).toEqual([54, 64]);
    // As they are neither fits; an octave down one does, as one would an octave up.
    expect(keys([59, 73], 60, 72)).toEqual([47, 61]);
    expect(keys([60, 72], 60, 72)).toEqual([60, 72]);
    expect(keys([73], 60, 72)).toEqual([61]);
    expect(keys([59], 60, 72)).toEqual([71]);
  });
});

describe('what was played in', () => {
  const message = (seconds: number, status: number, data1: number, data2: number): PlayedMessage => ({
    seconds,
    status,
    data1,
    data2,
  });
  it('begins with its first note; what rests before it comes to its beginning', () => {
    const played = playedPhrase(
      [
        message(9, 0xb0, 1, 20),
        message(9.5, 0xb0, 1, 40),
        message(10, 0x91, 60, 90),
        message(10.5, 0xb0, 1, 64),
        message(11, 0x81, 60, 0),
      ],
      60,
      20,
    );
    // 960 ticks to a quarter, which is a second.
    expect(played?.part.notes).toMatchObject([{ startTick: 0, endTick: 960, key: 60, velocity: 90 }]);
    expect(played?.part.points.map(({ tick, value }) => [tick, value])).toEqual([
      [0, 40],
      [479, 40],
      [480, 64],
    ]);
    expect(played?.endTick).toBe(960 + 960);
  });
  it('ends a note that is struck again where it is, and those still held where the recording ends', () => {
    const played = playedPhrase(
      [message(0, 0x90, 60, 90), message(1, 0x90, 60, 50), message(1, 0x90, 64, 70)],
      60,
      3,
    );
    expect(played?.part.notes.map(({ startTick, endTick, key }) => [startTick, endTick, key])).toEqual([
      [0, 960, 60],
      [960, 2880, 60],
      [960, 2880, 64],
    ]);
  });
  it('is nothing without a note', () => {
    expect(playedPhrase([], 60, 1)).toBeUndefined();
    expect(playedPhrase([message(0, 0xb0, 1, 3), message(1, 0x90, 60, 0)], 60, 2)).toBeUndefined();
  });
  it('kept by another hand is refused where it has no end', () => {
    for (const text of ['null', '3', '[]', '{"endTick":"8","notes":[],"marks":[],"points":[]}'])
      expect(readPhrase(text)).toBeUndefined();
  });
});

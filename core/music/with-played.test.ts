import { describe, expect, it } from 'vitest';
import {
  curveOf,
  curveValue,
  withCurve,
  withPlayed,
  type CurvePoint,
  type Mark,
  type Note,
  type Part,
} from './index.ts';

const note = (id: string, startTick: number, endTick: number): Note => ({
  id,
  startTick,
  endTick,
  key: 60,
  velocity: 80,
});
const mark = (id: string, startTick: number, endTick: number, articulation: Mark['articulation']): Mark => ({
  id,
  startTick,
  endTick,
  articulation,
});
const point = (id: string, tick: number, value: number, controller = 1): CurvePoint => ({
  id,
  controller,
  tick,
  value,
});
const fresh = () => {
  let count = 0;
  return () => `new ${count++}`;
};
const unmarked = 'long';
const nothing = { notes: [], stretches: [], ridden: [] };

describe('what is played into a part', () => {
  const part: Part = {
    notes: [note('a', 0, 960), note('b', 960, 2400), note('c', 1920, 2880), note('d', 2880, 3840)],
    marks: [mark('m', 0, 3840, 'staccato')],
    points: [],
  };
  it('comes to what is there, with ids of its own or those that are known', () => {
    const played = {
      ...nothing,
      notes: [100, 300].map((startTick) => ({ startTick, endTick: startTick + 100, key: 64, velocity: 80 })),
    };
    const all = withPlayed(part, played, { unmarked, newId: fresh(), noteIds: ['k'] });
    expect(all.notes.map(({ id }) => id)).toEqual(['a', 'b', 'c', 'd', 'k', 'new 0']);
    expect(all.notes.slice(0, 4)).toEqual(part.notes);
    expect(all.marks).toEqual(part.marks);
  });
  it('takes the place of a span: what begins there goes, what reaches into it ends there, marks are cut out', () => {
    const all = withPlayed(part, nothing, {
      unmarked,
      newId: fresh(),
      replaces: { fromTick: 1920, toTick: 2880 },
    });
    expect(all.notes).toEqual([note('a', 0, 960), note('b', 960, 1920), note('d', 2880, 3840)]);
    expect(all.marks).toEqual([mark('m', 0, 1920, 'staccato'), mark('new 0', 2880, 3840, 'staccato')]);
  });
  it('brings a mark where it would sound otherwise, and none where it would not', () => {
    const played = (articulation: Mark['articulation'], startTick = 960, endTick = 1920) =>
      withPlayed(
        part,
        { ...nothing, stretches: [{ startTick, endTick, articulation }] },
        { unmarked, newId: fresh() },
      ).marks;
    expect(played('staccato')).toBe(part.marks);
    expect(
      played('tremolo').map(({ startTick, endTick, articulation }) => [startTick, endTick, articulation]),
    ).toEqual([
      [0, 960, 'staccato'],
      [1920, 3840, 'staccato'],
      [960, 1920, 'tremolo'],
    ]);
    // What sounds without a mark leaves a hole in those that are there.
    expect(played('long').map(({ startTick, endTick }) => [startTick, endTick])).toEqual([
      [0, 960],
      [1920, 3840],
    ]);
    // A mark that ends before it does is not enough.
    expect(played('staccato', 2880, 4000)).toHaveLength(2);
    expect(played('staccato', 4000, 4800).at(-1)).toEqual(mark('new 0', 4000, 4800, 'staccato'));
    expect(played('long', 4000, 4800)).toEqual(part.marks);
  });
});

describe('a curve that was ridden', () => {
  const line = (...points: [tick: number, value: number][]) => ({
    controller: 1,
    points: points.map(([tick, value]) => ({ tick, value })),
  });
  const said = (points: readonly CurvePoint[]) =>
    [...points].sort((a, b) => a.tick - b.tick).map(({ tick, value }) => [tick, value]);
  const drawn = [point('a', 0, 0), point('b', 1000, 100), point('c', 1000, 5, 11)];
  it('takes the place of what was drawn from its first to its last point; before and after, that holds', () => {
    const all = withCurve(drawn, line([200, 50], [600, 70.04]), fresh());
    const own = curveOf(all, 1);
    // Beside it the old course is kept: a tenth of its way at tick 199, and on from 601.
    expect(said(own)).toEqual([
      [0, 0],
      [199, 19.9],
      [200, 50],
      [600, 70],
      [601, 60.1],
      [1000, 100],
    ]);
    expect(curveValue(own, 100, 0)).toBeCloseTo(10, 1);
    expect(curveValue(own, 800, 0)).toBeCloseTo(80, 0);
    // Another controller stays as it is.
    expect(curveOf(all, 11)).toEqual([drawn[2]]);
  });
  it('takes points with it that lie within, its ends among them', () => {
    const own = curveOf(withCurve(drawn, line([0, 9], [1000, 9]), fresh()), 1);
    expect(said(own)).toEqual([
      [0, 9],
      [1000, 9],
    ]);
    expect(own.map(({ id }) => id)).toEqual(['new 0', 'new 1']);
  });
  it('adds no point beside it where the old course meets it, or where one is', () => {
    const flat = [point('a', 0, 40), point('b', 1000, 40)];
    expect(said(withCurve(flat, line([200, 40], [300, 60], [400, 40]), fresh()))).toEqual([
      [0, 40],
      [200, 40],
      [300, 60],
      [400, 40],
      [1000, 40],
    ]);
    const near = [point('a', 199, 10), point('b', 401, 90)];
    expect(said(withCurve(near, line([200, 50], [400, 50]), fresh()))).toEqual([
      [199, 10],
      [200, 50],
      [400, 50],
      [401, 90],
    ]);
  });
  it('is alone where nothing was drawn; what was drawn behind it alone tells nothing of before', () => {
    expect(said(withCurve([], line([5, 1], [9, 2]), fresh()))).toEqual([
      [5, 1],
      [9, 2],
    ]);
    expect(said(withCurve([point('a', 0, 3)], line([50, 1], [90, 2]), fresh()))).toEqual([
      [0, 3],
      [49, 3],
      [50, 1],
      [90, 2],
    ]);
    expect(said(withCurve([point('a', 99, 3)], line([50, 1], [90, 2]), fresh()))).toEqual([
      [50, 1],
      [90, 2],
      [99, 3],
    ]);
  });
});

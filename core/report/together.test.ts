import { describe, expect, it } from 'vitest';
import { figuresOf, reportOf } from '../testing/reports.ts';
import { togetherOf } from './together.ts';

const width = (sideDb: number) => ({ correlation: 0, sideDb });
const position = (id: string, loudnessLufs: number | null, directToRoomDb: number | null, sideDb: number) =>
  figuresOf(id, { loudnessLufs, directToRoomDb, width: width(sideDb) });

describe('all positions of an instrument together', () => {
  it('are as far away and as wide as their powers add up to', () => {
    // As loud as each other: 10/11 and 1/2 direct, 1/11 and 1/2 room; a hundredth and one half in the difference.
    const { depthDb, sideDb } = togetherOf([
      reportOf('long', { positions: [position('close', -20, 10, -20), position('far', -20, 0, 0)] }),
    ]);
    expect(depthDb).toBeCloseTo(10 * Math.log10((10 / 11 + 1 / 2) / (1 / 11 + 1 / 2)), 9);
    expect(sideDb).toBeCloseTo(10 * Math.log10((0.01 / 1.01 + 1 / 2) / (1 / 1.01 + 1 / 2)), 9);
  });
  it('follow the louder one', () => {
    const { depthDb, sideDb } = togetherOf([
      reportOf('long', { positions: [position('close', -60, 20, -30), position('far', -20, -6, -3)] }),
    ]);
    expect(depthDb).toBeCloseTo(-6, 2);
    expect(sideDb).toBeCloseTo(-3, 2);
  });
  it('do without what is silent, and tell nothing of a depth that one of them does not tell', () => {
    const heard = position('close', -20, 6, -10);
    expect(
      togetherOf([reportOf('long', { positions: [heard, position('far', null, null, 0)] })]).depthDb,
    ).toBeCloseTo(6, 9);
    const some = togetherOf([reportOf('long', { positions: [heard, position('far', -20, null, -10)] })]);
    expect(some.depthDb).toBeUndefined();
    expect(some.sideDb).toBeCloseTo(-10, 9);
    expect(togetherOf([])).toEqual({});
    expect(togetherOf([reportOf('long', { positions: [position('far', null, null, 0)] })])).toEqual({});
  });
  it('are told by held notes, or by the first technique that tells both', () => {
    const of = (articulation: string, directToRoomDb: number | null) =>
      reportOf(articulation, { positions: [position('close', -20, directToRoomDb, -10)] });
    expect(togetherOf([of('short', 3), of('long', 9)]).depthDb).toBeCloseTo(9, 9);
    expect(togetherOf([of('long', null), of('short', 3), of('tremolo', 5)]).depthDb).toBeCloseTo(3, 9);
    const noWidth = reportOf('long', {
      positions: [figuresOf('close', { loudnessLufs: -20, directToRoomDb: 9, width: null })],
    });
    expect(togetherOf([noWidth, of('short', 3)])).toEqual({
      depthDb: expect.closeTo(3, 9),
      sideDb: expect.closeTo(-10, 9),
    });
    expect(togetherOf([noWidth]).depthDb).toBeCloseTo(9, 9);
    expect(togetherOf([of('long', null)])).toEqual({ sideDb: expect.closeTo(-10, 9) });
  });
});

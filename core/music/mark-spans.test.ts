import { describe, expect, it } from 'vitest';
import { clearedOfMarks, type Mark } from './index.ts';

const mark = (id: string, startTick: number, endTick: number): Mark => ({
  id,
  startTick,
  endTick,
  articulation: id,
});
const cleared = (marks: Mark[], from: number, to: number) =>
  clearedOfMarks(marks, from, to, () => 'new').map(({ id, startTick, endTick, articulation }) =>
    [id, startTick, endTick, articulation].join(' '),
  );

describe('a span cleared of marks', () => {
  it('leaves what lies beside it, up to its very edges', () => {
    expect(cleared([mark('a', 0, 10), mark('b', 20, 30)], 10, 20)).toEqual(['a 0 10 a', 'b 20 30 b']);
  });
  it('cuts back what reaches into it from either side, and takes what lies within', () => {
    expect(cleared([mark('a', 0, 15), mark('b', 12, 18), mark('c', 15, 30)], 10, 20)).toEqual([
      'a 0 10 a',
      'c 20 30 c',
    ]);
  });
  it('lets what reaches across go on behind it as another', () => {
    expect(cleared([mark('a', 0, 30)], 10, 20)).toEqual(['a 0 10 a', 'new 20 30 a']);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MarkLine, type Mark } from './index.ts';

const mark = (startTick: number, endTick: number, articulation: string): Mark => ({
  id: `${startTick} ${endTick} ${articulation}`,
  startTick,
  endTick,
  articulation,
});
const at = (marks: Mark[], ticks: number[]) => {
  const line = new MarkLine(marks);
  return ticks.map((tick) => line.at(tick) ?? '-').join(' ');
};

describe('the mark that holds', () => {
  it('is the one a tick lies in: its start belongs to it, its end does not', () => {
    expect(at([mark(10, 20, 'a'), mark(20, 30, 'b')], [9, 10, 19, 20, 29, 30])).toBe('- a a b b -');
    expect(at([], [0])).toBe('-');
  });
  it('is the innermost of nested ones, and the outer one goes on behind it', () => {
    const nested = [mark(0, 100, 'outer'), mark(20, 60, 'middle'), mark(30, 40, 'inner')];
    expect(at(nested, [10, 25, 35, 45, 70, 100])).toBe('outer middle inner middle outer -');
    expect(at([...nested].reverse(), [10, 25, 35, 45, 70])).toBe('outer middle inner middle outer');
  });
  it('is the shorter of two that begin together', () => {
    for (const marks of [
      [mark(0, 100, 'long'), mark(0, 10, 'short')],
      [mark(0, 10, 'short'), mark(0, 100, 'long')],
    ])
      expect(at(marks, [5, 50])).toBe('short long');
  });
  it('is found as by looking at all of them', () => {
    const spans = fc.array(
      fc.record({ start: fc.integer({ min: 0, max: 40 }), length: fc.integer({ min: 1, max: 30 }) }),
      { maxLength: 12 },
    );
    fc.assert(
      fc.property(spans, fc.integer({ min: 0, max: 80 }), (list, tick) => {
        const marks = list.map(({ start, length }) => mark(start, start + length, `${start}+${length}`));
        const over = marks
          .filter(({ startTick, endTick }) => startTick <= tick && tick < endTick)
          .sort((a, b) => b.startTick - a.startTick || a.endTick - b.endTick);
        expect(new MarkLine(marks).at(tick)).toBe(over[0]?.articulation);
      }),
    );
  });
});

import { describe, expect, it } from 'vitest';
import type { HearIt } from '../report/index.ts';
import { writeHearing } from './index.ts';

const RANGE = { low: 60, high: 72 };
const heard = (shape: HearIt['shape'], more: Partial<HearIt> = {}) => {
  const { part, endTick } = writeHearing({ articulation: 'long', shape, keys: [62], ...more }, RANGE);
  // In quarters, which are half a second.
  return {
    notes: part.notes.map(({ startTick, endTick: end, key }) => [startTick / 960, end / 960, key]),
    dynamics: part.points.map(({ tick, value }) => [tick / 960, value]),
    marks: part.marks,
    velocity: part.notes[0]?.velocity,
    quarters: endTick / 960,
  };
};

describe('a finding made heard', () => {
  it('leaves out keys beyond the range, and takes those at its ends', () => {
    expect(heard('note', { keys: [59, 60, 72, 73] }).notes.map(([, , key]) => key)).toEqual([60, 72]);
  });
  it('is a note held for six quarters, or one that swells and falls back for twelve', () => {
    expect(heard('note')).toMatchObject({
      notes: [[0, 5.7, 62]],
      dynamics: [[0, 84]],
      quarters: 7,
      velocity: 92,
    });
    expect(heard('rise')).toMatchObject({
      notes: [[0, 11.4, 62]],
      dynamics: [
        [0, 20],
        [6, 127],
        [12, 20],
      ],
      quarters: 13,
    });
  });
  it('is the same note twelve times, as softly or hard as the finding asks', () => {
    const { notes, velocity, quarters } = heard('repeat', { velocity: 40 });
    expect(notes).toHaveLength(12);
    expect(notes.map(([start, end]) => [start, end]).slice(0, 2)).toEqual([
      [0, 0.25],
      [0.5, 0.75],
    ]);
    expect([velocity, quarters]).toEqual([40, 6]);
  });
  it('is a chord key by key and together', () => {
    const { notes, quarters } = heard('chord', { keys: [62, 65] });
    expect(notes.map(([start, , key]) => [Math.round(10 * start) / 10, key])).toEqual([
      [0, 62],
      [2.2, 65],
      [4.4, 62],
      [4.4, 65],
    ]);
    expect(quarters).toBeCloseTo(8.9, 2);
  });
  it('is a move back and forth without a gap', () => {
    const { notes, quarters } = heard('move', { keys: [62, 65] });
    expect(notes.map(([start]) => start)).toEqual([0, 2, 4, 6, 8, 10, 12, 14]);
    expect(notes.every(([start, end]) => end - start === 2)).toBe(true);
    expect(quarters).toBe(16);
  });
  it('is a technique by turns with the one it is held against, or alone', () => {
    const { notes, marks, quarters } = heard('pair', { against: 'staccato' });
    expect(notes.map(([start]) => start)).toEqual([0, 1.5, 3, 4.5]);
    expect(marks.map(({ startTick, endTick, articulation }) => [startTick, endTick, articulation])).toEqual([
      [1440, 1441, 'staccato'],
      [4320, 4321, 'staccato'],
    ]);
    expect(quarters).toBe(6);
    const alone = heard('pair');
    expect([alone.notes.map(([start]) => start), alone.marks, alone.quarters]).toEqual([[0, 1.5], [], 3]);
  });
});

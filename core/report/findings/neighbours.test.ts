import { describe, expect, it } from 'vitest';
import { offNeighbours, ofFew, usualSpread } from './neighbours.ts';

const at = (values: readonly number[], step = 4) => values.map((y, i) => ({ x: 40 + step * i, y }));

describe('off its neighbours', () => {
  it('is nothing on a line, whatever its slope, and nothing of fewer than three', () => {
    for (const off of offNeighbours(at([1, 3, 5, 7, 9, 11, 13]))) expect(off).toBeCloseTo(0, 9);
    expect(
      offNeighbours([
        { x: 1, y: 0 },
        { x: 2, y: 90 },
      ]),
    ).toEqual([0, 0]);
  });
  it.each([0, 1, 3, 5, 6])('is the point that was moved, number %s, by as much, and no other', (moved) => {
    const off = offNeighbours(at([1, 3, 5, 7, 9, 11, 13].map((y, i) => (i === moved ? y + 6 : y))));
    expect(off[moved]).toBeCloseTo(6, 9);
    off.forEach((value, i) => {
      if (i !== moved) expect(Math.abs(value), `at ${i}`).toBeLessThan(0.01);
    });
  });
  it('is not an end towards which a course bends', () => {
    // What strikes a string adds less and less to the highest of them.
    const off = offNeighbours(at([0.83, 0.82, 0.83, 0.82, 0.81, 0.59, 0.26]));
    expect(Math.abs(off[6])).toBeLessThan(0.12);
    const turned = offNeighbours(at([0.26, 0.59, 0.81, 0.82, 0.83, 0.82, 0.83]));
    expect(Math.abs(turned[0])).toBeLessThan(0.12);
  });
  it('counts points at one place as neighbours', () => {
    const off = offNeighbours([
      { x: 1, y: 5 },
      { x: 2, y: 1 },
      { x: 2, y: 1 },
      { x: 3, y: 1 },
      { x: 4, y: 1 },
    ]);
    expect(off[0]).toBeCloseTo(4, 9);
  });
});

describe('deviations known by a few values', () => {
  // Quantiles of Student's distribution for 99.9 % within, from tables; 3.2905 for the normal one.
  it.each([
    [4, 8.61],
    [6, 5.959],
    [10, 4.587],
    [20, 3.85],
    [100, 3.39],
  ])('of %s degrees of freedom are as many as tables say', (freedom, table) => {
    expect(Math.abs(ofFew(3.2905, freedom) / table - 1)).toBeLessThan(0.05);
  });
});

describe('what is usual', () => {
  it('is the deviation of most, a few that are far off aside', () => {
    expect(usualSpread([0, 0, 0, 0, 90])).toBe(0);
    expect(usualSpread([])).toBe(0);
    // Normal numbers have a median deviation of 0.6745.
    expect(usualSpread([-0.6745, 0.6745, -0.6745, 0.6745, 0])).toBeCloseTo(1, 2);
  });
});

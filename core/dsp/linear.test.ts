import { describe, expect, it } from 'vitest';
import { Random, solved } from './index.ts';

describe('linear equations', () => {
  it('are solved, also where the first row begins with nothing', () => {
    // 2y = 6, x − y + z = 0, 3z = 3.
    const found = solved([
      [0, 2, 0, 6],
      [1, -1, 1, 0],
      [0, 0, 3, 3],
    ]);
    [2, 3, 1].forEach((value, i) => expect(found[i]).toBeCloseTo(value, 12));
  });
  it('give back what they were made of', () => {
    const random = new Random('linear');
    for (let n = 1; n <= 5; n++) {
      const x = Array.from({ length: n }, () => random.between(-3, 3));
      const rows = x.map(() => {
        const row = x.map(() => random.between(-1, 1));
        return [...row, row.reduce((sum, value, i) => sum + value * x[i], 0)];
      });
      solved(rows).forEach((value, i) => expect(value).toBeCloseTo(x[i], 8));
    }
  });
  it('that say nothing of an unknown leave it at 0', () => {
    expect(solved([[0, 5]])).toEqual([0]);
  });
});

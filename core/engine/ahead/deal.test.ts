import { describe, expect, it } from 'vitest';
import { deal, dealAnew } from '../index.ts';

describe('dealing tracks out', () => {
  it('gives the dearest first, each to whoever has least', () => {
    // 7 | 4 → 4 + 2 | 7, then 1 goes to the lighter: 7, 4 + 2 + 1.
    expect(deal([4, 7, 2, 1], 2)).toEqual([1, 0, 1, 1]);
    expect(deal([1, 1, 1, 1], 3)).toEqual([0, 1, 2, 0]);
  });
  it('gives none to what costs nothing', () => {
    expect(deal([0, 3, 0, 3], 2)).toEqual([-1, 0, -1, 1]);
    expect(deal([0, 3], 2, [1, 1])).toEqual([-1, 1]);
  });
  it('leaves tracks with those who have them, and puts new ones where there is least', () => {
    expect(deal([5, 5, 5, 1], 2, [0, 0, 1])).toEqual([0, 0, 1, 1]);
    // A worker that is no longer there, or none.
    expect(deal([5, 5], 1, [1, -1])).toEqual([0, 0]);
  });
  it('moves what is there only when it is worth it', () => {
    // 10 + 2 against 12 as it could be 12 against 12: nothing is won.
    expect(dealAnew([10, 2, 12], 2, [0, 0, 1])).toEqual([0, 0, 1]);
    // 20 against 2: 12 against 10 is better by 40 %.
    expect(dealAnew([10, 10, 2], 2, [0, 0, 1])).toEqual([0, 1, 0]);
    // 10 against 9, a tenth better: not worth it.
    expect(dealAnew([5, 5, 4, 4, 1], 2, [0, 0, 1, 1, 1])).toEqual([0, 0, 1, 1, 1]);
  });
});

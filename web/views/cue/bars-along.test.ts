import { describe, expect, it } from 'vitest';
import { MetreMap } from '#core/music/index.ts';
import { barsAlong } from './bars-along.ts';

const BAR = 3840;
const plain = new MetreMap([{ tick: 0, numerator: 4, denominator: 4 }]);

describe('bar numbers over a cue', () => {
  it('are all there where there is room for them', () => {
    expect(barsAlong(plain, 3 * BAR, 400)).toEqual([
      { bar: 1, tick: 0 },
      { bar: 2, tick: BAR },
      { bar: 3, tick: 2 * BAR },
    ]);
  });
  it('are every second, fourth, eighth … where there is less', () => {
    const bars = (width: number) => barsAlong(plain, 16 * BAR, width).map(({ bar }) => bar);
    expect(bars(8 * 44)).toEqual([1, 3, 5, 7, 9, 11, 13, 15]);
    expect(bars(8 * 44 - 1)).toEqual([1, 5, 9, 13]);
    expect(bars(10)).toEqual([1]);
    expect(bars(0)).toEqual([1]);
  });
  it('stand where bars begin, whatever their metre', () => {
    const metre = new MetreMap([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: BAR, numerator: 3, denominator: 4 },
    ]);
    expect(barsAlong(metre, BAR + 2 * 2880, 400).map(({ tick }) => tick)).toEqual([0, BAR, BAR + 2880]);
  });
});

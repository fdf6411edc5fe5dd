import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { moveFigures } from './moves.ts';

const move = (interval: number | undefined, leadSeconds: number | undefined, more: Partial<Zone> = {}) =>
  plainZone({
    role: 'transition',
    interval,
    samples: { close: { sample: 'm', ...(leadSeconds === undefined ? {} : { leadSeconds }) } },
    ...more,
  });
const figures = (...zones: Zone[]) =>
  moveFigures({ id: 'connected', name: 'connected', zones }, 'close').map(({ interval, seconds, count }) => [
    interval,
    seconds,
    count,
  ]);

describe('recorded moves', () => {
  it('land as the middle of them does, interval by interval, downwards first', () => {
    expect(figures(move(2, 0.3), move(-1, 0.12), move(2, 0.1), move(2, 0.2), move(-1, 0.14))).toEqual([
      [-1, 0.14, 2],
      [2, 0.2, 3],
    ]);
  });
  it('are told to a tenth of a millisecond', () => {
    expect(figures(move(1, 0.123_456))).toEqual([[1, 0.1235, 1]]);
  });
  it('that have no interval, were not measured there, or are none, tell nothing', () => {
    expect(
      figures(
        move(undefined, 0.2),
        move(3, undefined),
        move(3, 0),
        move(3, 0.2, { role: 'attack' }),
        move(3, 0.2, { samples: { far: { sample: 'm', leadSeconds: 0.2 } } }),
      ),
    ).toEqual([]);
    expect(moveFigures({ id: 'x', name: 'x', zones: [move(1, 0.1)] }, undefined)).toEqual([]);
  });
});

import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openPage, shown } from '../testing/open-page.ts';
import { beginGesture, endGesture, undo, useDocuments } from './documents.ts';
import { Table } from './tables.ts';
import {
  clearMoves,
  endRide,
  moveAt,
  movesOf,
  removeMove,
  replaceMoves,
  rideMove,
  setMove,
} from './level-moves.ts';

const cell = { trackId: 'a', positionId: 'close' };
const other = { trackId: 'a', positionId: 'far' };
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({ cue: [{ id: 'cue', name: 'C', endTick: 9600, loopStartTick: 0, loopEndTick: 0 }] });
});
afterEach(async () => {
  endRide();
  await page.close();
});
const records = () => useDocuments.getState().records;
const line = (of = cell) => movesOf(records(), of).map(({ tick, value }) => [tick, value]);

describe('levels that move in a cue', () => {
  it('are drawn over what was there, within bounds, of one position alone', () => {
    replaceMoves(cell, [
      { tick: 0, value: -3 },
      { tick: 960, value: 99 },
      { tick: 1920, value: -99 },
    ]);
    replaceMoves(other, [{ tick: 500, value: 2 }]);
    expect(line()).toEqual([
      [0, -3],
      [960, 12],
      [1920, -24],
    ]);
    replaceMoves(cell, [
      { tick: 900, value: 1.234 },
      { tick: 1000.4, value: 2 },
    ]);
    expect(line()).toEqual([
      [0, -3],
      [900, 1.2],
      [1000, 2],
      [1920, -24],
    ]);
    expect(line(other)).toEqual([[500, 2]]);
    undo();
    expect(line()).toEqual([
      [0, -3],
      [960, 12],
      [1920, -24],
    ]);
  });

  it('are set, moved and taken away place by place', () => {
    setMove(cell, 480, 3);
    setMove(cell, 480, 4);
    setMove(cell, 960, -2);
    expect(line()).toEqual([
      [480, 4],
      [960, -2],
    ]);
    removeMove(cell, 480);
    removeMove(cell, 481);
    expect(line()).toEqual([[960, -2]]);
    clearMoves(cell);
    expect(shown('levelPoint')).toEqual([]);
  });

  it('rest at the mix before their first place', () => {
    replaceMoves(cell, [
      { tick: 1000, value: -6 },
      { tick: 2000, value: 6 },
    ]);
    expect([0, 999, 1000, 1500, 2000, 9999].map((tick) => moveAt(records(), cell, tick))).toEqual([
      0, 0, -6, 0, 6, 6,
    ]);
    expect(moveAt(records(), other, 1500)).toBe(0);
  });

  it('give the same list while nothing of them changes', () => {
    setMove(cell, 480, 3);
    const before = movesOf(records(), cell);
    expect(movesOf(records(), cell)).toBe(before);
    setMove(cell, 960, 3);
    expect(movesOf(records(), cell)).not.toBe(before);
  });
});

describe('a ride', () => {
  it('is heard at once, thinned at its end, and one step back', () => {
    replaceMoves(cell, [
      { tick: 100, value: -9 },
      { tick: 5000, value: -9 },
    ]);
    beginGesture('Ride');
    for (let i = 0; i <= 100; i++) {
      rideMove(cell, 1000 + 10 * i, -9 + 0.1 * i);
      if (i === 50) expect(moveAt(records(), cell, 1500)).toBeCloseTo(-4, 1);
    }
    endRide();
    endGesture();
    // A straight ride is two points between those that were there.
    expect(line()).toEqual([
      [100, -9],
      [1000, -9],
      [2000, 1],
      [5000, -9],
    ]);
    undo();
    expect(line()).toEqual([
      [100, -9],
      [5000, -9],
    ]);
  });

  it('replaces what it passes, and begins again where the cue jumps back', () => {
    replaceMoves(cell, [
      { tick: 1200, value: -20 },
      { tick: 1400, value: 12 },
    ]);
    rideMove(cell, 1000, 2);
    rideMove(cell, 1500, 2);
    rideMove(cell, 500, 5);
    rideMove(cell, 700, 5);
    endRide();
    expect(line()).toEqual([
      [500, 5],
      [700, 5],
      [1000, 2],
      [1500, 2],
    ]);
  });

  it('takes linked cells along', () => {
    const table = (kind: 'track' | 'positionMix' | 'link', list: object[]) => Table.of(kind, list as never);
    const mix = (trackId: string, positionId: string) => ({
      id: `${trackId} ${positionId}`,
      trackId,
      positionId,
    });
    useDocuments.setState({
      records: {
        ...records(),
        track: table('track', [
          { id: 'a', place: 1 },
          { id: 'b', place: 2 },
          { id: 'c', place: 3 },
        ]),
        positionMix: table('positionMix', [mix('a', 'close'), mix('b', 'close'), mix('c', 'far')]),
        link: table('link', [{ id: 'l', name: 'strings', trackIds: 'a|b|c', active: true }]),
      },
    });
    rideMove({ trackId: 'b', positionId: 'close' }, 100, -2);
    rideMove({ trackId: 'b', positionId: 'close' }, 900, -6);
    endRide();
    const ridden = [
      [100, -2],
      [900, -6],
    ];
    expect(line({ trackId: 'a', positionId: 'close' })).toEqual(ridden);
    expect(line({ trackId: 'b', positionId: 'close' })).toEqual(ridden);
    // It has no such position.
    expect(line({ trackId: 'c', positionId: 'close' })).toEqual([]);
    // Another cell is another ride.
    rideMove({ trackId: 'a', positionId: 'close' }, 950, 0);
    rideMove({ trackId: 'c', positionId: 'far' }, 960, 3);
    endRide();
    expect(line({ trackId: 'b', positionId: 'close' })).toEqual([...ridden, [950, 0]]);
    expect(line({ trackId: 'c', positionId: 'far' })).toEqual([[960, 3]]);
  });
});

import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { PlayedMessage } from '#core/music/index.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { undo } from './documents.ts';
import type { Recorded } from './take-log.ts';
import { isWritten, putTake, removeTakes, takesOf, writePhraseAt, writeRecorded } from './takes.ts';

const TRACK = 'aaaaaaaa-0000-4000-8000-000000000000';
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    cue: [{ id: 'cue', name: 'C', endTick: 3840, loopStartTick: 0, loopEndTick: 0 }],
    track: [{ id: TRACK, place: 1, articulation: 'long' }],
    part: [{ id: 'p', trackId: TRACK }],
    note: [{ id: 'old', partId: 'p', startTick: 1920, endTick: 2400, key: 40, velocity: 80 }],
    // A quarter is a second.
    tempo: [{ id: 'tempo', tick: 0, bpm: 60, ramp: false }],
  });
});
afterEach(() => page.close());

const recorded: Recorded = {
  id: 'r',
  userId: 'me',
  cueId: 'cue',
  trackId: TRACK,
  fromTick: 0,
  toTick: null,
  roundSeconds: null,
  replaces: false,
  gridTicks: 0,
};
/** A key struck and let go after half a second. */
const strike = (seconds: number, key: number): PlayedMessage[] => [
  { seconds, status: 0x90, data1: key, data2: 90, articulation: 'long' },
  { seconds: seconds + 0.5, status: 0x80, data1: key, data2: 0 },
];
const notes = () => shown('note').map(({ startTick, key }) => `${startTick} ${key}`);

describe('a recording', () => {
  it('goes into the part as one step, and the cue becomes as long as it', () => {
    expect(isWritten(recorded)).toBe(false);
    expect(writeRecorded(recorded, [...strike(1, 60), ...strike(5, 62)], 6)).toEqual({ notes: 2, curves: 0 });
    expect(notes()).toEqual(['960 60', '1920 40', '4800 62']);
    expect(shown('cue')[0].endTick).toBe(7680);
    expect(isWritten(recorded)).toBe(true);
    expect(shown('take')).toEqual([]);
    undo();
    expect(notes()).toEqual(['1920 40']);
    expect(shown('cue')[0].endTick).toBe(3840);
  });
  it('without anything played changes nothing', () => {
    expect(writeRecorded(recorded, [], 6)).toBeUndefined();
    expect(writeRecorded({ ...recorded, trackId: 'gone' }, strike(1, 60), 6)).toBeUndefined();
    expect(notes()).toEqual(['1920 40']);
  });
  it('is drawn to the grid in a step of its own', () => {
    writeRecorded({ ...recorded, gridTicks: 480 }, [...strike(1.03, 60), ...strike(2.4, 62)], 6);
    expect(notes()).toEqual(['960 60', '1920 40', '2400 62']);
    undo();
    expect(notes()).toEqual(['989 60', '1920 40', '2304 62']);
    undo();
    expect(notes()).toEqual(['1920 40']);
  });
  it('takes the place of what it has reached, if it is to', () => {
    writeRecorded({ ...recorded, replaces: true }, strike(1, 60), 1.9);
    expect(notes()).toEqual(['960 60', '1920 40']);
    undo();
    writeRecorded({ ...recorded, replaces: true }, strike(1, 60), 2.1);
    expect(notes()).toEqual(['960 60']);
  });
});

describe('rounds of a loop', () => {
  const loop: Recorded = { ...recorded, toTick: 3840, roundSeconds: 4, replaces: true };
  const played = [...strike(1, 60), ...strike(5, 62), ...strike(7.97, 64), ...strike(9, 65)];
  it('are kept as takes, and the last is in the part', () => {
    writeRecorded(loop, played, 10.5);
    expect(notes()).toEqual(['0 64', '960 65']);
    expect(takesOf(shown('take'), TRACK).map(({ name }) => name)).toEqual(['Take 1', 'Take 2', 'Take 3']);
    undo();
    expect([notes(), shown('take')]).toEqual([['1920 40'], []]);
  });
  it('in which nothing was played are none', () => {
    writeRecorded(loop, [...strike(1, 60), ...strike(9, 65)], 10.5);
    expect(shown('take')).toHaveLength(2);
    writeRecorded({ ...loop, id: 'r2' }, [...strike(1, 60), ...strike(9, 65)], 10.5);
    expect(takesOf(shown('take'), TRACK).map(({ name }) => name)).toEqual([
      'Take 1',
      'Take 2',
      'Take 3',
      'Take 4',
    ]);
    removeTakes(shown('take'));
    expect(shown('take')).toEqual([]);
  });
  it('can be chosen, whole or in part', () => {
    writeRecorded(loop, [...strike(1, 60), ...strike(3, 61), ...strike(5, 62), ...strike(7, 63)], 8);
    const [first] = takesOf(shown('take'), TRACK);
    expect(notes()).toEqual(['960 62', '2880 63']);
    expect(putTake(first, { fromTick: 1920, toTick: 3840 })).toBe(true);
    expect(notes()).toEqual(['960 62', '2880 61']);
    putTake(first);
    expect(notes()).toEqual(['960 60', '2880 61']);
    expect(putTake(first, { fromTick: 5000, toTick: 6000 })).toBe(false);
    undo();
    undo();
    expect(notes()).toEqual(['960 62', '2880 63']);
  });
  it('bring their curves and marks along', () => {
    const ride: PlayedMessage = { seconds: 1.2, status: 0xb0, data1: 1, data2: 33 };
    const plucked = strike(1, 60).map((one) => ({ ...one, articulation: 'pizzicato' }));
    writeRecorded(loop, [...plucked, ride, ...strike(5, 62)], 8);
    expect(shown('point')).toEqual([]);
    putTake(takesOf(shown('take'), TRACK)[0]);
    expect(shown('point')).toMatchObject([{ controller: 1, tick: 1152, value: 33 }]);
    expect(shown('mark')).toMatchObject([{ articulation: 'pizzicato', startTick: 960, endTick: 1440 }]);
  });
});

describe('a phrase that was not recorded', () => {
  it('is written where it was played', () => {
    expect(writePhraseAt(TRACK, strike(2, 70), 3)).toBe(1);
    expect(notes()).toContain('1920 70');
    expect(writePhraseAt('gone', strike(2, 70), 3)).toBe(0);
  });
});

import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { curveOf, curveValue, type Played } from '#core/music/index.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { partOf } from './cue.ts';
import { edit, undo, useDocuments } from './documents.ts';
import { playedEdits, type PlayedInto } from './part-edits.ts';

let page: Awaited<ReturnType<typeof openPage>>;
const point = (tick: number, value: number) => ({ id: `q${tick}`, partId: 'p', controller: 1, tick, value });
beforeEach(async () => {
  page = await openPage({
    cue: [{ id: 'cue', name: 'C', endTick: 9600 }],
    track: [
      { id: 't', place: 1 },
      { id: 'empty', place: 2 },
    ],
    part: [{ id: 'p', trackId: 't' }],
    note: [
      { id: 'a', partId: 'p', startTick: 0, endTick: 1500, key: 60, velocity: 80 },
      { id: 'b', partId: 'p', startTick: 2000, endTick: 2500, key: 62, velocity: 80 },
      { id: 'c', partId: 'p', startTick: 4000, endTick: 4500, key: 64, velocity: 80 },
    ],
    mark: [{ id: 'm', partId: 'p', startTick: 0, endTick: 5000, articulation: 'pizzicato' }],
    point: [point(0, 20), point(2000, 60), point(4000, 100)],
  });
});
afterEach(() => page.close());

const nothing: Played = { notes: [], stretches: [], ridden: [] };
const write = (played: Partial<Played>, into: Partial<PlayedInto> = {}) =>
  edit('Record', playedEdits({ ...nothing, ...played }, { trackId: 't', unmarked: 'long', ...into }));
const notes = () => shown('note').map(({ startTick, endTick, key }) => [startTick, endTick, key].join(' '));
const marks = () =>
  shown('mark')
    .map(({ startTick, endTick, articulation }) => [startTick, endTick, articulation].join(' '))
    .sort((a, b) => parseInt(a) - parseInt(b));
const stretch = (startTick: number, endTick: number, articulation: string) => ({
  startTick,
  endTick,
  articulation,
});

describe('what was played', () => {
  it('comes to what is there, and one step takes it back', () => {
    write({ notes: [{ startTick: 1000, endTick: 1200, key: 72, velocity: 50 }] }, { noteIds: ['given'] });
    expect(notes()).toEqual(['0 1500 60', '1000 1200 72', '2000 2500 62', '4000 4500 64']);
    expect(shown('note').find(({ id }) => id === 'given')).toMatchObject({ partId: 'p', velocity: 50 });
    undo();
    expect(notes()).toHaveLength(3);
  });
  it('makes a part where a track has none', () => {
    write({ notes: [{ startTick: 0, endTick: 10, key: 1, velocity: 1 }] }, { trackId: 'empty' });
    expect(partOf(useDocuments.getState().records, 'empty').part.notes).toHaveLength(1);
  });
  it('takes the place of notes that begin in its span, and ends those that reach into it', () => {
    write(
      { notes: [{ startTick: 1000, endTick: 1200, key: 72, velocity: 50 }] },
      { replaces: { fromTick: 1000, toTick: 4000 } },
    );
    expect(notes()).toEqual(['0 1000 60', '1000 1200 72', '4000 4500 64']);
  });
});

describe('marks of what was played', () => {
  it('are not touched where it sounds as it is marked there', () => {
    write({ stretches: [stretch(1000, 2000, 'pizzicato')] });
    expect(marks()).toEqual(['0 5000 pizzicato']);
    write({ stretches: [stretch(6000, 7000, 'long')] });
    expect(marks()).toEqual(['0 5000 pizzicato']);
  });
  it('go with the notes that give way', () => {
    write({ stretches: [stretch(1500, 1600, 'long')] }, { replaces: { fromTick: 1000, toTick: 2000 } });
    expect(marks()).toEqual(['0 1000 pizzicato', '2000 5000 pizzicato']);
  });
  it('cut those that are there, one after the other', () => {
    write({
      stretches: [
        stretch(1000, 2000, 'staccato'),
        stretch(2000, 2400, 'long'),
        stretch(4800, 6000, 'tremolo'),
      ],
    });
    expect(marks()).toEqual([
      '0 1000 pizzicato',
      '1000 2000 staccato',
      '2400 4800 pizzicato',
      '4800 6000 tremolo',
    ]);
  });
});

describe('ridden curves', () => {
  const valueAt = (tick: number) =>
    curveValue(curveOf(partOf(useDocuments.getState().records, 't').part.points, 1), tick, 0);
  it('take the place of what was drawn from the first to the last move; before and after, that goes on', () => {
    const before = [900, 3200].map(valueAt);
    write({
      ridden: [
        {
          controller: 1,
          points: [
            { tick: 1000, value: 5 },
            { tick: 2500, value: 7 },
            { tick: 3000, value: 9 },
          ],
        },
      ],
    });
    expect([1000, 2500, 3000].map(valueAt)).toEqual([5, 7, 9]);
    expect([900, 3200].map(valueAt)).toEqual(before.map((value) => expect.closeTo(value, 0) as number));
    expect(valueAt(999)).toBeCloseTo(40, 0);
    expect(valueAt(3001)).toBeCloseTo(80, 0);
  });
  it('past the last point simply hold', () => {
    write({ ridden: [{ controller: 1, points: [{ tick: 5000, value: 30 }] }] });
    expect([valueAt(4999), valueAt(5000), valueAt(9000)]).toEqual([100, 30, 30]);
  });
  it('of a controller without a curve are all there is', () => {
    write({ ridden: [{ controller: 11, points: [{ tick: 100, value: 30 }] }] });
    expect(shown('point').filter(({ controller }) => controller === 11)).toMatchObject([
      { tick: 100, value: 30 },
    ]);
  });
});

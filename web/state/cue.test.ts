import { openPage } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { cueOf, metreOf, orderedTracks, partOf, tempoOf } from './cue.ts';
import { edit, useDocuments } from './documents.ts';

let page: Awaited<ReturnType<typeof openPage>>;
const note = (id: string, partId: string, startTick: number, key = 60) => ({
  id,
  partId,
  startTick,
  endTick: startTick + 10,
  key,
  velocity: 80,
});
beforeEach(async () => {
  page = await openPage({
    cue: [{ id: 'cue', name: 'C', endTick: 1 }],
    track: [
      { id: 't2', place: 2 },
      { id: 't1', place: 1 },
    ],
    part: [
      { id: 'p1', trackId: 't1' },
      { id: 'p2', trackId: 't2' },
    ],
    note: [note('b', 'p1', 9), note('a', 'p1', 0), note('x', 'p2', 0)],
    mark: [{ id: 'm', partId: 'p1', startTick: 0, endTick: 9, articulation: 'long' }],
    point: [{ id: 'q', partId: 'p1', tick: 0, controller: 1, value: 5 }],
    tempo: [{ id: 'tempo', tick: 0, bpm: 60 }],
    metre: [{ id: 'metre', tick: 0, numerator: 3, denominator: 4 }],
  });
});
afterEach(() => page.close());
const records = () => useDocuments.getState().records;

describe('the open cue', () => {
  it('has the tracks of its template in their order', () => {
    expect(orderedTracks(records()).map(({ id }) => id)).toEqual(['t1', 't2']);
    expect([cueOf(records(), 'cue')?.name, cueOf(records(), undefined)]).toEqual(['C', undefined]);
  });
  it('has a part for a track, sorted, and nothing for a track without one', () => {
    const { id, part } = partOf(records(), 't1');
    expect([id, part.notes.map((one) => one.id), part.marks.length, part.points.length]).toEqual([
      'p1',
      ['a', 'b'],
      1,
      1,
    ]);
    expect(partOf(records(), 'unknown')).toEqual({
      id: undefined,
      part: { notes: [], marks: [], points: [] },
    });
    expect(partOf(records(), 'unknown').part).toBe(partOf(records(), 'another').part);
  });
  it('keeps a part the same object while others are edited', () => {
    const [one, two] = [partOf(records(), 't1').part, partOf(records(), 't2').part];
    edit('x', [{ kind: 'note', id: 'x', op: 'update', fields: { key: 1 } }]);
    expect(partOf(records(), 't1').part).toBe(one);
    expect(partOf(records(), 't2').part).not.toBe(two);
    edit('x', [{ kind: 'mark', id: 'm', op: 'update', fields: { endTick: 5 } }]);
    const marked = partOf(records(), 't1').part;
    expect([marked === one, marked.notes === one.notes, marked.points === one.points]).toEqual([
      false,
      true,
      true,
    ]);
    edit('x', [{ kind: 'point', id: 'q', op: 'remove' }]);
    expect(partOf(records(), 't1').part.points).toEqual([]);
  });
  it('has maps of tempo and metre that stay the same until a change of theirs', () => {
    const [tempo, metre] = [tempoOf(records()), metreOf(records())];
    expect([tempo.toSeconds(960), metre.barStart(2)]).toEqual([1, 3 * 960]);
    edit('x', [{ kind: 'note', id: 'x', op: 'update', fields: { key: 1 } }]);
    expect([tempoOf(records()) === tempo, metreOf(records()) === metre]).toEqual([true, true]);
    edit('x', [{ kind: 'tempo', id: 'tempo', op: 'update', fields: { bpm: 120 } }]);
    expect([tempoOf(records()).toSeconds(960), metreOf(records()) === metre]).toEqual([0.5, true]);
  });
});

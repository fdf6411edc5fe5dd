import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openPage, shown } from '../../testing/open-page.ts';
import { undo } from '../../state/documents.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { barAtPlayhead, insertBars, removeBars } from './bar-edits.ts';

const BAR = 3840;
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    cue: [
      {
        id: 'cue',
        name: 'Cue',
        templateId: 'template',
        endTick: 8 * BAR,
        loopStartTick: 2 * BAR,
        loopEndTick: 4 * BAR,
      },
    ],
    tempo: [
      { id: 't1', tick: 0, bpm: 60 },
      { id: 't2', tick: 4 * BAR, bpm: 90 },
    ],
    // From bar 5 on a bar has three quarters.
    metre: [
      { id: 'm1', tick: 0, numerator: 4, denominator: 4 },
      { id: 'm2', tick: 4 * BAR, numerator: 3, denominator: 4 },
    ],
    marker: [{ id: 'k', tick: 4 * BAR, text: 'Turn' }],
    part: [{ id: 'p', trackId: 't' }],
    note: [
      { id: 'a', partId: 'p', startTick: 0, endTick: 960, key: 60, velocity: 80 },
      { id: 'b', partId: 'p', startTick: 3 * BAR, endTick: 5 * BAR, key: 62, velocity: 80 },
      { id: 'c', partId: 'p', startTick: 4 * BAR, endTick: 5 * BAR, key: 64, velocity: 80 },
    ],
    mark: [{ id: 'x', partId: 'p', startTick: 4 * BAR, endTick: 6 * BAR, articulation: 'staccato' }],
    point: [
      { id: 'p1', partId: 'p', controller: 1, tick: 0, value: 20 },
      { id: 'p2', partId: 'p', controller: 1, tick: 4 * BAR + 100, value: 90 },
      { id: 'p3', partId: 'p', controller: 11, tick: 4 * BAR + 200, value: 50 },
    ],
  });
});
afterEach(() => page.close());
const all = () =>
  Object.fromEntries(
    (['cue', 'tempo', 'metre', 'marker', 'note', 'mark', 'point'] as const).map((kind) => [
      kind,
      shown(kind).map((one) => Object.entries(one).filter(([name]) => name !== 'version')),
    ]),
  );
const ticks = (kind: 'tempo' | 'metre' | 'marker' | 'point') => shown(kind).map(({ tick }) => tick);
const spans = (kind: 'note' | 'mark') => shown(kind).map(({ startTick, endTick }) => [startTick, endTick]);

describe('bars', () => {
  it('are put in before the one at the playhead, of the metre up to there, and everything moves along in one step', () => {
    const before = all();
    usePerformance.setState({ restTick: 4 * BAR + 1000 });
    expect(barAtPlayhead()).toBe(5);
    insertBars(2);
    expect(ticks('tempo')).toEqual([0, 6 * BAR]);
    expect(ticks('metre')).toEqual([0, 6 * BAR]);
    expect(ticks('marker')).toEqual([6 * BAR]);
    expect(ticks('point')).toEqual([0, 6 * BAR + 100, 6 * BAR + 200]);
    // The note that was held across is held on.
    expect(spans('note')).toEqual([
      [0, 960],
      [3 * BAR, 7 * BAR],
      [6 * BAR, 7 * BAR],
    ]);
    expect(spans('mark')).toEqual([[6 * BAR, 8 * BAR]]);
    expect(shown('cue')[0]).toMatchObject({
      endTick: 10 * BAR,
      loopStartTick: 2 * BAR,
      loopEndTick: 4 * BAR,
    });
    removeBars(2);
    expect(all()).toEqual(before);
    undo();
    undo();
    expect(all()).toEqual(before);
  });
  it('are taken out with what begins in them; tempo, metre and curves go on as they were there', () => {
    usePerformance.setState({ restTick: 4 * BAR });
    removeBars(2);
    const TWO = 2 * 2880;
    expect(ticks('tempo')).toEqual([0, 4 * BAR]);
    expect(ticks('metre')).toEqual([0, 4 * BAR]);
    expect(shown('marker')).toEqual([]);
    expect(spans('note')).toEqual([
      [0, 960],
      [3 * BAR, 4 * BAR],
    ]);
    expect(spans('mark')).toEqual([[4 * BAR, 6 * BAR - TWO]]);
    // Each curve keeps the value it had reached.
    expect(shown('point').map(({ tick, value }) => [tick, value])).toEqual([
      [0, 20],
      [4 * BAR, 90],
      [4 * BAR, 50],
    ]);
    expect(shown('cue')[0].endTick).toBe(8 * BAR - TWO);
  });
  it('move a loop that stands behind or around them, and no other', () => {
    const loop = () => [shown('cue')[0].loopStartTick, shown('cue')[0].loopEndTick];
    usePerformance.setState({ restTick: 0 });
    insertBars(1);
    expect(loop()).toEqual([3 * BAR, 5 * BAR]);
    usePerformance.setState({ restTick: 4 * BAR });
    insertBars(1);
    expect(loop()).toEqual([3 * BAR, 6 * BAR]);
    usePerformance.setState({ restTick: 6 * BAR });
    insertBars(1);
    expect(loop()).toEqual([3 * BAR, 6 * BAR]);
    usePerformance.setState({ restTick: 2 * BAR });
    removeBars(2);
    expect(loop()).toEqual([2 * BAR, 4 * BAR]);
  });
  it('are not put in beyond what a cue can hold', () => {
    usePerformance.setState({ restTick: 0 });
    const before = all();
    insertBars(999_999);
    expect(all()).toEqual(before);
  });
});

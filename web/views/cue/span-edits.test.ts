import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { openPage, shown } from '../../testing/open-page.ts';
import { undo } from '../../state/documents.ts';
import { clearSpan, copySpan, loopSpan, moveSpan, repeatSpan, useSpanChoice } from './span-edits.ts';

vi.mock('sonner', () => ({ toast: { error: () => undefined } }));

const BAR = 3840;
let page: Awaited<ReturnType<typeof openPage>>;
const note = (id: string, partId: string, startTick: number, endTick: number, key: number) => ({
  id,
  partId,
  startTick,
  endTick,
  key,
  velocity: 80,
});
const point = (id: string, tick: number, value: number) => ({ id, partId: 'p1', controller: 1, tick, value });
beforeEach(async () => {
  page = await openPage({
    cue: [{ id: 'cue', name: 'C', endTick: 4 * BAR, loopStartTick: BAR, loopEndTick: 2 * BAR }],
    track: [
      { id: 't1', place: 1, articulation: 'long' },
      { id: 't2', place: 2, articulation: 'long' },
      { id: 't3', place: 3, articulation: 'long' },
    ],
    part: [
      { id: 'p1', trackId: 't1' },
      { id: 'p2', trackId: 't2' },
    ],
    note: [
      note('a', 'p1', 0, BAR + 100, 60),
      note('b', 'p1', BAR, 2 * BAR + 500, 62),
      note('c', 'p2', BAR + 960, BAR + 1920, 64),
      note('d', 'p2', 3 * BAR, 3 * BAR + 960, 65),
    ],
    mark: [{ id: 'm', partId: 'p1', startTick: 0, endTick: 1.5 * BAR, articulation: 'pizzicato' }],
    point: [point('q1', 0, 0), point('q2', 2 * BAR, 100)],
  });
});
afterEach(() => page.close());

const span = { fromTick: BAR, toTick: 2 * BAR };
const bars = (tick: number) => tick / BAR;
const notes = () => shown('note').map(({ startTick, endTick, key }) => [key, bars(startTick), bars(endTick)]);
const marks = () =>
  shown('mark')
    .map(({ startTick, endTick }) => [bars(startTick), bars(endTick)])
    .sort(([a], [b]) => a - b);
const curve = () =>
  shown('point')
    .map(({ tick, value }) => [tick, value])
    .sort(([a], [b]) => a - b);

describe('a span over all tracks', () => {
  it('is the loop', () => {
    expect(loopSpan()).toEqual(span);
  });
  it('is copied with notes, marks and curves over what is there, as one step', () => {
    copySpan(span, 3 * BAR);
    expect(notes()).toEqual([
      [60, 0, 1 + 100 / BAR],
      [62, 1, 2 + 500 / BAR],
      // Cut at the end of the span; the other track's note gave way.
      [62, 3, 4],
      [64, 1.25, 1.5],
      [64, 3.25, 3.5],
    ]);
    expect(marks()).toEqual([
      [0, 1.5],
      [3, 3.5],
    ]);
    // From 50 on its way to 100; before it, it holds 100, and after it again.
    expect(curve()).toEqual(
      [
        [0, 0],
        [2 * BAR, 100],
        [3 * BAR - 1, 100],
        [3 * BAR, 50],
        [4 * BAR - 1, 100],
      ].map(([tick, value]) => [tick, expect.closeTo(value, 0) as number]),
    );
    undo();
    expect([notes().length, marks(), curve().length]).toEqual([4, [[0, 1.5]], 2]);
  });
  it('is repeated behind itself, and the cue becomes as long as that', () => {
    repeatSpan(span, 3);
    expect(
      notes()
        .filter(([key]) => key === 64)
        .map(([, start]) => start),
    ).toEqual([1.25, 2.25, 3.25, 4.25]);
    expect(shown('cue')[0].endTick).toBe(5 * BAR);
    expect(marks()).toEqual([
      [0, 1.5],
      [2, 2.5],
      [3, 3.5],
      [4, 4.5],
    ]);
    undo();
    expect(shown('cue')[0].endTick).toBe(4 * BAR);
  });
  it('is cleared: what reaches in is cut, what begins there goes, curves go straight through', () => {
    clearSpan(span);
    expect(notes()).toEqual([
      [60, 0, 1],
      [65, 3, 3.25],
    ]);
    expect(marks()).toEqual([[0, 1]]);
    expect(curve()).toEqual([
      [0, 0],
      [2 * BAR, 100],
    ]);
    undo();
    expect(notes()).toHaveLength(4);
  });
  it('is moved, but not upon itself', () => {
    expect(moveSpan(span, BAR + 960)).toBe(false);
    expect(moveSpan(span, 960)).toBe(false);
    expect(notes()).toHaveLength(4);
    expect(moveSpan(span, 2 * BAR)).toBe(true);
    expect(notes()).toEqual([
      [60, 0, 1],
      [62, 2, 3],
      [64, 2.25, 2.5],
      [65, 3, 3.25],
    ]);
    expect(marks()).toEqual([
      [0, 1],
      [2, 2.5],
    ]);
  });
  it('far behind the cue is no place', () => {
    copySpan(span, 1_999_999_999);
    expect(notes()).toHaveLength(4);
  });
});

describe('a span with its time', () => {
  beforeEach(async () => {
    page.close();
    useSpanChoice.setState({ takesTime: true });
    page = await openPage({
      cue: [{ id: 'cue', name: 'C', endTick: 6 * BAR, loopStartTick: BAR, loopEndTick: 2 * BAR }],
      tempo: [
        { id: 't0', tick: 0, bpm: 60, ramp: false },
        { id: 't1', tick: BAR, bpm: 90, ramp: false },
        { id: 't2', tick: 2 * BAR, bpm: 120, ramp: false },
      ],
      metre: [{ id: 'e0', tick: 0, numerator: 4, denominator: 4 }],
      signature: [{ id: 's1', tick: BAR, fifths: -3 }],
      marker: [
        { id: 'm1', tick: BAR + 960, text: 'lamp' },
        { id: 'm2', tick: 4 * BAR, text: 'sea' },
      ],
    });
  });
  afterEach(() => useSpanChoice.setState({ takesTime: false }));
  const tempos = () => shown('tempo').map(({ tick, bpm }) => [bars(tick), bpm]);
  const keys = () => shown('signature').map(({ tick, fifths }) => [bars(tick), fifths]);
  const markers = () => shown('marker').map(({ tick, text }) => [bars(tick), text]);
  it('is copied with tempo, key and markers, and behind it all is as it was', () => {
    copySpan(span, 4 * BAR);
    expect(tempos()).toEqual([
      [0, 60],
      [1, 90],
      [2, 120],
      [4, 90],
      [5, 120],
    ]);
    expect(keys()).toEqual([
      [1, -3],
      [4, -3],
      [5, -3],
    ]);
    expect(markers()).toEqual([
      [1.25, 'lamp'],
      [4, 'sea'],
      [4.25, 'lamp'],
    ]);
    undo();
    expect([tempos().length, keys().length, markers().length]).toEqual([3, 1, 2]);
  });
  it('is repeated', () => {
    repeatSpan(span, 2);
    expect(tempos()).toEqual([
      [0, 60],
      [1, 90],
      [2, 90],
      [3, 90],
      [4, 120],
    ]);
    expect(markers().map(([bar]) => bar)).toEqual([1.25, 2.25, 3.25, 4]);
  });
  it('is moved: where it was, what was before goes on', () => {
    moveSpan(span, 4 * BAR);
    expect(tempos()).toEqual([
      [0, 60],
      [2, 120],
      [4, 90],
      [5, 120],
    ]);
    expect(markers()).toEqual([
      [4, 'sea'],
      [4.25, 'lamp'],
    ]);
  });
});

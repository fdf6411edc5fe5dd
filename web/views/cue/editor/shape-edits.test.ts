import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openPage, shown } from '../../../testing/open-page.ts';
import { undo } from '../../../state/documents.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { useEditor } from './editor-state.ts';
import { moveBySteps, selectedNotes } from './part-edits.ts';
import { SHAPES, shapeSelected, useQuantising } from './shape-edits.ts';

const note = (id: string, startTick: number, endTick: number, key = 60) => ({
  id,
  partId: 'p',
  startTick,
  endTick,
  key,
  velocity: 80,
});
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    part: [{ id: 'p', trackId: 't' }],
    note: [note('a', 10, 500), note('b', 250, 700), note('c', 970, 1400, 64)],
  });
  useEditor.setState({ selection: new Set(['a', 'b', 'c']), gridTicks: 480 });
  useQuantising.setState({ strength: 1, swing: 0.5, ends: false });
});
afterEach(() => page.close());
const times = () => shown('note').map(({ id, startTick, endTick }) => [id, startTick, endTick]);
const shape = (key: string) => {
  const found = SHAPES.find((one) => one.key === key);
  if (!found) throw new Error(`no shape ${key}`);
  return shapeSelected(found);
};

describe('the selected notes', () => {
  it('are drawn to the grid of the editor as it is set, in one step back', () => {
    const before = times();
    expect(shape('r')).toBe(true);
    expect(times()).toEqual([
      ['a', 0, 490],
      ['b', 480, 930],
      ['c', 960, 1390],
    ]);
    expect(shape('r')).toBe(false);
    undo();
    expect(times()).toEqual(before);
    useQuantising.setState({ strength: 0.5, ends: true });
    useEditor.setState({ selection: new Set(['c']) });
    shape('r');
    expect(times()).toEqual([...before.slice(0, 2), ['c', 965, 1420]]);
  });
  it('that are taken away are selected no more, and what comes is', () => {
    usePerformance.setState({ restTick: 480 });
    shape('x');
    expect(shown('note')).toHaveLength(5);
    expect(shown('note').every(({ partId }) => partId === 'p')).toBe(true);
    expect(useEditor.getState().selection.size).toBe(5);
    shape('i');
    expect(times()).toEqual([
      ['a', 10, 700],
      ['c', 970, 1400],
    ]);
    expect([...useEditor.getState().selection]).toEqual(['a', 'c']);
  });
  it('touch, or are cut where one key is struck again', () => {
    shape('c');
    expect(times()).toEqual([
      ['a', 10, 250],
      ['b', 250, 970],
      ['c', 970, 1400],
    ]);
    undo();
    shape('z');
    expect(times()[0]).toEqual(['a', 10, 250]);
    expect(times()[1]).toEqual(['b', 250, 700]);
  });
});

describe('steps of the scale', () => {
  it('move the selected notes, one step back; none moves where one would leave the keyboard', () => {
    useEditor.setState({ scale: { root: 0, name: 'major' } });
    const keys = () => shown('note').map(({ key }) => key);
    expect(moveBySteps(selectedNotes(), 1)).toBe(true);
    // C4 to D4, E4 to F4.
    expect(keys()).toEqual([62, 62, 65]);
    undo();
    expect(keys()).toEqual([60, 60, 64]);
    expect(moveBySteps(selectedNotes(), 39)).toBe(false);
    expect(moveBySteps([], 1)).toBe(false);
    expect(keys()).toEqual([60, 60, 64]);
  });
});

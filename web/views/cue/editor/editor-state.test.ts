import { beforeEach, describe, expect, it } from 'vitest';
import { keepSelected, openOn, ROW, showKeys, showSpan, useEditor } from './editor-state.ts';

const there =
  (notes: string[], marks: string[] = []) =>
  (kind: 'note' | 'mark', id: string) =>
    (kind === 'note' ? notes : marks).includes(id);
beforeEach(() => useEditor.setState({ selection: new Set(['a', 'b']), markId: undefined, topKey: 86 }));

describe('what is selected', () => {
  it('is let go where it is gone, and stays the same object otherwise', () => {
    const { selection } = useEditor.getState();
    keepSelected(there(['a', 'b', 'c']));
    expect(useEditor.getState().selection).toBe(selection);
    keepSelected(there(['b', 'c']));
    expect([...useEditor.getState().selection]).toEqual(['b']);
    keepSelected(there([]));
    expect(useEditor.getState().selection.size).toBe(0);
  });
  it('is no mark of another part', () => {
    useEditor.setState({ selection: new Set(), markId: 'm' });
    keepSelected(there([], ['m']));
    expect(useEditor.getState().markId).toBe('m');
    keepSelected(there([], ['n']));
    expect(useEditor.getState().markId).toBeUndefined();
  });
});

describe('the pitch grid', () => {
  const rows = 20;
  it('goes to where notes are when none of them would be seen', () => {
    showKeys([40, 41, 43], rows * ROW);
    const { topKey } = useEditor.getState();
    expect(topKey).toBeGreaterThanOrEqual(43);
    expect(topKey - rows).toBeLessThan(40);
  });
  it('stays where one of them is seen, without notes, and without a height', () => {
    showKeys([40, 70], rows * ROW);
    showKeys([], rows * ROW);
    showKeys([40], 0);
    expect(useEditor.getState().topKey).toBe(86);
  });
  it('opens on all notes of a part, or where they do not fit, on most of them', () => {
    const seen = (keys: number[], height = rows * ROW) => {
      openOn(keys, height);
      const { topKey } = useEditor.getState();
      return keys.filter((key) => key <= topKey && key > topKey - rows).length;
    };
    expect(seen([60, 61, 79])).toBe(3);
    expect(seen([50, 69])).toBe(2);
    expect(seen([50, 70, 71, 72, 90])).toBe(3);
    // Where all are seen nothing moves, nor without notes or a height.
    useEditor.setState({ topKey: 86 });
    for (const [keys, height] of [
      [[67, 86], rows * ROW],
      [[], rows * ROW],
      [[20], 0],
    ] as [number[], number][])
      openOn(keys, height);
    expect(useEditor.getState().topKey).toBe(86);
  });
  it('goes no farther than there are keys', () => {
    showKeys([0, 1], rows * ROW);
    expect(useEditor.getState().topKey).toBe(24);
  });
});

describe('the stretch of the cue in view', () => {
  const shown = (width: number) => {
    const { startTick, pixelsPerTick } = useEditor.getState();
    return [startTick, startTick + width / pixelsPerTick].map(Math.round);
  };
  it('is the one that is asked for, from a little before the beginning on', () => {
    showSpan(960, 9600, 800);
    expect(shown(800)).toEqual([960, 9600]);
    showSpan(-5000, 9600, 800);
    expect(shown(800)).toEqual([-240, 9600]);
  });
  it('keeps the end that is asked to stay where the other would be too near or too far', () => {
    // No less than 2 in 1000 pixels a tick, no more than 4 in 10.
    showSpan(0, 10_000_000, 800);
    expect(shown(800)).toEqual([0, 400_000]);
    showSpan(5000, 5010, 800);
    expect(shown(800)).toEqual([5000, 7000]);
    showSpan(9990, 10_000, 800, 'end');
    expect(shown(800)).toEqual([8000, 10_000]);
    showSpan(500, 400, 800, 'end');
    expect(shown(800)[0]).toBe(-240);
  });
});

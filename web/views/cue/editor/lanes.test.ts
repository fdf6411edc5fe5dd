import { beforeEach, describe, expect, it } from 'vitest';
import { localStorageFake } from '../../../testing/browser.ts';
import { useEditor } from './editor-state.ts';
import {
  controllerLanes,
  controllerName,
  controllerOfLane,
  hideLane,
  levelLanes,
  MOST_LANES,
  positionOfLane,
  showKeptLanes,
  showLane,
} from './lanes.ts';

const point = (controller: number) => ({ id: String(controller), controller, tick: 0, value: 1 });
beforeEach(() => useEditor.setState({ lanes: [] }));

describe('lanes', () => {
  it('are offered for what means something, and for what the part moves; not for those that always are there', () => {
    const names = controllerLanes([point(1), point(93), point(11)]).map(({ name }) => name);
    expect(names).toContain('expression');
    expect(names).toContain('pedal');
    expect(names).toContain('pitch bend');
    expect(names).toContain('controller 93');
    expect(names).not.toContain('dynamics');
    expect(new Set(names).size).toBe(names.length);
    expect(controllerLanes([]).map(({ name }) => name)).not.toContain('controller 93');
  });
  it('know what they are of', () => {
    expect([controllerOfLane('controller 11'), controllerOfLane('level close')]).toEqual([11, undefined]);
    expect([positionOfLane('level close'), positionOfLane('controller 11')]).toEqual(['close', undefined]);
    expect(controllerName(1)).toBe('dynamics');
    expect(levelLanes(['close'])).toEqual([{ id: 'level close', name: 'Close, level' }]);
  });
  it('are shown once each, a few at a time, and put away', () => {
    for (const controller of [11, 64, 11, 7, 10]) showLane(`controller ${controller}`);
    expect(useEditor.getState().lanes).toEqual([
      'controller 11',
      'controller 64',
      'controller 7',
      'controller 10',
    ]);
    showLane('level close');
    expect(useEditor.getState().lanes).toHaveLength(MOST_LANES);
    expect(useEditor.getState().lanes.at(-1)).toBe('level close');
    hideLane('controller 7');
    const shown = useEditor.getState().lanes;
    useEditor.setState({ lanes: [] });
    showKeptLanes();
    expect(useEditor.getState().lanes).toEqual(shown);
    expect(useEditor.getState().lanes).toEqual(['controller 64', 'controller 10', 'level close']);
  });
  it.each([
    ['{', []],
    ['null', []],
    ['["tempo", "elsewhere", 7, "controller 11"]', ['tempo', 'controller 11']],
    [
      JSON.stringify(['tempo', ...[1, 2, 3, 4].map((n) => `controller ${n}`)]),
      [1, 2, 3, 4].map((n) => `controller ${n}`),
    ],
  ])('of which %s was kept are those that can be', (text, expected) => {
    localStorageFake.setItem('farlo-lanes', text);
    showKeptLanes();
    expect(useEditor.getState().lanes).toEqual(expected);
  });
});

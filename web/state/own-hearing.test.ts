import { localStorageFake } from '../testing/browser.ts';
import { beforeEach, describe, expect, it } from 'vitest';
import {
  clearOwnHearing,
  isCellAlone,
  openOwnHearing,
  toggleCellAlone,
  toggleGroupHearing,
  toggleOwnHearing,
  useOwnHearing,
} from './own-hearing.ts';

const now = () => {
  const { muted, soloed } = useOwnHearing.getState();
  return [[...muted], [...soloed]];
};
beforeEach(() => localStorageFake.clear());

describe('what I mute and hear alone', () => {
  it('is switched on and off track by track', () => {
    openOwnHearing('ada', 't');
    toggleOwnHearing('muted', 'a');
    toggleOwnHearing('soloed', 'b');
    toggleOwnHearing('muted', 'c');
    toggleOwnHearing('muted', 'a');
    expect(now()).toEqual([['c'], ['b']]);
    clearOwnHearing();
    expect(now()).toEqual([[], []]);
  });
  it('is switched on for a group as a whole, and off where all of it is on', () => {
    const soloed = () => [...useOwnHearing.getState().soloed].sort();
    toggleOwnHearing('soloed', 'b');
    toggleGroupHearing('soloed', ['a', 'b', 'c']);
    expect(soloed()).toEqual(['a', 'b', 'c']);
    toggleOwnHearing('soloed', 'elsewhere');
    toggleGroupHearing('soloed', ['a', 'b', 'c']);
    expect(soloed()).toEqual(['elsewhere']);
    toggleGroupHearing('muted', ['a']);
    expect([...useOwnHearing.getState().muted]).toEqual(['a']);
  });
  it('is mine in this template, and there again when I come back', () => {
    openOwnHearing('ada', 't');
    toggleOwnHearing('muted', 'a');
    openOwnHearing('ada', 'other');
    expect(now()).toEqual([[], []]);
    openOwnHearing('bo', 't');
    expect(now()).toEqual([[], []]);
    openOwnHearing('ada', 't');
    expect(now()).toEqual([['a'], []]);
    clearOwnHearing();
    openOwnHearing('ada', 't');
    expect(now()).toEqual([[], []]);
  });
  it('may be one position of one track, in place of what was heard alone before', () => {
    openOwnHearing('ada', 't');
    toggleOwnHearing('soloed', 'b');
    toggleCellAlone('a', 'close');
    expect(isCellAlone(useOwnHearing.getState(), 'a', 'close')).toBe(true);
    expect(isCellAlone(useOwnHearing.getState(), 'a', 'far')).toBe(false);
    toggleCellAlone('b', 'close');
    expect(now()[1]).toEqual(['b']);
    expect(isCellAlone(useOwnHearing.getState(), 'a', 'close')).toBe(false);
    toggleCellAlone('b', 'close');
    expect(now()[1]).toEqual([]);
    expect(useOwnHearing.getState().positions?.size).toBe(0);
  });
  it('is nothing where something else was kept', () => {
    for (const text of ['not json', 'null', '5', '{"muted":7,"soloed":[1,"b"]}']) {
      localStorageFake.setItem('farlo-hearing-ada-t', text);
      openOwnHearing('ada', 't');
      expect(now()).toEqual([[], text.includes('"b"') ? ['b'] : []]);
    }
  });
});

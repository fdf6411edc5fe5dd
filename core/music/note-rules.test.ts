import { describe, expect, it } from 'vitest';
import { MetreMap, NOTE_RULES, type Note } from './index.ts';

const note = (id: string, startTick: number, key = 60): Note => ({
  id,
  startTick,
  endTick: startTick + 100,
  key,
  velocity: 80,
});
const fours = new MetreMap([{ tick: 0, numerator: 4, denominator: 4 }]);
const chosen = (
  rule: string,
  notes: readonly Note[],
  { metre = fours, selected = [] as string[] } = {},
): string => {
  const found = NOTE_RULES.find(({ name }) => name === rule);
  if (!found) throw new Error(`no rule ${rule}`);
  return found
    .of(notes, { metre, selected: new Set(selected) })
    .map(({ id }) => id)
    .join('');
};

describe('notes are chosen', () => {
  it('on and off the beat, as near as a hand plays, by the metre that holds there', () => {
    const notes = [
      note('a', 0),
      note('b', 480),
      note('c', 915),
      note('d', 1020),
      note('e', 1021),
      note('f', 3840),
    ];
    expect(chosen('On the beat', notes)).toBe('acdf');
    expect(chosen('Off the beat', notes)).toBe('be');
    // An eighth is a beat from bar 1 on, and bars begin anew at 3900.
    const eighths = new MetreMap([
      { tick: 0, numerator: 6, denominator: 8 },
      { tick: 3900, numerator: 4, denominator: 4 },
    ]);
    expect(
      chosen('On the beat', [note('a', 480), note('b', 3900), note('c', 4380)], { metre: eighths }),
    ).toBe('ab');
  });
  it('at the top and at the bottom of what begins together', () => {
    const notes = [
      note('a', 0, 60),
      note('b', 0, 64),
      note('c', 0, 67),
      note('d', 480, 55),
      note('e', 960, 50),
      note('f', 960, 50),
    ];
    expect(chosen('Highest of each chord', notes)).toBe('cdef');
    expect(chosen('Lowest of each chord', notes)).toBe('adef');
  });
  it('where a key is struck again with nothing in between', () => {
    const notes = [
      note('a', 0, 60),
      note('b', 480, 60),
      note('c', 960, 62),
      note('d', 1440, 60),
      note('e', 1920, 60),
      note('f', 1920, 64),
    ];
    expect(chosen('Repeated notes', notes)).toBe('be');
    expect(chosen('Repeated notes', [])).toBe('');
  });
  it('by what is chosen already', () => {
    const notes = [note('a', 0, 60), note('b', 480, 62), note('c', 960, 60), note('d', 1440, 64)];
    expect(chosen('Same keys as chosen', notes, { selected: ['c', 'd'] })).toBe('acd');
    expect(chosen('All but the chosen', notes, { selected: ['c', 'd'] })).toBe('ab');
    expect(chosen('Same keys as chosen', notes)).toBe('');
    expect(chosen('Higher than the chosen', notes, { selected: ['a'] })).toBe('bd');
    expect(chosen('Higher than the chosen', notes, { selected: ['a', 'b'] })).toBe('d');
    expect(chosen('Lower than the chosen', notes, { selected: ['d'] })).toBe('abc');
    expect(chosen('Lower than the chosen', notes, { selected: ['b', 'd'] })).toBe('ac');
    for (const rule of ['Higher than the chosen', 'Lower than the chosen'])
      expect(chosen(rule, notes)).toBe('');
    expect(chosen('All but the chosen', notes)).toBe('abcd');
  });
});

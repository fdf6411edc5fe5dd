import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import {
  joined,
  quantised,
  split,
  touching,
  withoutOverlaps,
  type Note,
  type NoteChange,
  type Quantising,
} from './index.ts';

const note = (id: string, startTick: number, endTick: number, key = 60): Note => ({
  id,
  startTick,
  endTick,
  key,
  velocity: 80,
});
/** Some notes as a hurried hand plays them. */
function played(seed: string, count = 60): Note[] {
  const random = new Random(seed);
  return Array.from({ length: count }, (_, i) => {
    const startTick = Math.floor(random.next() * 9600);
    const key = 55 + Math.floor(random.next() * 8);
    return note(`n${i}`, startTick, startTick + 1 + Math.floor(random.next() * 1500), key);
  });
}
/** Notes after a change. */
function after(notes: readonly Note[], { update, remove, add }: NoteChange): Note[] {
  const changed = new Map(update.map((one) => [one.id, one]));
  return [
    ...notes.filter(({ id }) => !remove.includes(id)).map((one) => ({ ...one, ...changed.get(one.id) })),
    ...add.map((one, i) => ({ ...one, id: `new ${i}` })),
  ];
}
const times = (notes: readonly Note[]) => notes.map(({ startTick, endTick }) => [startTick, endTick]);
const SEEDS = ['a', 'b', 'c', 'd', 'e'];
const straight: Quantising = { gridTicks: 240, strength: 1, swing: 0.5, ends: false };

describe('notes drawn to a grid', () => {
  it('begin on the nearest line, as long as they were', () => {
    const notes = [note('a', 100, 300), note('b', 130, 190), note('c', 240, 900), note('d', 959, 961)];
    expect(times(after(notes, quantised(notes, straight)))).toEqual([
      [0, 200],
      [240, 300],
      [240, 900],
      [960, 962],
    ]);
  });
  it('come as near as the strength says', () => {
    const notes = [note('a', 100, 300)];
    const at = (strength: number) => times(after(notes, quantised(notes, { ...straight, strength })))[0][0];
    expect([0, 0.25, 0.5, 1].map(at)).toEqual([100, 75, 50, 0]);
    expect(quantised(notes, { ...straight, strength: 0 }).update).toEqual([]);
  });
  it('swing: every second line comes later', () => {
    const notes = [note('a', 10, 100), note('b', 250, 300), note('c', 490, 600), note('d', 700, 800)];
    const made = after(notes, quantised(notes, { ...straight, swing: 2 / 3 }));
    expect(made.map(({ startTick }) => startTick)).toEqual([0, 320, 480, 800]);
  });
  it('end on lines as well where that is asked for, none of them shorter than a line', () => {
    const notes = [note('a', 100, 350), note('b', 230, 250), note('c', 5, 1000)];
    expect(times(after(notes, quantised(notes, { ...straight, ends: true })))).toEqual([
      [0, 240],
      [240, 480],
      [0, 960],
    ]);
  });
  it.each(SEEDS)('are changed by it once and not again (seed %s)', (seed) => {
    const notes = played(seed);
    for (const ends of [false, true])
      for (const swing of [0.5, 0.58, 2 / 3, 0.75])
        for (const gridTicks of [1, 80, 120, 160, 240, 320, 960, 3840]) {
          const how = { gridTicks, strength: 1, swing, ends };
          const once = after(notes, quantised(notes, how));
          expect(quantised(once, how).update, JSON.stringify(how)).toEqual([]);
          for (const one of once) expect(one.endTick).toBeGreaterThan(one.startTick);
          for (const [i, one] of once.entries())
            expect(Math.abs(one.startTick - notes[i].startTick)).toBeLessThanOrEqual(gridTicks * 0.75 + 1);
        }
  });
});

describe('notes that touch', () => {
  it('last until the next begin; chords end together, and the last stay', () => {
    const notes = [note('a', 0, 100), note('b', 0, 900, 64), note('c', 480, 500), note('d', 960, 1000)];
    expect(times(after(notes, touching(notes)))).toEqual([
      [0, 480],
      [0, 480],
      [480, 960],
      [960, 1000],
    ]);
    expect(touching([note('a', 0, 100)]).update).toEqual([]);
  });
  it.each(SEEDS)('leave no gap and no overlap (seed %s)', (seed) => {
    const made = after(played(seed), touching(played(seed)));
    const starts = [...new Set(made.map(({ startTick }) => startTick))].sort((a, b) => a - b);
    for (const one of made)
      if (one.startTick !== starts.at(-1))
        expect(one.endTick).toBe(starts[starts.indexOf(one.startTick) + 1]);
    expect(touching(made).update).toEqual([]);
  });
});

describe('overlaps', () => {
  it('of one key are cut; of two struck together the longer one stays; other keys are left alone', () => {
    const notes = [
      note('a', 0, 500),
      note('b', 240, 700),
      note('c', 240, 400),
      note('d', 0, 900, 64),
      note('e', 700, 800),
    ];
    const change = withoutOverlaps(notes);
    expect(change.remove).toEqual(['c']);
    expect(change.update).toEqual([{ id: 'a', startTick: 0, endTick: 240 }]);
  });
  it.each(SEEDS)('are gone afterwards, and every place that sounded still does (seed %s)', (seed) => {
    const notes = played(seed, 120);
    const made = after(notes, withoutOverlaps(notes));
    const covers = (list: readonly Note[], key: number, tick: number) =>
      list.filter((one) => one.key === key && one.startTick <= tick && one.endTick > tick).length;
    for (let key = 55; key < 63; key++)
      for (let tick = 0; tick < 11_200; tick += 37) {
        expect(covers(made, key, tick)).toBeLessThanOrEqual(1);
        // A note that is struck again is cut there, even where the second one is shorter.
        const struck = notes.filter((one) => one.key === key && one.startTick <= tick);
        const last = Math.max(...struck.map(({ startTick }) => startTick));
        const sounds = struck.some((one) => one.startTick === last && one.endTick > tick);
        expect(covers(made, key, tick)).toBe(sounds ? 1 : 0);
      }
    expect(withoutOverlaps(made)).toEqual({ update: [], remove: [], add: [] });
  });
});

describe('notes cut and joined', () => {
  it('are cut where they sound, and not at their edges', () => {
    const notes = [note('a', 0, 480), note('b', 480, 960), note('c', 100, 600, 64)];
    expect(split(notes, 480)).toEqual({
      update: [{ id: 'c', startTick: 100, endTick: 480 }],
      remove: [],
      add: [{ key: 64, velocity: 80, startTick: 480, endTick: 600 }],
    });
  });
  it('become one of a key, from the first to the last end', () => {
    const notes = [note('a', 500, 600), note('b', 0, 800), note('c', 700, 750), note('d', 0, 10, 64)];
    expect(joined(notes)).toEqual({
      update: [{ id: 'b', startTick: 0, endTick: 800 }],
      remove: ['a', 'c'],
      add: [],
    });
  });
  it.each(SEEDS)('one after the other give back what was (seed %s)', (seed) => {
    const notes = after(played(seed), withoutOverlaps(played(seed)))
      .filter(({ key }) => key === 58)
      .slice(0, 1);
    const [{ startTick, endTick }] = notes;
    const cut = after(notes, split(notes, Math.floor((startTick + endTick) / 2)));
    expect(times(after(cut, joined(cut)))).toEqual([[startTick, endTick]]);
  });
});

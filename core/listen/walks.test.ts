import { describe, expect, it } from 'vitest';
import type { Instrument } from '../catalogue/index.ts';
import { sineInstrument } from '../testing/fixtures.ts';
import { articulationWalk, distanceLevels, mixOfLevels, plainLevels, positionWalk } from './index.ts';

const { instrument } = sineInstrument();
const with3 = { ...instrument, positions: ['far', 'close', 'tree'].map((id) => ({ id, name: `The ${id}` })) };

describe('a walk through positions', () => {
  it('is of the technique that is asked for: another phrase for shorts and connected notes', () => {
    const notes = (id: string) =>
      positionWalk(with3, id)[0].phrase.part.notes.map(({ startTick }) => startTick);
    expect(new Set(['long', 'staccato', 'connected'].map((id) => notes(id).join())).size).toBe(3);
    expect(positionWalk(with3, 'staccato').every(({ articulation }) => articulation === 'staccato')).toBe(
      true,
    );
  });
  it('of what an instrument has not, or what has no keys, goes nowhere', () => {
    expect(positionWalk(with3, 'tremolo')).toEqual([]);
    const keyless: Instrument = { ...with3, articulations: [{ id: 'long', name: 'long', zones: [] }] };
    expect(positionWalk(keyless, 'long')).toEqual([]);
    expect(articulationWalk(keyless)).toEqual([]);
  });
  it('names what is heard, near to far, with the levels that sound', () => {
    const steps = positionWalk(with3, 'long').map(({ name, about, levels }) => [name, about, levels]);
    expect(steps.slice(0, 5)).toEqual([
      ['The close', 'alone', { close: -4 }],
      ['The tree', 'alone', { tree: -4 }],
      ['The far', 'alone', { far: -4 }],
      ['+ The tree', 'added: 2 positions', { close: -4, tree: -4 }],
      ['+ The far', 'added: 3 positions', { close: -4, tree: -4, far: -4 }],
    ]);
    expect(steps.slice(5, 10).map(([name]) => name)).toEqual([
      'Nearest',
      'Near',
      'Half way',
      'Far',
      'Farthest',
    ]);
    expect(steps.at(-1)).toEqual(['The recorded room', 'against it', { close: -4, far: -4 }]);
  });
  it('of one position is short: there is nothing to add and nowhere to go', () => {
    const one = { ...instrument, positions: [{ id: 'mix', name: 'Mix' }] };
    expect(positionWalk(one, 'long').map(({ name }) => name)).toEqual([
      'Mix',
      'Mix + early reflections',
      'Mix + tail',
      'Mix + whole hall',
    ]);
  });
  it('hears the parts of the hall apart, then together', () => {
    const halls = positionWalk(with3, 'long').flatMap(({ hall }) => hall ?? []);
    expect(halls.map(({ mix }) => [mix.earlyDb, mix.tailDb])).toEqual([
      [0, -60],
      [-60, 0],
      [0, 0],
    ]);
    for (const { sendDb } of halls) expect(sendDb).toBe(-6);
  });
});

describe('a walk through techniques', () => {
  it('holds what is recorded as a swell for as long as its name says, and a little more', () => {
    const swell = (name: string): Instrument => ({
      ...instrument,
      articulations: [{ ...instrument.articulations[1], id: 'swell', name }],
    });
    const seconds = (name: string) => {
      const [{ phrase }] = articulationWalk(swell(name));
      const [held] = phrase.part.notes;
      expect(phrase.part.points).toMatchObject([{ controller: 1, tick: 0, value: 90 }]);
      expect(phrase.endTick - held.endTick).toBe(960);
      // 100 quarters of 960 ticks a minute.
      return ((held.endTick - held.startTick) / 960) * 0.6;
    };
    expect(seconds('swell 4 s')).toBeCloseTo(4.4, 2);
    expect(seconds('swell')).toBeCloseTo(2.9, 2);
  });
});

describe('levels of a mix', () => {
  it('of all positions, and of a distance between two', () => {
    expect(plainLevels(with3)).toEqual({ far: -4, close: -4, tree: -4 });
    expect(distanceLevels(['a', 'b', 'c'], 0)).toEqual({ a: -4 });
    const middle = distanceLevels(['a', 'b', 'c'], 0.25);
    // Half way between two, each has half of the power.
    expect(middle.a).toBeCloseTo(-7.01, 2);
    expect(middle.b).toBeCloseTo(-7.01, 2);
    expect(middle).not.toHaveProperty('c');
    expect(mixOfLevels({ a: -3 }).hallSendDb).toBe(-60);
    expect(mixOfLevels({ a: -3 }, -6)).toMatchObject({ hallSendDb: -6, gainDb: 0, muted: false });
  });
});

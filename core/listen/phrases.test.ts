import { describe, expect, it } from 'vitest';
import { CONTROLLER } from '../music/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import { PRE_ROLL_SECONDS, renderPhrase, tallyOf, writePhrase } from './index.ts';

const RATE = 48_000;
const seconds = (ticks: number, bpm: number) => (ticks / TICKS_PER_QUARTER) * (60 / bpm);

describe('phrases that are told in seconds', () => {
  it.each([40, 60, 150])('last as long at %s beats a minute', (bpm) => {
    const { part, endTick } = writePhrase('tail', { low: 40, high: 61 }, bpm);
    expect(part.notes).toHaveLength(1);
    const [{ startTick, endTick: over, key, velocity }] = part.notes;
    expect([startTick, key, velocity]).toEqual([0, 51, 127]);
    // 0.3 s, of which it is held for seven tenths, and 3.2 s of silence.
    expect(seconds(over, bpm)).toBeCloseTo(0.21, 2);
    expect(seconds(endTick, bpm)).toBeCloseTo(3.5, 2);
  });
  it('walk through all keys where there are few, one after the other', () => {
    const { part } = writePhrase('walk', { low: 60, high: 64 }, 120);
    expect(part.notes.map(({ key }) => key)).toEqual([60, 61, 62, 63, 64]);
    part.notes.forEach((note, i) => {
      expect(seconds(note.startTick, 120)).toBeCloseTo(0.55 * i, 2);
      expect(seconds(note.endTick - note.startTick, 120)).toBeCloseTo(0.55 * 0.9, 2);
    });
  });
  it('have dynamics and vibrato in the middle unless they say otherwise', () => {
    const { part } = writePhrase('tail', { low: 40, high: 60 }, 60);
    const first = (controller: number) => part.points.filter((point) => point.controller === controller);
    for (const controller of [CONTROLLER.dynamics, CONTROLLER.vibrato])
      expect(first(controller).map(({ tick }) => tick)).toEqual([0]);
    const rise = writePhrase('rise', { low: 40, high: 60 }, 60).part.points;
    expect(rise.filter(({ controller }) => controller === CONTROLLER.dynamics).length).toBeGreaterThan(1);
    expect(new Set(rise.map(({ id }) => id)).size).toBe(rise.length);
  });
});

describe('what is rendered of a phrase', () => {
  const rendered = (releaseSeconds: number) => {
    const { instrument, audio } = sineInstrument();
    const articulations = instrument.articulations.map((one) => ({
      ...one,
      zones: one.zones.map((zone) => ({ ...zone, envelope: { ...zone.envelope, releaseSeconds } })),
    }));
    return renderPhrase({
      instrument: { ...instrument, articulations },
      audio,
      articulation: 'long',
      phrase: writePhrase('single', { low: 60, high: 72 }, 60),
      bpm: 60,
      mix: mixOf(['mix']),
      hall: null,
      hallMix: { earlyDb: 0, tailDb: 0 },
    });
  };
  it('ends four seconds after it, however long it rings on', () => {
    const { endTick } = writePhrase('single', { low: 60, high: 72 }, 60);
    const most = (PRE_ROLL_SECONDS + seconds(endTick, 60) + 4) * RATE;
    const { left, right } = rendered(60);
    expect(Math.abs(left.length - most)).toBeLessThanOrEqual(1);
    expect(right.length).toBe(left.length);
    expect(left.subarray(-2400).some((value) => Math.abs(value) > 1e-4)).toBe(true);
    expect(rendered(0.1).left.length).toBeLessThan(most - RATE);
  });
});

describe('rounds of a blind test', () => {
  const round = (...ranking: string[]) => ({ ranking });
  it('count places where there were several to choose from', () => {
    const tally = tallyOf(['a', 'b'], [round('a', 'b'), round('b', 'a'), round('a', 'b'), round('b')]);
    expect(tally.lines).toEqual([
      { contender: 'a', firsts: 2, meanPlace: 4 / 3 },
      { contender: 'b', firsts: 2, meanPlace: 5 / 3 },
    ]);
    expect(tallyOf(['a', 'b', 'c'], [round('a', 'b')]).lines[2].meanPlace).toBeNull();
  });
  it('beat guessing where one of two leads six times of six, not five of five', () => {
    const all = (count: number) =>
      tallyOf(
        ['a', 'b'],
        Array.from({ length: count }, () => round('a', 'b')),
      );
    // Either of two might have led: 2 · 2⁻⁶ and 2 · 2⁻⁵.
    expect(all(6).chance).toBeCloseTo(1 / 32, 10);
    expect(all(6).beatsGuessing).toBe(true);
    expect(all(5).chance).toBeCloseTo(1 / 16, 10);
    expect(all(5).beatsGuessing).toBe(false);
  });
  it('of three count the leader once for each', () => {
    const three = tallyOf(
      ['a', 'b', 'c'],
      [round('a', 'b', 'c'), round('a', 'c', 'b'), round('a', 'b', 'c')],
    );
    expect(three.chance).toBeCloseTo(3 / 27, 10);
    expect(tallyOf(['a'], [round('a')]).chance).toBe(1);
  });
});

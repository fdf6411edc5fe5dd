import { describe, expect, it } from 'vitest';
import { THIRD_OCTAVES } from '../measure/index.ts';
import { PLAIN_POSITION, type PositionMix, type TrackMix } from '../mixing/index.ts';
import { mixOf } from '../testing/fixtures.ts';
import { heldNoise, noisy } from '../testing/positions.ts';
import { arrivalsOf, bandsOfMix, buildUpsOf, combOf, coversOf, repairOf } from './index.ts';

const mix = (a: Partial<PositionMix> = {}, b: Partial<PositionMix> = {}): TrackMix => ({
  ...mixOf([]),
  positions: { a: { ...PLAIN_POSITION, ...a }, b: { ...PLAIN_POSITION, ...b } },
});
const sound = heldNoise(3, 4, 4);
const pair = (delayMs: number, turned = false) => noisy(sound, [0, delayMs], [false, turned], -70, 1);

describe('combing', () => {
  it('is found where two positions cancel: at odd multiples of half the delay’s frequency', () => {
    // 2 ms late: cancels at 250, 750, 1,250 Hz … of which sixth-octaves tell the first ones.
    const { notches, lossDb } = combOf(pair(2), mix());
    const near = (hz: number) => notches.some(({ hertz }) => Math.abs(Math.log2(hertz / hz)) < 1 / 6);
    expect([near(250), near(750)]).toEqual([true, true]);
    expect([near(500), near(1000)]).toEqual([false, false]);
    expect(notches[0].lossDb).toBeLessThan(-6);
    expect(lossDb).toBeLessThan(0);
  });
  it('is the bass that is lost when one is turned over', () => {
    const { notches } = combOf(pair(0.2, true), mix());
    // sin²: at 100 Hz a fortieth of a period is left, −18 dB; at 1 kHz most is there.
    expect(notches.find(({ hertz }) => Math.abs(hertz - 95) < 6)?.lossDb).toBeLessThan(-15);
    // And again where a whole period has passed, at 5 kHz.
    expect(notches.every(({ hertz }) => hertz < 1000 || hertz > 4000)).toBe(true);
  });
  it('is none of one position alone, of unlike ones, or of those that agree', () => {
    expect(combOf(pair(2), mix({}, { muted: true }))).toEqual({ notches: [], lossDb: 0 });
    expect(combOf(pair(2), mix({}, { levelDb: -60 })).notches).toEqual([]);
    const [a] = noisy(sound, [0], [false], -70, 1);
    const [b] = noisy(heldNoise(4, 4, 4), [0], [false], -70, 2);
    expect(combOf([a, { ...b, id: 'b' }], mix()).notches).toEqual([]);
    expect(combOf(pair(0), mix()).lossDb).toBe(0);
  });
  it('is repaired by delay or polarity, which is judged by what it leaves', () => {
    const late = pair(2);
    const repaired = repairOf(late, mix(), arrivalsOf(late));
    expect(repaired?.mix.positions.a.delayMs).toBeCloseTo(2, 1);
    expect(repaired?.mix.positions.b.delayMs).toBe(0);
    expect(repaired?.after.notches).toEqual([]);
    const turned = pair(0, true);
    expect(repairOf(turned, mix(), arrivalsOf(turned))?.mix.positions).toMatchObject({
      a: { inverted: false, delayMs: 0 },
      b: { inverted: true, delayMs: 0 },
    });
    const both = pair(3, true);
    expect(repairOf(both, mix(), arrivalsOf(both))?.after.notches).toEqual([]);
  });
  it('is left alone where nothing brings much', () => {
    const same = pair(0);
    expect(repairOf(same, mix(), arrivalsOf(same))).toBeUndefined();
    expect(repairOf(pair(2), mix({}, { muted: true }), arrivalsOf(pair(2)))).toBeUndefined();
    // Its notches stay whatever is done by arrivals that are alike: nothing is gained by doing it.
    const alike = arrivalsOf(pair(2)).map((one) => ({ ...one, delaySeconds: 0 }));
    expect(combOf(pair(2), mix()).notches.length).toBeGreaterThan(0);
    expect(repairOf(pair(2), mix(), alike)).toBeUndefined();
  });
});

describe('the bands of a mix', () => {
  it('are those of its positions by their levels and the track’s; what is off or muted adds nothing', () => {
    const flat = (power: number) => ({ bands: THIRD_OCTAVES.map(() => power) });
    const positions = { a: flat(1), b: flat(2), c: flat(100) };
    const half = { ...mix({ levelDb: -10 }, {}), gainDb: -3.0103 };
    for (const power of bandsOfMix(positions, half)) expect(power).toBeCloseTo((0.1 + 2) / 2, 4);
    for (const power of bandsOfMix(positions, mix({ levelDb: -60 }, { muted: true }))) expect(power).toBe(0);
  });
});

describe('who covers whom', () => {
  const bands = (level: (hz: number) => number) => THIRD_OCTAVES.map((hz) => 10 ** (level(hz) / 10));
  const low = { id: 'basses', bands: bands((hz) => (hz < 200 ? -10 : -60)) };
  const high = { id: 'flute', bands: bands((hz) => (hz > 800 ? -30 : -80)) };
  it('is told by bands: the louder hides the softer where both lie', () => {
    const loud = { id: 'brass', bands: bands(() => -15) };
    const found = Object.fromEntries(coversOf([low, high, loud]).map((one) => [one.id, one]));
    expect(found.flute.share).toBeCloseTo(1, 2);
    expect(found.flute.by[0]).toMatchObject({ id: 'brass' });
    expect(found.flute.by[0].share).toBeGreaterThan(0.99);
    expect(found.basses.share).toBe(0);
    expect(found.brass.share).toBe(0);
  });
  it('is the loudest of several, wherever in the score it stands, and never oneself', () => {
    const soft = { id: 'soft', bands: bands(() => -40) };
    const louder = { id: 'louder', bands: bands(() => -20) };
    const loudest = { id: 'loudest', bands: bands(() => -12) };
    for (const order of [
      [soft, louder, loudest],
      [loudest, louder, soft],
      [louder, loudest, soft],
    ]) {
      const found = Object.fromEntries(coversOf(order).map((one) => [one.id, one]));
      expect(found.soft).toEqual({ id: 'soft', share: 1, by: [{ id: 'loudest', share: 1 }] });
      expect(found.louder.by).toEqual([{ id: 'loudest', share: 1 }]);
      expect(found.loudest).toEqual({ id: 'loudest', share: 0, by: [] });
    }
  });
  it('takes 6 dB, and counts no band that lies 25 dB under the own loudest', () => {
    const nearly = { id: 'other', bands: bands(() => -24.2) };
    const own = { id: 'own', bands: bands((hz) => (hz < 500 ? -30 : -56)) };
    expect(coversOf([own, nearly])[0].share).toBe(0);
    const enough = { id: 'other', bands: bands(() => -23.8) };
    expect(coversOf([own, enough])[0].share).toBeCloseTo(1, 6);
    // What is hidden where it is faint beside the rest of itself is nothing of it.
    const above = { id: 'other', bands: bands((hz) => (hz < 500 ? -60 : 0)) };
    expect(coversOf([own, above])[0].share).toBe(0);
  });
  it('is nobody where each has a place of their own, or is alone', () => {
    for (const { share, by } of coversOf([low, high])) expect([share, by]).toEqual([0, []]);
    expect(coversOf([low])).toEqual([{ id: 'basses', share: 0, by: [] }]);
    expect(coversOf([{ id: 'silent', bands: bands(() => -Infinity) }])[0].share).toBe(0);
  });
});

describe('what builds up', () => {
  const falling = (hz: number) => -30 - 4.5 * Math.max(0, Math.log2(hz / 250));
  const even = { id: 'even', bands: THIRD_OCTAVES.map((hz) => 10 ** (falling(hz) / 10)) };
  it('is nothing in a spectrum that falls as an orchestra’s does', () => {
    for (const { excessDb } of buildUpsOf([even])) expect(Math.abs(excessDb)).toBeLessThan(0.5);
    expect(buildUpsOf([])).toEqual([]);
  });
  it('is told with its size and who brings it', () => {
    const thick = {
      id: 'horns',
      bands: THIRD_OCTAVES.map((hz) => (hz > 170 && hz < 600 ? 10 * 10 ** (falling(hz) / 10) : 0)),
    };
    const [lowMiddle, presence] = buildUpsOf([even, thick]);
    // Eleven times the power in six of twenty-one bands: 10.4 dB, less what the line's fit takes of it.
    expect(lowMiddle.excessDb).toBeGreaterThan(6);
    expect(lowMiddle.by[0].id).toBe('horns');
    expect(lowMiddle.by[0].share).toBeCloseTo(10 / 11, 1);
    expect(presence.excessDb).toBeLessThan(0);
  });
});

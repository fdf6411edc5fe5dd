import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { curveValue, MetreMap, parsePitch, pitchName, TempoMap, thinCurve } from './index.ts';

describe('pitch names', () => {
  it('reads back every key in both octave countings', () => {
    for (const middleC of [3, 4] as const)
      for (let key = 0; key < 128; key++) expect(parsePitch(pitchName(key, middleC), middleC)).toBe(key);
  });
  it('calls middle C C4, or C3 where that is preferred', () => {
    expect([pitchName(60), pitchName(60, 3)]).toEqual(['C4', 'C3']);
    expect([parsePitch('Bb3'), parsePitch('H4'), parsePitch('C99')]).toEqual([58, undefined, undefined]);
  });
});

describe('tempo map', () => {
  const changes = fc.array(
    fc.record({
      tick: fc.integer({ min: 0, max: 200_000 }),
      bpm: fc.double({ min: 20, max: 300, noNaN: true }),
    }),
    { maxLength: 12 },
  );
  it('inverts between ticks and seconds', () => {
    fc.assert(
      fc.property(changes, fc.integer({ min: -2000, max: 300_000 }), (list, tick) => {
        const map = new TempoMap(list);
        expect(map.toTicks(map.toSeconds(tick))).toBeCloseTo(tick, 4);
      }),
    );
  });
  it('adds up stretches of different tempo', () => {
    const map = new TempoMap([
      { tick: 960, bpm: 120 },
      { tick: 0, bpm: 60 },
    ]);
    expect(map.toSeconds(960)).toBeCloseTo(1);
    expect(map.toSeconds(1920)).toBeCloseTo(1.5);
    expect(map.bpmAt(960)).toBeCloseTo(120);
  });
  it('refuses a tempo of zero', () => {
    expect(() => new TempoMap([{ tick: 0, bpm: 0 }])).toThrow(/0 bpm/);
  });
});

describe('metre map', () => {
  it('counts bars over changes', () => {
    const map = new MetreMap([
      { tick: 0, numerator: 3, denominator: 4 },
      { tick: 2880 * 2, numerator: 6, denominator: 8 },
    ]);
    expect(map.toBarBeat(2880)).toEqual({ bar: 2, beat: 1, tick: 0 });
    expect(map.toBarBeat(2880 * 2 + 480 * 7)).toEqual({ bar: 4, beat: 2, tick: 0 });
    for (let bar = 1; bar < 9; bar++)
      expect(map.toBarBeat(map.barStart(bar))).toEqual({ bar, beat: 1, tick: 0 });
  });
});

describe('curves', () => {
  const point = (tick: number, value: number) => ({ id: String(tick), controller: 1, tick, value });
  it('rests before its first point, goes straight between points and stays level after the last', () => {
    const curve = [point(100, 10), point(200, 110)];
    expect([0, 99, 100, 150, 200, 999].map((tick) => curveValue(curve, tick, 64))).toEqual([
      64, 64, 10, 60, 110, 110,
    ]);
    expect(curveValue([], 5, 64)).toBe(64);
  });
  it('thins a drawn line without leaving the tolerance', () => {
    const line = Array.from({ length: 400 }, (_, i) => point(i * 10, 64 + 50 * Math.sin(i / 40)));
    const thin = thinCurve(line, 1.2);
    expect(thin.length).toBeLessThan(40);
    for (const p of line) expect(Math.abs(curveValue(thin, p.tick, 0) - p.value)).toBeLessThanOrEqual(1.2001);
  });
});

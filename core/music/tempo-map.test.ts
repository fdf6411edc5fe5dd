import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitFrom, fittedBpm, MetreMap, steppedTempos, TempoMap, type TempoChange } from './index.ts';

const QUARTER = 960;
/** Seconds from tick to tick of a tempo that moves, summed up quarter by quarter in small steps: an own road to the integral. */
function summed(from: number, to: number, quarters: number, upTo = quarters): number {
  const steps = 200_000;
  let seconds = 0;
  for (let i = 0; i < steps; i++) {
    const quarter = ((i + 0.5) / steps) * upTo;
    seconds += ((upTo / steps) * 60) / (from + ((to - from) * quarter) / quarters);
  }
  return seconds;
}

const changes = fc
  .uniqueArray(
    fc.record({
      tick: fc.integer({ min: 0, max: 400_000 }),
      bpm: fc.double({ min: 20, max: 300, noNaN: true }),
      ramp: fc.boolean(),
    }),
    { maxLength: 12, selector: ({ tick }) => tick },
  )
  .map((list): TempoChange[] => list);

describe('a tempo that moves to the next', () => {
  const map = new TempoMap([
    { tick: 0, bpm: 60, ramp: true },
    { tick: 4 * QUARTER, bpm: 120 },
  ]);
  it('takes as long as its tempo, summed up, says', () => {
    // ∫ 60/(60 + 15 q) dq over four quarters = 4 ln 2.
    expect(map.toSeconds(4 * QUARTER)).toBeCloseTo(4 * Math.LN2, 9);
    for (const quarters of [0.5, 1, 2.25, 3.9])
      expect(map.toSeconds(quarters * QUARTER)).toBeCloseTo(summed(60, 120, 4, quarters), 6);
    expect(map.toSeconds(6 * QUARTER)).toBeCloseTo(4 * Math.LN2 + 1, 9);
  });
  it('goes straight from the one to the other, and holds after the last', () => {
    expect([0, 1, 2, 3, 4, 9].map((quarter) => map.bpmAt(quarter * QUARTER))).toEqual(
      [60, 75, 90, 105, 120, 120].map((bpm) => expect.closeTo(bpm, 9) as number),
    );
    expect(map.bpmAt(-QUARTER)).toBeCloseTo(60, 9);
    expect(map.toSeconds(-QUARTER)).toBeCloseTo(-1, 9);
    expect(map.toTicks(-1)).toBeCloseTo(-QUARTER, 6);
  });
  it('begins where it stands, if that is not the beginning', () => {
    const later = new TempoMap([
      { tick: QUARTER, bpm: 60, ramp: true },
      { tick: 5 * QUARTER, bpm: 120 },
    ]);
    expect(later.bpmAt(QUARTER / 2)).toBeCloseTo(60, 9);
    expect(later.toSeconds(5 * QUARTER)).toBeCloseTo(1 + 4 * Math.LN2, 9);
  });
  it('without a next one, holds', () => {
    const alone = new TempoMap([{ tick: 0, bpm: 90, ramp: true }]);
    expect(alone.bpmAt(5000)).toBeCloseTo(90, 9);
    expect(alone.toSeconds(3 * QUARTER)).toBeCloseTo(2, 9);
  });
  it('ticks and seconds agree within a microsecond both ways', () => {
    fc.assert(
      fc.property(changes, fc.integer({ min: -2000, max: 500_000 }), (list, tick) => {
        const any = new TempoMap(list);
        const seconds = any.toSeconds(tick);
        expect(Math.abs(any.toSeconds(any.toTicks(seconds)) - seconds)).toBeLessThan(1e-6);
        // At 300 bpm a tick lasts 0.2 ms: a thousandth of it is far below a microsecond.
        expect(Math.abs(any.toTicks(seconds) - tick)).toBeLessThan(1e-3);
      }),
    );
  });
  it('stays exact where it hardly moves', () => {
    const long = new TempoMap([
      { tick: 0, bpm: 100, ramp: true },
      { tick: 1_000_000, bpm: 100 + 1e-9 },
    ]);
    expect(long.toSeconds(1_000_000)).toBeCloseTo((1_000_000 / QUARTER) * 0.6, 6);
    expect(long.toTicks(long.toSeconds(777_777))).toBeCloseTo(777_777, 4);
  });
  it('time never runs back', () => {
    fc.assert(
      fc.property(
        changes,
        fc.integer({ min: 0, max: 400_000 }),
        fc.integer({ min: 1, max: 5000 }),
        (list, at, on) => {
          const any = new TempoMap(list);
          expect(any.toSeconds(at + on)).toBeGreaterThan(any.toSeconds(at));
        },
      ),
    );
  });
});

describe('tempos in steps', () => {
  it('keep every tick within half a millisecond, and all ends exactly', () => {
    fc.assert(
      fc.property(changes, fc.integer({ min: 0, max: 500_000 }), (list, tick) => {
        const steps = steppedTempos(list);
        expect(steps.every(({ ramp }) => !ramp)).toBe(true);
        const [moving, stepped] = [new TempoMap(list), new TempoMap(steps)];
        expect(Math.abs(moving.toSeconds(tick) - stepped.toSeconds(tick))).toBeLessThan(0.00051);
        for (const one of list)
          expect(Math.abs(moving.toSeconds(one.tick) - stepped.toSeconds(one.tick))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    );
  });
  it('leave what holds as it is, and are no more than are needed', () => {
    const held = [
      { tick: 0, bpm: 60 },
      { tick: QUARTER, bpm: 90 },
    ];
    expect(steppedTempos(held)).toEqual(held);
    const few = steppedTempos([
      { tick: 0, bpm: 60, ramp: true },
      { tick: 16 * QUARTER, bpm: 66 },
    ]);
    expect(few.length).toBeGreaterThan(4);
    expect(few.length).toBeLessThan(60);
    expect(few.at(-1)).toEqual({ tick: 16 * QUARTER, bpm: 66 });
  });
});

describe('a tempo that is fitted', () => {
  const tempo = new TempoMap([{ tick: 0, bpm: 120 }]);
  it('lets a place come when it should', () => {
    // Eight quarters from second 2 to second 5: 160 a minute.
    const bpm = fittedBpm(tempo, { fromTick: 4 * QUARTER, toTick: 12 * QUARTER, seconds: 5 });
    expect(bpm).toBeCloseTo(160, 9);
    const fitted = new TempoMap([
      { tick: 0, bpm: 120 },
      { tick: 4 * QUARTER, bpm: bpm ?? 0 },
    ]);
    expect(fitted.toSeconds(12 * QUARTER)).toBeCloseTo(5, 9);
  });
  it('cannot let it come before what it begins from', () => {
    expect(fittedBpm(tempo, { fromTick: 4 * QUARTER, toTick: 12 * QUARTER, seconds: 2 })).toBeUndefined();
    expect(fittedBpm(tempo, { fromTick: QUARTER, toTick: QUARTER, seconds: 9 })).toBeUndefined();
  });
  it('begins at the last change or marker before it', () => {
    const tempos = [
      { tick: 0, bpm: 60 },
      { tick: 500, bpm: 70 },
    ];
    expect(fitFrom(tempos, [{ tick: 800 }, { tick: 2000 }], 2000)).toBe(800);
    expect(fitFrom(tempos, [], 2000)).toBe(500);
    expect(fitFrom([], [{ tick: 300 }], 300)).toBe(0);
  });
});

describe('pulses', () => {
  const ticks = (map: MetreMap, from: number, to: number) =>
    map.pulses(from, to).map(({ tick, beginsBar }) => (beginsBar ? `${tick}!` : String(tick)));
  it('are the beats of every bar, the first of each apart', () => {
    const map = new MetreMap([{ tick: 0, numerator: 3, denominator: 4 }]);
    expect(ticks(map, 0, 4 * QUARTER)).toEqual(['0!', '960', '1920', '2880!']);
    expect(ticks(map, 1, 960)).toEqual([]);
  });
  it('are threes of eighths in 6/8, but eighths in 5/8 and 3/8', () => {
    const of = (numerator: number, denominator: number) =>
      ticks(new MetreMap([{ tick: 0, numerator, denominator }]), 0, 1500);
    expect(of(6, 8)).toEqual(['0!', '1440']);
    expect(of(5, 8)).toEqual(['0!', '480', '960', '1440']);
    expect(of(3, 8)).toEqual(['0!', '480', '960', '1440!']);
    expect(of(12, 16)).toEqual(['0!', '720', '1440']);
  });
  it('go on backwards before the beginning, and begin anew where the metre changes', () => {
    const map = new MetreMap([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 5000, numerator: 2, denominator: 4 },
    ]);
    expect(ticks(map, -4000, 1)).toEqual(['-3840!', '-2880', '-1920', '-960', '0!']);
    expect(ticks(map, 2880, 8000)).toEqual(['2880', '3840!', '4800', '5000!', '5960', '6920!', '7880']);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { curveValue, fittedLine } from './index.ts';

const at = (line: readonly { tick: number; value: number }[], tick: number) =>
  curveValue(
    line.map((point, i) => ({ ...point, controller: 1, id: String(i) })),
    tick,
    line[0].value,
  );

describe('a line through values sent in whole steps', () => {
  it('has few points and passes all of them within the tolerance', () => {
    const sent = Array.from({ length: 300 }, (_, i) => ({
      tick: 7 * i,
      value: Math.round(i < 150 ? 20 + 0.47 * i : 90.5 - 0.31 * (i - 150)),
    }));
    const line = fittedLine(sent, 0.499);
    expect(line.length).toBeLessThan(12);
    for (const { tick, value } of sent) expect(Math.abs(at(line, tick) - value)).toBeLessThan(0.5);
  });
  it('keeps what jumps, and what is level', () => {
    const steps = [
      { tick: 0, value: 10 },
      { tick: 479, value: 10 },
      { tick: 480, value: 90 },
      { tick: 900, value: 90 },
    ];
    const line = fittedLine(steps, 0.499);
    for (const { tick, value } of steps) expect(Math.abs(at(line, tick) - value)).toBeLessThan(0.5);
    expect(line).toHaveLength(4);
    expect(fittedLine(steps.slice(0, 1), 0.499)).toEqual(steps.slice(0, 1));
    expect(fittedLine([], 0.499)).toEqual([]);
  });
  it('never leaves the tolerance, whatever was sent, and begins and ends where that does', () => {
    const sent = fc
      .array(fc.record({ gap: fc.integer({ min: 1, max: 50 }), value: fc.nat(127) }), {
        minLength: 1,
        maxLength: 60,
      })
      .map((list) => {
        let tick = 0;
        return list.map(({ gap, value }) => ({ tick: (tick += gap), value }));
      });
    fc.assert(
      fc.property(sent, fc.double({ min: 0.1, max: 4, noNaN: true }), (list, tolerance) => {
        const line = fittedLine(list, tolerance);
        for (const { tick, value } of list)
          expect(Math.abs(at(line, tick) - value)).toBeLessThanOrEqual(tolerance + 1e-6);
        expect([line[0].tick, line[line.length - 1].tick]).toEqual([
          list[0].tick,
          list[list.length - 1].tick,
        ]);
        expect(line.length).toBeLessThanOrEqual(Math.max(1, list.length));
        // A controller has nothing below 0 and above 127, and its line neither.
        const sorted = list.map((one) => one.value).sort((a, b) => a - b);
        for (const { value } of line) {
          expect(value).toBeGreaterThanOrEqual(sorted[0]);
          expect(value).toBeLessThanOrEqual(sorted[sorted.length - 1]);
        }
      }),
    );
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clearedChanges, clearedTempos, copiedChanges, copiedTempos, TempoMap } from './index.ts';

interface Change {
  id?: string;
  tick: number;
  value: number;
}
const NONE = { value: 0 };
const valueAt = (list: readonly Change[], tick: number) =>
  [...list]
    .sort((a, b) => a.tick - b.tick)
    .filter((one) => one.tick <= tick)
    .at(-1)?.value ?? NONE.value;
const list = fc
  .uniqueArray(fc.record({ tick: fc.nat(40), value: fc.integer({ min: 1, max: 9 }) }), {
    selector: ({ tick }) => tick,
    maxLength: 8,
  })
  .map((changes): Change[] => changes.map((one, i) => ({ ...one, id: String(i) })));
const spans = fc.record({ fromTick: fc.nat(20), length: fc.integer({ min: 1, max: 15 }), place: fc.nat(40) });

describe('changes of a span', () => {
  it('hold at their copy as they do there, and everywhere else nothing changes', () => {
    fc.assert(
      fc.property(list, spans, (changes, { fromTick, length, place }) => {
        const span = { fromTick, toTick: fromTick + length };
        const next = copiedChanges(changes, span, place, NONE);
        for (let tick = 0; tick < 80; tick++) {
          const isCopy = tick >= place && tick < place + length;
          expect(valueAt(next, tick)).toBe(valueAt(changes, isCopy ? tick - place + fromTick : tick));
        }
        expect(new Set(next.map(({ tick }) => tick)).size).toBe(next.length);
        // What stays is what it was; what is new has no id yet.
        for (const one of next) if (one.id !== undefined) expect(changes).toContain(one);
      }),
    );
  });
  it('are taken out, so that what was before holds on, and behind them what held there', () => {
    fc.assert(
      fc.property(list, spans, (changes, { fromTick, length }) => {
        const span = { fromTick, toTick: fromTick + length };
        const next = clearedChanges(changes, span, NONE);
        for (let tick = 0; tick < 80; tick++) {
          const isInside = tick >= fromTick && tick < span.toTick;
          const before = fromTick === 0 ? valueAt(changes, 0) : valueAt(changes, fromTick - 1);
          expect(valueAt(next, tick)).toBe(isInside ? before : valueAt(changes, tick));
        }
      }),
    );
  });
});

describe('tempos of a span', () => {
  const tempos = fc
    .uniqueArray(
      fc.record({
        tick: fc.nat(20).map((n) => n * 480),
        bpm: fc.integer({ min: 40, max: 200 }),
        ramp: fc.boolean(),
      }),
      { selector: ({ tick }) => tick, maxLength: 6 },
    )
    .map((list) => [{ tick: 0, bpm: 90, ramp: true }, ...list.filter(({ tick }) => tick > 0)]);
  const places = fc.record({
    from: fc.nat(10),
    length: fc.integer({ min: 1, max: 8 }),
    place: fc.nat(30),
  });
  /** How long a stretch lasts. */
  const lasts = (map: TempoMap, from: number, to: number) => map.toSeconds(to) - map.toSeconds(from);
  it('pass at their copy as they do there, and elsewhere as before, also where one was on its way', () => {
    fc.assert(
      fc.property(tempos, places, (list, { from, length, place }) => {
        const span = { fromTick: from * 480, toTick: (from + length) * 480 };
        const at = place * 480 + 240;
        const end = at + span.toTick - span.fromTick;
        const [before, after] = [new TempoMap(list), new TempoMap(copiedTempos(list, span, at))];
        // A tick of another tempo lasts a millisecond at most.
        for (let t = 0; t + 120 <= span.toTick - span.fromTick; t += 120)
          expect(lasts(after, at + t, at + t + 120)).toBeCloseTo(
            lasts(before, span.fromTick + t, span.fromTick + t + 120),
            2,
          );
        for (let t = 0; t + 120 <= at; t += 120)
          expect(lasts(after, t, t + 120)).toBeCloseTo(lasts(before, t, t + 120), 2);
        for (let t = end; t < end + 9600; t += 120)
          expect(lasts(after, t, t + 120)).toBeCloseTo(lasts(before, t, t + 120), 6);
      }),
    );
  });
  it('are taken out, and what comes behind them passes as before', () => {
    fc.assert(
      fc.property(tempos, places, (list, { from, length }) => {
        const span = { fromTick: from * 480 + 240, toTick: (from + length) * 480 + 240 };
        const [before, after] = [new TempoMap(list), new TempoMap(clearedTempos(list, span))];
        for (let t = span.toTick; t < span.toTick + 9600; t += 120)
          expect(lasts(after, t, t + 120)).toBeCloseTo(lasts(before, t, t + 120), 6);
        for (let t = 0; t + 120 <= span.fromTick; t += 120)
          expect(lasts(after, t, t + 120)).toBeCloseTo(lasts(before, t, t + 120), 2);
        // In between one tempo holds.
        expect(after.bpmAt(span.toTick - 2)).toBeCloseTo(after.bpmAt(span.fromTick), 6);
      }),
    );
  });
  it('that hold are copied as they are', () => {
    const list = [
      { tick: 0, bpm: 60, ramp: false },
      { tick: 960, bpm: 90, ramp: false },
      { tick: 1920, bpm: 120, ramp: false },
    ];
    expect(
      copiedTempos(list, { fromTick: 960, toTick: 1920 }, 3840).map(({ tick, bpm }) => [tick, bpm]),
    ).toEqual([
      [0, 60],
      [960, 90],
      [1920, 120],
      [3840, 90],
      [4800, 120],
    ]);
  });
});

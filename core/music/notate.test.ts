import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MetreMap, notate, type NotatedBar, type NotatedEvent, type Note } from './index.ts';

const FOUR = new MetreMap([{ tick: 0, numerator: 4, denominator: 4 }]);
const Q = 960;
let count = 0;
const note = (startTick: number, ticks: number, key = 60): Note => ({
  id: String(count++),
  startTick,
  endTick: startTick + ticks,
  key,
  velocity: 80,
});
/** A voice of a bar as text: r for rests, ~ for what is tied on, 3 for triplets. */
const said = (events: readonly NotatedEvent[] = []) =>
  events
    .map(({ type, dots, isTriplet, keys }) => {
      const length = `${type ?? 'bar'}${dots ? '.' : ''}${isTriplet ? '3' : ''}`;
      return keys.length === 0
        ? `r:${length}`
        : `${keys.map(({ key, tiedTo }) => `${key}${tiedTo ? '~' : ''}`).join('+')}:${length}`;
    })
    .join(' ');
const bars = (notes: Note[], metre = FOUR, end = 0) =>
  notate(notes, metre, end).map(({ voices }) => voices.map(said).join(' | '));

describe('notes as they are written', () => {
  it('have the lengths that are meant, and rests between them', () => {
    expect(bars([note(0, Q), note(Q, Q / 2, 62), note(2 * Q, 2 * Q, 64)])).toEqual([
      '60:quarter 62:eighth r:eighth 64:half',
    ]);
    expect(bars([], FOUR, 2 * 3840)).toEqual(['r:bar', 'r:bar']);
  });
  it('leave rests that show the middle of the bar, and no two beats of three', () => {
    expect(bars([note(0, Q)])).toEqual(['60:quarter r:quarter r:half']);
    expect(bars([note(0, Q), note(3 * Q, Q)])).toEqual(['60:quarter r:quarter r:quarter 60:quarter']);
    const three = new MetreMap([{ tick: 0, numerator: 3, denominator: 4 }]);
    expect(bars([note(2 * Q, Q)], three)).toEqual(['r:quarter r:quarter 60:quarter']);
    const halves = new MetreMap([{ tick: 0, numerator: 2, denominator: 2 }]);
    expect(bars([note(0, Q)], halves)).toEqual(['60:quarter r:quarter r:half']);
    const seven = new MetreMap([{ tick: 0, numerator: 7, denominator: 8 }]);
    expect(bars([note(0, 2 * Q)], seven)).toEqual(['60:half r:quarter.']);
    // Notes are held through it.
    expect(bars([note(Q, 2 * Q)])).toEqual(['r:quarter 60:half r:quarter']);
  });
  it('are tied over bar lines and from beat to beat where a length cannot be written', () => {
    expect(bars([note(3 * Q, 3 * Q)])).toEqual(['r:half r:quarter 60~:quarter', '60:half r:half']);
    // From the second eighth on for a beat and a half: the beat is shown.
    expect(bars([note(Q / 2, 1.5 * Q)])).toEqual(['r:eighth 60~:eighth 60:quarter r:half']);
    expect(bars([note(0, (5 * Q) / 4)])).toEqual(['60~:quarter 60:16th r:eighth. r:half']);
  });
  it('played a little early, late, short or over one another are written as they were meant', () => {
    expect(bars([note(14, 900), note(950, 1000, 62), note(1930, 940, 64), note(2890, 930, 65)])).toEqual([
      '60:quarter 62:quarter 64:quarter 65:quarter',
    ]);
  });
  it('in threes are triplets, beat by beat', () => {
    expect(
      bars([
        note(0, 320),
        note(325, 310, 62),
        note(637, 320, 64),
        note(Q, Q / 2, 65),
        note(1.5 * Q, Q / 2, 67),
      ]),
    ).toEqual(['60:eighth3 62:eighth3 64:eighth3 65:eighth 67:eighth r:half']);
    const [first] = notate([note(0, 640), note(640, 320, 62)], FOUR, 0);
    expect(said(first.voices[0])).toBe('60:quarter3 62:eighth3 r:quarter r:half');
    expect(first.voices[0].map(({ bracket }) => bracket)).toEqual(['start', 'stop', undefined, undefined]);
  });
  it('that begin and end together are chords; others have voices of their own', () => {
    expect(bars([note(0, Q, 60), note(0, Q, 64), note(Q, Q, 65)])).toEqual([
      '64+60:quarter 65:quarter r:half',
    ]);
    expect(bars([note(0, 4 * Q, 48), note(0, 2 * Q, 60), note(2 * Q, 2 * Q, 62)])).toEqual([
      '60:half 62:half | 48:whole',
    ]);
  });
  describe('in compound bars', () => {
    const in8 = (numerator: number) => new MetreMap([{ tick: 0, numerator, denominator: 8 }]);
    const E = Q / 2;
    it.each([
      // Four eighths from the beginning, or from the second on: the beat of three shows.
      [6, [note(0, 4 * E)], '60~:quarter. 60:eighth r:quarter'],
      [6, [note(E, 4 * E)], 'r:eighth 60~:quarter 60:quarter r:eighth'],
      [6, [note(0, 6 * E)], '60:half.'],
      [6, [note(0, 2 * E), note(2 * E, E, 62), note(3 * E, 3 * E, 64)], '60:quarter 62:eighth 64:quarter.'],
      [9, [note(0, 9 * E)], '60~:half. 60:quarter.'],
      [12, [note(0, 12 * E)], '60:whole.'],
      [12, [note(0, 7 * E)], '60~:half. 60:eighth r:quarter r:quarter.'],
      [12, [note(2 * E, 6 * E)], 'r:quarter 60~:eighth 60~:quarter. 60:quarter r:eighth r:quarter.'],
      [3, [note(E, 2 * E)], 'r:eighth 60:quarter'],
    ])('of %s eighths beats of three show', (numerator, notes, text) => {
      expect(bars(notes, in8(numerator))).toEqual([text]);
    });
    it('of five or seven eighths, and in three quarters, there are none', () => {
      expect(bars([note(E, 4 * E)], in8(5))).toEqual(['r:eighth 60:half']);
      expect(bars([note(0, 4 * E)], in8(7))).toEqual(['60:half r:quarter.']);
      const three = new MetreMap([{ tick: 0, numerator: 3, denominator: 4 }]);
      expect(bars([note(0, 4 * E)], three)).toEqual(['60:half r:quarter']);
    });
  });
  it('follow the metre, and tell where it changes', () => {
    const metre = new MetreMap([
      { tick: 0, numerator: 6, denominator: 8 },
      { tick: 2880, numerator: 3, denominator: 4 },
    ]);
    const written = notate([note(0, 1440), note(1440, 1440, 62), note(2880, 2880, 64)], metre, 0);
    expect(written.map(({ voices }) => said(voices[0]))).toEqual(['60:quarter. 62:quarter.', '64:half.']);
    expect(written.map(({ metre: told }) => told?.numerator)).toEqual([6, 3]);
  });
});

describe('whatever is played', () => {
  const anyNotes = fc.array(
    fc.record({
      startTick: fc.integer({ min: 0, max: 12_000 }),
      ticks: fc.integer({ min: 1, max: 6000 }),
      key: fc.integer({ min: 30, max: 90 }),
    }),
    { maxLength: 24 },
  );
  const metres = fc.constantFrom(
    FOUR,
    new MetreMap([{ tick: 0, numerator: 7, denominator: 8 }]),
    new MetreMap([{ tick: 0, numerator: 6, denominator: 8 }]),
    new MetreMap([{ tick: 0, numerator: 3, denominator: 2 }]),
    new MetreMap([
      { tick: 0, numerator: 3, denominator: 4 },
      { tick: 2880, numerator: 5, denominator: 8 },
    ]),
  );
  const filled = ({ ticks, voices }: NotatedBar) =>
    voices.every((events, voice) => {
      if (events.length === 0) return voice > 0;
      let at = 0;
      for (const event of events) {
        if (event.tick !== at) return false;
        at += event.ticks;
      }
      return at === ticks;
    });
  it('fills every voice of every bar from end to end with lengths that can be written', () => {
    fc.assert(
      fc.property(anyNotes, metres, (list, metre) => {
        const notes = list.map(({ startTick, ticks, key }) => note(startTick, ticks, key));
        const written = notate(notes, metre, 3840);
        expect(written.every(filled)).toBe(true);
        expect(written.every(({ voices }) => voices.length <= 4)).toBe(true);
        for (const { voices } of written)
          for (const events of voices)
            for (const { type, ticks, dots, isTriplet } of events) {
              if (type === undefined) continue;
              const plain = { whole: 3840, half: 1920, quarter: 960, eighth: 480, '16th': 240, '32nd': 120 }[
                type
              ];
              expect(ticks).toBe(((plain * (dots ? 3 : 2)) / 2) * (isTriplet ? 2 / 3 : 1));
            }
      }),
      { numRuns: 2000 },
    );
  });
  it('is all there, once each, where it was played, within half a thirty-second', () => {
    fc.assert(
      fc.property(anyNotes, metres, (list, metre) => {
        const notes = list.map(({ startTick, ticks, key }) => note(startTick, ticks, key));
        const begun = notate(notes, metre, 0).flatMap(({ startTick, voices }) =>
          voices.flatMap((events) =>
            events.flatMap(({ tick, keys }) =>
              keys.flatMap(({ noteId, tiedFrom }) => (tiedFrom ? [] : [{ noteId, at: startTick + tick }])),
            ),
          ),
        );
        expect(begun.map(({ noteId }) => noteId).sort()).toEqual(notes.map(({ id }) => id).sort());
        for (const { noteId, at } of begun) {
          const played = notes.find(({ id }) => id === noteId)?.startTick ?? NaN;
          expect(Math.abs(at - played)).toBeLessThanOrEqual(80);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CONTROLLER, curveValue, TempoMap, writePlayed, type PlayedMessage } from './index.ts';

// A quarter is a second: ticks are 960ths of one.
const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
const all = { fromTick: 0, toTick: Infinity, endSeconds: 20 };
const on = (
  seconds: number,
  key: number,
  velocity = 80,
  more: Partial<PlayedMessage> = {},
): PlayedMessage => ({
  seconds,
  status: 0x90,
  data1: key,
  data2: velocity,
  ...more,
});
const off = (seconds: number, key: number, status = 0x80): PlayedMessage => ({
  seconds,
  status,
  data1: key,
  data2: 0,
});
const ride = (seconds: number, controller: number, value: number): PlayedMessage => ({
  seconds,
  status: 0xb0,
  data1: controller,
  data2: value,
});
const notes = (messages: PlayedMessage[], span = {}) =>
  writePlayed(messages, tempo, { ...all, ...span }).notes.map(({ startTick, endTick, key, velocity }) => [
    startTick,
    endTick,
    key,
    velocity,
  ]);

describe('played notes', () => {
  it('last from press to release, on any channel, however a release is sent', () => {
    expect(notes([on(1, 60), off(1.5, 60), on(2, 62, 33, { status: 0x93 }), off(3, 62, 0x90)])).toEqual([
      [960, 1440, 60, 80],
      [1920, 2880, 62, 33],
    ]);
  });
  it('end when their key is struck again, and at the end when nobody lets go', () => {
    expect(notes([on(1, 60), on(2, 60, 50), on(3, 64)], { endSeconds: 4 })).toEqual([
      [960, 1920, 60, 80],
      [1920, 3840, 60, 50],
      [2880, 3840, 64, 80],
    ]);
  });
  it('follow tempos that move', () => {
    const moving = new TempoMap([
      { tick: 0, bpm: 60, ramp: true },
      { tick: 3840, bpm: 120 },
    ]);
    const { notes: written } = writePlayed([on(4 * Math.LN2, 60), off(4 * Math.LN2 + 0.5, 60)], moving, all);
    expect(written).toMatchObject([{ startTick: 3840, endTick: 4800 }]);
  });
  it('meant for the first beat are put on it; what comes before or after the span is left out', () => {
    const span = { fromTick: 960, toTick: 2880 };
    expect(
      notes(
        [on(0.5, 50), off(0.6, 50), on(0.9, 60), off(1.4, 60), on(2.99, 62), on(3, 64), off(3.5, 62)],
        span,
      ),
    ).toEqual([
      [960, 1344, 60, 80],
      [2870, 2880, 62, 80],
    ]);
  });
  it('at the end of a round belong to the next', () => {
    const span = { fromTick: 960, toTick: 2880, isRound: true };
    expect(notes([on(2.5, 60), off(2.6, 60), on(2.96, 62), off(3.2, 62)], span)).toEqual([
      [2400, 2496, 60, 80],
    ]);
    // A round is two seconds: seen from the next one, it came just before its beginning.
    expect(notes([on(0.96, 62), off(1.2, 62)], span)).toEqual([[960, 1152, 62, 80]]);
  });
  it('are no keys that select something', () => {
    const played = writePlayed(
      [on(1, 24, 80, { selects: true }), off(1.1, 24), on(2, 60), off(3, 60)],
      tempo,
      all,
    );
    expect(played.notes).toHaveLength(1);
  });
  it('never overlap on one key, and are all within what was played', () => {
    const message = fc.record({
      seconds: fc.double({ min: 0, max: 10, noNaN: true }),
      status: fc.constantFrom(0x90, 0x80, 0x91),
      data1: fc.integer({ min: 60, max: 63 }),
      data2: fc.integer({ min: 0, max: 127 }),
    });
    fc.assert(
      fc.property(fc.array(message, { maxLength: 60 }), (list) => {
        const sorted = [...list].sort((a, b) => a.seconds - b.seconds);
        const written = writePlayed(sorted, tempo, all).notes;
        for (const note of written) {
          expect(note.endTick).toBeGreaterThan(note.startTick);
          expect(note.endTick).toBeLessThanOrEqual(20 * 960);
        }
        for (const key of [60, 61, 62, 63]) {
          const own = written.filter((note) => note.key === key);
          own
            .slice(1)
            .forEach((note, i) => expect(note.startTick).toBeGreaterThanOrEqual(own[i].endTick - 1));
        }
      }),
    );
  });
});

describe('articulations of what was played', () => {
  it('reach from the first note of each to the first of the next', () => {
    const word = (articulation: string) => ({ articulation });
    const { stretches } = writePlayed(
      [
        on(1, 60, 80, word('long')),
        off(1.5, 60),
        on(2, 62, 80, word('long')),
        off(3.5, 62),
        on(3, 64, 80, word('pizzicato')),
        on(3, 67, 80, word('pizzicato')),
        off(3.2, 64),
        off(3.3, 67),
      ].sort((a, b) => a.seconds - b.seconds),
      tempo,
      all,
    );
    expect(stretches).toEqual([
      { startTick: 960, endTick: 2880, articulation: 'long' },
      { startTick: 2880, endTick: Math.round(3.3 * 960), articulation: 'pizzicato' },
    ]);
  });
});

describe('ridden controllers', () => {
  const ridden = (messages: PlayedMessage[], span = {}) =>
    writePlayed(messages, tempo, { ...all, ...span }).ridden;
  it('are curves that stay within half a step of every value that was sent', () => {
    const sent = Array.from({ length: 200 }, (_, i) =>
      ride(i / 50, 1, Math.round(64 + 60 * Math.sin(i / 20))),
    );
    const [{ controller, points }] = ridden(sent);
    expect(controller).toBe(1);
    expect(points.length).toBeLessThan(120);
    const curve = points.map((point, i) => ({ ...point, id: String(i), controller }));
    for (const { seconds, data2 } of sent)
      expect(Math.abs(curveValue(curve, Math.round(seconds * 960), 0) - data2)).toBeLessThanOrEqual(0.5);
  });
  it('hold what a hand has held, and do not creep to the next value', () => {
    expect(ridden([ride(1, 1, 20), ride(3, 1, 90)])[0].points).toEqual([
      { tick: 960, value: 20 },
      { tick: 2879, value: 20 },
      { tick: 2880, value: 90 },
    ]);
  });
  it('a pedal is up or down, never between', () => {
    expect(ridden([ride(1, CONTROLLER.pedal, 127), ride(1.05, CONTROLLER.pedal, 0)])[0].points).toEqual([
      { tick: 960, value: 127 },
      { tick: 1007, value: 127 },
      { tick: 1008, value: 0 },
    ]);
  });
  it('are written as the part knows them, and several at once where a keymap says so', () => {
    const message = { ...ride(1, 2, 50), controllers: [1, 11] };
    expect(ridden([message]).map(({ controller }) => controller)).toEqual([1, 11]);
    expect(ridden([{ ...ride(1, 2, 50), controllers: [] }])).toEqual([]);
  });
  it('a bent pitch is one, in the middle at 64', () => {
    const bend = { seconds: 1, status: 0xe0, data1: 64, data2: 96 };
    expect(ridden([bend])).toEqual([{ controller: 128, points: [{ tick: 960, value: 96.5 }] }]);
  });
  it('banks, data entry and commands are none, and neither is what lies outside', () => {
    expect(ridden([0, 6, 32, 98, 101, 120, 123].map((controller) => ride(1, controller, 5)))).toEqual([]);
    expect(ridden([ride(0.5, 1, 5), ride(4, 1, 6)], { fromTick: 960, toTick: 1920 })).toEqual([]);
  });
});

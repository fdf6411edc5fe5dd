import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readSmf, writeSmf } from '../formats/index.ts';
import type { Keymap } from '../keymap/index.ts';
import { MarkLine, TempoMap, type Mark, type Note, type Part } from '../music/index.ts';
import { planPart, type PlanContext } from '../performance/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { entry, keymapOf, trigger } from '../testing/keymaps.ts';
import { readAhead, readPerformed } from '../intake/index.ts';
import { performedMidi } from './index.ts';

const { instrument } = sineInstrument();
const tempo = new TempoMap([
  { tick: 0, bpm: 120 },
  { tick: 3840, bpm: 90 },
]);
const context: PlanContext = {
  tempo,
  instrument,
  mix: mixOf(['mix']),
  mode: 'planned',
  articulation: 'long',
};
const facts = {
  tempos: [
    { tick: 0, bpm: 120 },
    { tick: 3840, bpm: 90 },
  ],
  metres: [{ tick: 0, numerator: 4, denominator: 4 }],
  keys: [],
  markers: [],
};
const BAR = 3840;
const END = 4 * BAR;
const note = (id: string, startTick: number, length: number, key: number, velocity = 84): Note => ({
  id,
  startTick,
  endTick: startTick + length,
  key,
  velocity,
});
/** Writes a part as performed MIDI, and reads it back. */
function thereAndBack(part: Part, keymap: Keymap) {
  const plan = planPart(part, context);
  const song = performedMidi(facts, [{ name: 'Violins', part, plan, keymap }], tempo);
  const read = readSmf(writeSmf(song), 'performed.mid');
  return readPerformed(read.tracks, keymap, context, BAR, END);
}
const plainMarks = (marks: readonly Omit<Mark, 'id'>[]) =>
  marks.map(({ startTick, endTick, articulation }) => [startTick, endTick, articulation]);

/** Marks that begin and end with notes, as a reader can know them. */
const part: Part = {
  notes: [
    note('a', 0, 900, 67),
    note('b', 960, 900, 69),
    note('c', 1920, 240, 71),
    note('d', 2400, 240, 72),
    note('e', BAR, 960, 67),
    note('f', BAR + 960, 960, 71),
    note('g', BAR + 1920, 1900, 69),
    note('h', 2 * BAR, 240, 67),
    note('i', 3 * BAR, 960, 65),
  ],
  marks: [
    { id: 'm', startTick: 1920, endTick: BAR, articulation: 'staccato' },
    { id: 'n', startTick: BAR, endTick: 2 * BAR, articulation: 'connected' },
    { id: 'o', startTick: 2 * BAR, endTick: 3 * BAR, articulation: 'staccato' },
  ],
  points: [],
};
const held = (id: string, number: number) => [trigger({ id, number, hold: 'held' })];
const program = (id: string, number: number) => [
  trigger({ id: `${id} bank`, kind: 'bank', number: 130 }),
  trigger({ id, kind: 'program', number }),
];
const ranged = (id: string, low: number, high: number) => [
  trigger({ id, kind: 'controller', number: 32, low, high }),
];
const channel = (id: string, number: number) => [trigger({ id, kind: 'channel', number })];
const KEYMAPS: Record<string, Keymap> = {
  'latching keys': keymapOf({ long: 24, connected: 25, staccato: 26 }),
  'keys that select while held': keymapOf([
    entry('long', 24),
    entry('connected', held('c', 25)),
    entry('staccato', held('s', 26)),
  ]),
  'programs in a bank': keymapOf([
    entry('long', program('l', 0)),
    entry('connected', program('c', 1)),
    entry('staccato', program('s', 2)),
  ]),
  'controller ranges': keymapOf([
    entry('long', ranged('l', 0, 41)),
    entry('connected', ranged('c', 42, 84)),
    entry('staccato', ranged('s', 85, 127)),
  ]),
  channels: keymapOf([
    entry('long', channel('l', 0)),
    entry('connected', channel('c', 4)),
    entry('staccato', channel('s', 12)),
  ]),
  'tracks of their own': keymapOf([
    entry('long', 24),
    entry('connected', []),
    entry('staccato', [trigger({ id: 't', kind: 'track' })]),
  ]),
  'keys and programs together': keymapOf([
    entry('long', 24),
    entry('connected', [trigger({ id: 'k', number: 25 }), trigger({ id: 'p', kind: 'program', number: 7 })]),
    entry('staccato', 26),
  ]),
};

describe('performed MIDI read back through its keymap', () => {
  it.each(Object.entries(KEYMAPS))('has the same marks and notes on the grid, by %s', (_name, keymap) => {
    const read = thereAndBack(part, keymap);
    expect(plainMarks(read.marks)).toEqual(plainMarks(part.marks));
    expect(read.notes.map(({ startTick, key }) => [startTick, key])).toEqual(
      part.notes.map(({ startTick, key }) => [startTick, key]),
    );
    expect(read.notes.map(({ velocity }) => velocity)).toEqual(part.notes.map(({ velocity }) => velocity));
  });
  it('holds for any marks over any notes', () => {
    const marksOf = fc.array(fc.constantFrom('long', 'connected', 'staccato'), {
      minLength: 8,
      maxLength: 8,
    });
    fc.assert(
      fc.property(
        marksOf,
        fc.constantFrom(...Object.values(KEYMAPS)),
        fc.array(fc.integer({ min: 60, max: 72 }), { minLength: 8, maxLength: 8 }),
        (articulations, keymap, keys) => {
          const notes = keys.map((key, i) => note(`n${i}`, i * 1920, 1440, key));
          const marks = articulations.map((articulation, i) => ({
            id: `m${i}`,
            startTick: i * 1920,
            endTick: (i + 1) * 1920,
            articulation,
          }));
          const read = thereAndBack({ notes, marks, points: [] }, keymap);
          const line = new MarkLine(read.marks as Mark[]);
          expect(read.notes.map(({ startTick }) => startTick)).toEqual(
            notes.map(({ startTick }) => startTick),
          );
          expect(notes.map(({ startTick }) => line.at(startTick) ?? 'long')).toEqual(articulations);
        },
      ),
      { numRuns: 60 },
    );
  });
  it('is the same whichever middle C people count from: a file holds key numbers', () => {
    const [low, high] = [24, 36].map((key) =>
      thereAndBack(part, keymapOf({ long: key, connected: key + 1, staccato: key + 2 })),
    );
    expect(plainMarks(low.marks)).toEqual(plainMarks(high.marks));
  });
});

describe('MIDI of others whose notes were moved ahead', () => {
  const keymap = keymapOf({ long: 24, staccato: 25, connected: 26 });
  const tone = (startTick: number, key: number, length = 400) => ({
    startTick,
    endTick: startTick + length,
    key,
    velocity: 80,
  });
  /** As a writer leaves it: a key to select, notes each so many ticks before their beat. */
  const file = (ahead: (i: number) => number, beats = [480, 960, 1440, 1920, 2400, 2880, 3360]) => [
    {
      name: 'Violins',
      channel: 0,
      notes: [
        tone(0, 25, 60),
        ...beats.map((beat, i) => tone(Math.max(61, Math.round(beat - ahead(i))), 67 + (i % 3))),
      ],
      controls: [],
      bends: [],
      programs: [],
      texts: [],
    } as never,
  ];
  /** Shorts that speak 70 ms after they begin: 67.2 ticks at 60 bpm. Bytes of half decibels above −120, every 2 ms. */
  const ENVELOPE = '00'.repeat(35) + 'dc'.repeat(100);
  const slow = {
    ...instrument,
    articulations: instrument.articulations.map((one) =>
      one.id === 'staccato'
        ? {
            ...one,
            zones: one.zones.map((zone) => ({
              ...zone,
              samples: { mix: { ...zone.samples.mix, leadSeconds: 0.07, levelDb: -10, envelope: ENVELOPE } },
            })),
          }
        : one,
    ),
  };
  const own: PlanContext = { ...context, instrument: slow, tempo: new TempoMap([{ tick: 0, bpm: 60 }]) };
  const LEAD = 67;

  it('goes back to its beats, also where it was moved by hand a little otherwise', () => {
    for (const off of [() => 0, (i: number) => [9, -7, 4, -10, 6, -3, 8][i]]) {
      const read = readAhead(
        file((i) => LEAD + off(i)),
        keymap,
        own,
        3840,
      );
      expect(read?.notes.map(({ startTick }) => startTick)).toEqual([480, 960, 1440, 1920, 2400, 2880, 3360]);
      expect(read?.marks[0].articulation).toBe('staccato');
    }
  });
  it('goes back to triplets as well as to sixteenths', () => {
    const beats = [320, 640, 960, 1280, 1440, 1600, 1920, 2160, 2240];
    const read = readAhead(
      file(() => LEAD, beats),
      keymap,
      own,
      3840,
    );
    expect(read?.notes.map(({ startTick }) => startTick)).toEqual(beats);
  });
  it('stays where it lies on its beats already, and where it follows none', () => {
    expect(
      readAhead(
        file(() => 0),
        keymap,
        own,
        3840,
      ),
    ).toBeUndefined();
    const free = [500, 1033, 1391, 1997, 2543, 2788, 3301];
    expect(
      readAhead(
        file(() => 0, free),
        keymap,
        own,
        3840,
      ),
    ).toBeUndefined();
  });
  it('stays where nothing selects a technique, or there is too little to tell', () => {
    const ahead = file(() => LEAD);
    expect(readAhead(ahead, keymapOf({ long: 12 }), own, 3840)).toBeUndefined();
    expect(
      readAhead(
        file(() => LEAD, [480, 960]),
        keymap,
        own,
        3840,
      ),
    ).toBeUndefined();
  });
});

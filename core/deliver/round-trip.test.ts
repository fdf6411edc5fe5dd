import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readSmf, writeSmf } from '../formats/index.ts';
import type { Keymap } from '../keymap/index.ts';
import { MarkLine, TempoMap, type Mark, type Note, type Part } from '../music/index.ts';
import { planPart, type PlanContext } from '../performance/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { entry, keymapOf, trigger } from '../testing/keymaps.ts';
import { readPerformed } from '../intake/index.ts';
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

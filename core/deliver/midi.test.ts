import { describe, expect, it } from 'vitest';
import { EMPTY_BAR, plainRide, type Keymap } from '../keymap/index.ts';
import { TempoMap, type Note, type Part } from '../music/index.ts';
import { planPart, type Plan, type PlannedSound } from '../performance/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { entry, keymapOf, trigger } from '../testing/keymaps.ts';
import { cleanMidi, performedMidi } from './index.ts';

const { instrument } = sineInstrument();
/** 120 beats a minute, 960 ticks a beat: a second is 1,920 ticks. */
const tempo = new TempoMap([{ tick: 0, bpm: 120 }]);
const cue = {
  tempos: [
    { tick: 0, bpm: 120 },
    { tick: 3840, bpm: 120 },
  ],
  // A bar of three beats is 2,880 ticks; the later metre stands first in the list.
  metres: [
    { tick: 5760, numerator: 4, denominator: 4 },
    { tick: 0, numerator: 3, denominator: 4 },
  ],
  keys: [{ tick: 960, fifths: -3 }],
  markers: [{ tick: 10, text: 'door opens' }],
};
const AHEAD = 2880;
const note = (id: string, startTick: number, endTick: number, key: number, velocity = 80): Note => ({
  id,
  startTick,
  endTick,
  key,
  velocity,
});
const empty: Part = { notes: [], marks: [], points: [] };
const planned = (part: Part): Plan =>
  planPart(part, { tempo, instrument, mix: mixOf(['mix']), mode: 'planned', articulation: 'long' });
const [any] = planned({ ...empty, notes: [note('n', 0, 960, 60)] }).segments[0].sounds;
type Told = Pick<PlannedSound, 'noteId' | 'startSeconds' | 'key'> & Partial<PlannedSound>;

/** A plan whose sounds are told by hand. */
function byHand(part: Part, sounds: readonly Told[]): Plan {
  const plan = planned(part);
  return {
    ...plan,
    segments: [
      { ...plan.segments[0], sounds: sounds.map((one) => ({ ...any, gesture: 'attack' as const, ...one })) },
    ],
  };
}
const perform = (part: Part, sounds: readonly Told[], keymap?: Keymap) =>
  performedMidi(cue, [{ name: 'V', part, plan: byHand(part, sounds), keymap }], tempo);

describe('MIDI as written', () => {
  it('has the cue’s tempos, metres and markers, and a channel a track that is not the drums’', () => {
    const tracks = Array.from({ length: 17 }, (_, i) => ({ name: `T${i}`, part: empty }));
    const song = cleanMidi(cue, tracks, tempo);
    expect(song).toMatchObject({ tempos: cue.tempos, metres: cue.metres, texts: cue.markers });
    expect(song.tracks.map(({ channel }) => channel)).toEqual([
      0, 1, 2, 3, 4, 5, 6, 7, 8, 10, 11, 12, 13, 14, 15, 0, 1,
    ]);
    expect(song.tracks[16]).toEqual({
      name: 'T16',
      channel: 1,
      notes: [],
      controls: [],
      programs: [],
      texts: [],
    });
  });
  it('has curves in whole values, told once each; bends as they are', () => {
    const points = [
      { id: 'a', controller: 11, tick: 0, value: 50.4 },
      { id: 'b', controller: 11, tick: 960, value: 49.6 },
      { id: 'c', controller: 127, tick: 960, value: 20.6 },
      { id: 'd', controller: 128, tick: 0, value: 0.25 },
      { id: 'e', controller: 2, tick: 960, value: 10 },
      { id: 'f', controller: 2, tick: 1920, value: 10 },
      { id: 'g', controller: 2, tick: 1921, value: 12 },
    ];
    const [{ controls }] = cleanMidi(cue, [{ name: 'V', part: { ...empty, points } }], tempo).tracks;
    expect(controls).toEqual([
      { tick: 0, controller: 11, value: 50 },
      { tick: 960, controller: 127, value: 21 },
      { tick: 0, controller: 128, value: 0.25 },
      { tick: 960, controller: 2, value: 10 },
      { tick: 1921, controller: 2, value: 12 },
    ]);
  });
});

describe('MIDI as performed', () => {
  it('stands a bar later, but for what holds from the beginning', () => {
    const points = [
      { id: 'e', controller: 1, tick: 960, value: 10 },
      { id: 'f', controller: 1, tick: 1920, value: 10 },
      { id: 'g', controller: 1, tick: 1921, value: 12 },
    ];
    const keymap: Keymap = {
      ...keymapOf({ long: 24 }),
      rides: [{ ...plainRide('dynamics'), controller: 20 }],
    };
    const song = performedMidi(cue, [{ name: 'V', part: { ...empty, points }, keymap }], tempo);
    expect(song.tempos).toEqual([
      { tick: 0, bpm: 120 },
      { tick: 3840 + AHEAD, bpm: 120 },
    ]);
    expect(song.metres).toEqual([
      { tick: 5760 + AHEAD, numerator: 4, denominator: 4 },
      { tick: 0, numerator: 3, denominator: 4 },
    ]);
    expect(song.texts).toEqual([
      { tick: 0, text: EMPTY_BAR },
      { tick: 10 + AHEAD, text: 'door opens' },
    ]);
    // Not planned yet: an empty track, whose curves go out by the number the instrument listens to.
    expect(song.tracks).toEqual([
      {
        name: 'V',
        channel: 0,
        notes: [],
        controls: [
          { tick: 960 + AHEAD, controller: 20, value: 10 },
          { tick: 1921 + AHEAD, controller: 20, value: 12 },
        ],
        programs: [],
        texts: [],
      },
    ]);
    const without = performedMidi(cue, [{ name: 'V', part: { ...empty, points } }], tempo);
    expect(without.tracks[0].controls.map(({ controller }) => controller)).toEqual([1, 1]);
  });
  it('has one note for each written, from its first sound on, and reaches over the next when that connects to it', () => {
    const part: Part = {
      ...empty,
      notes: [
        note('a', 1920, 3800, 60, 70),
        note('b', 3840, 5700, 62),
        note('c', 5760, 100, 64),
        note('e', 9600, 9700, 70),
        note('d', 9600, 9800, 65),
      ],
    };
    const { tracks } = perform(part, [
      { noteId: 'e', startSeconds: 5, key: 70 },
      // Moves on from another key than the one before: not connected to it.
      { noteId: 'c', startSeconds: 3, key: 64, gesture: 'move', fromKey: 99 },
      { noteId: 'b', startSeconds: 1.5, key: 62, gesture: 'hold' },
      { noteId: 'b', startSeconds: 2, key: 62, gesture: 'move', fromKey: 60 },
      { noteId: 'a', startSeconds: 1, key: 60 },
      { noteId: 'a', startSeconds: 1.2, key: 60 },
      { noteId: 'd', startSeconds: 5, key: 65, gesture: 'attack', fromKey: 70 },
      { noteId: 'of another part', startSeconds: 1, key: 90 },
    ]);
    expect(tracks.length).toBe(1);
    expect(tracks[0]).toMatchObject({ name: 'V', channel: 0, controls: [], programs: [] });
    expect(tracks[0].notes).toEqual([
      { startTick: 1920 + AHEAD, endTick: 3800 + AHEAD, key: 60, velocity: 70 },
      { startTick: 3840 + AHEAD, endTick: 5700 + AHEAD, key: 62, velocity: 80 },
      // Never shorter than a tick.
      { startTick: 5760 + AHEAD, endTick: 5761 + AHEAD, key: 64, velocity: 80 },
      { startTick: 9600 + AHEAD, endTick: 9800 + AHEAD, key: 65, velocity: 80 },
      { startTick: 9600 + AHEAD, endTick: 9700 + AHEAD, key: 70, velocity: 80 },
    ]);
    const connected = perform(part, [
      { noteId: 'a', startSeconds: 1, key: 60 },
      { noteId: 'b', startSeconds: 2, key: 62, gesture: 'move', fromKey: 60 },
    ]);
    expect(connected.tracks[0].notes[0].endTick).toBe(3840 + AHEAD + 24);
  });
  it('sends what selects ahead of its note, in order, and holds a held key until the note stands', () => {
    const held = [
      trigger({ id: 'k', number: 25, hold: 'held' }),
      trigger({ id: 'c', kind: 'controller', number: 32, low: 40, high: 80 }),
      trigger({ id: 'p', kind: 'program', number: 9 }),
      trigger({ id: 'b', kind: 'bank', number: 130 }),
    ];
    const keymap = keymapOf([entry('long', 24), entry('staccato', held), entry('muted', [])]);
    const mark = (startTick: number, endTick: number, articulation: string) => ({
      id: articulation,
      startTick,
      endTick,
      articulation,
    });
    const part: Part = {
      ...empty,
      notes: [note('a', 1920, 2000, 60), note('b', 3840, 3900, 62), note('c', 5760, 5800, 64)],
      marks: [mark(1920, 3840, 'staccato'), mark(3840, 5760, 'muted')],
    };
    const sounds = [
      { noteId: 'a', startSeconds: 1, key: 60 },
      { noteId: 'b', startSeconds: 2, key: 62 },
      { noteId: 'c', startSeconds: 3, key: 64 },
    ];
    const { tracks } = perform(part, sounds, keymap);
    expect(tracks.map(({ name, channel }) => [name, channel])).toEqual([
      ['V', 0],
      ['V · muted', 0],
    ]);
    const at = 1920 + AHEAD;
    // Bank 130 is 1 × 128 + 2.
    expect(tracks[0].controls).toEqual([
      { tick: at - 40, controller: 0, value: 1 },
      { tick: at - 40, controller: 32, value: 2 },
      { tick: at - 36, controller: 32, value: 60 },
    ]);
    expect(tracks[0].programs).toEqual([{ tick: at - 38, program: 9 }]);
    expect(tracks[0].notes).toEqual([
      { startTick: at - 34, endTick: at + 1, key: 25, velocity: 100 },
      { startTick: at, endTick: 2000 + AHEAD, key: 60, velocity: 80 },
      { startTick: 5760 + AHEAD, endTick: 5800 + AHEAD, key: 64, velocity: 80 },
    ]);
    expect(tracks[1].notes).toEqual([
      { startTick: 3840 + AHEAD, endTick: 3900 + AHEAD, key: 62, velocity: 80 },
    ]);
  });
  it('presses a latching key for thirty ticks, and nothing before the file begins', () => {
    const keymap = keymapOf({ long: 24, staccato: 25 });
    const part: Part = {
      ...empty,
      notes: [note('a', 1920, 2000, 60)],
      marks: [{ id: 'm', startTick: 0, endTick: 2000, articulation: 'staccato' }],
    };
    const late = perform(part, [{ noteId: 'a', startSeconds: 1, key: 60 }], keymap).tracks[0].notes;
    expect([late[0].key, late[0].startTick, late[0].endTick]).toEqual([25, 4800 - 40, 4800 - 10]);
    const early = perform(part, [{ noteId: 'a', startSeconds: -5, key: 60 }], keymap).tracks[0].notes;
    expect(early.map(({ key, startTick }) => [key, startTick])).toEqual([
      [25, 0],
      [60, 0],
    ]);
  });
});

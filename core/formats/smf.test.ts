import { describe, expect, it } from 'vitest';
import { TempoMap } from '../music/index.ts';
import { readSmf, writeSmf, type Song } from './index.ts';

/** Files as other programs write them, byte by byte. */

const text = (letters: string) => [...letters].map((letter) => letter.charCodeAt(0));
const u32 = (value: number) => [value >>> 24, (value >> 16) & 255, (value >> 8) & 255, value & 255];
const chunk = (tag: string, body: readonly number[]) => [...text(tag), ...u32(body.length), ...body];
const END = [0, 0xff, 0x2f, 0];
/** A file of one track. @param division ticks a quarter, or two bytes of frames */
function file(
  events: readonly number[],
  { division = [0, 96], before = [] as readonly number[], tracks = 1 } = {},
): Uint8Array {
  return Uint8Array.from([
    ...chunk('MThd', [0, 1, 0, tracks, ...division]),
    ...before,
    ...chunk('MTrk', [...events, ...END]),
  ]);
}
const tempo = (delta: number, microseconds: number) => [
  delta,
  0xff,
  0x51,
  3,
  (microseconds >> 16) & 255,
  (microseconds >> 8) & 255,
  microseconds & 255,
];
/** Key 60 after `delta` ticks, for `length` more. */
const note = (delta: number, length: number) => [delta, 0x90, 60, 100, length, 0x80, 60, 0];

describe('a MIDI file', () => {
  it('goes at 120 until its first tempo, and in 4/4 until its first metre', () => {
    // A quarter of silence, then 60 quarters a minute in 3/4, then a note after another quarter.
    const song = readSmf(
      file([...tempo(96, 1_000_000), 0, 0xff, 0x58, 4, 3, 2, 24, 8, ...note(96, 48)]),
      'late.mid',
    );
    expect(song.tempos).toEqual([
      { tick: 0, bpm: 120 },
      { tick: 960, bpm: 60 },
    ]);
    expect(song.metres).toEqual([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 960, numerator: 3, denominator: 4 },
    ]);
    // Half a second at 120, one at 60.
    expect(new TempoMap(song.tempos).toSeconds(song.tracks[0].notes[0].startTick)).toBeCloseTo(1.5, 9);
    expect(song.told).toBeUndefined();
    // Without any the reader says nothing.
    expect(readSmf(file(note(0, 48)), 'none.mid')).toMatchObject({ tempos: [], metres: [] });
  });
  it('has its tempos and metres within what a cue takes, and tells which were not', () => {
    const song = readSmf(
      file([
        ...tempo(0, 50_000),
        ...tempo(96, 15_000_000),
        0,
        0xff,
        0x58,
        4,
        5,
        6,
        24,
        8,
        96,
        0xff,
        0x58,
        4,
        5,
        7,
        24,
        8,
        96,
        0xff,
        0x58,
        4,
        0,
        2,
        24,
        8,
        ...note(0, 10),
      ]),
      'wild.mid',
    );
    expect(song.tempos).toEqual([
      { tick: 0, bpm: 999 },
      { tick: 960, bpm: 5 },
    ]);
    expect(song.metres).toEqual([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 960, numerator: 5, denominator: 64 },
    ]);
    expect(song.told).toEqual([
      'The tempo of 1.20e+3 quarters a minute at quarter 1 is taken as 999.',
      'The tempo of 4.00 quarters a minute at quarter 2 is taken as 5.',
      'The metre 5/128 at quarter 3 is passed over.',
      'The metre 0/4 at quarter 4 is passed over.',
    ]);
  });
  it.each([
    ['24 frames', 24, 24],
    ['25 frames', 25, 25],
    ['29.97 frames', 29, 30_000 / 1001],
    ['30 frames', 30, 30],
  ])('that counts time in %s keeps the time of every event', (_, written, perSecond) => {
    const division = [256 - written, 40];
    const song = readSmf(file([...tempo(0, 1_000_000), ...note(100, 80)], { division }), 'film.mid');
    const [{ startTick, endTick }] = song.tracks[0].notes;
    const seconds = (ticks: number) => ticks / (perSecond * 40);
    // No tempo is 120: 1,920 ticks a second. Ticks are whole.
    expect(song.tempos).toEqual([]);
    expect(Math.abs(startTick / 1920 - seconds(100))).toBeLessThan(0.5 / 1920 + 1e-9);
    expect(Math.abs(endTick / 1920 - seconds(180))).toBeLessThan(0.5 / 1920 + 1e-9);
    expect(song.told?.[0]).toContain(`${written} a second, 40 parts each`);
  });
  it('that counts frames nobody has is refused with its place', () => {
    expect(() => readSmf(file(note(0, 1), { division: [256 - 50, 40] }), 'x.mid')).toThrow('50 film frames');
    expect(() => readSmf(file(note(0, 1), { division: [256 - 25, 0] }), 'x.mid')).toThrow('0 ticks each');
    expect(() => readSmf(file(note(0, 1), { division: [0, 0] }), 'x.mid')).toThrow('0 ticks per quarter');
  });
  it('may hold chunks that are no tracks, before and between', () => {
    const before = [...chunk('XTRA', [1, 2, 3]), ...chunk('MTrk', END), ...chunk('\u0001bad', [])];
    const song = readSmf(file(note(96, 96), { before, tracks: 2 }), 'chunks.mid');
    expect(song.tracks.map(({ notes }) => notes.length)).toEqual([1]);
    expect(song.told).toEqual([
      'A part of the file called “XTRA” is no track and is passed over.',
      'A part of the file called “.bad” is no track and is passed over.',
    ]);
  });
  it('tells what a cue has no place for', () => {
    const meta = (type: number, body: readonly number[]) => [0, 0xff, type, body.length, ...body];
    const song = readSmf(
      file([
        ...meta(0x02, text('by nobody')),
        ...meta(0x04, text('Viola d’amore'.replace('’', "'"))),
        ...meta(0x59, [253, 1]),
        0,
        0xa0,
        60,
        10,
        0,
        0xd0,
        20,
        0,
        0xd0,
        21,
        0,
        0xf0,
        3,
        1,
        2,
        0xf7,
        ...meta(0x7f, [1, 2]),
        ...note(0, 10),
      ]),
      'rich.mid',
    );
    expect(song.keys).toEqual([{ tick: 0, fifths: -3 }]);
    expect(song.told).toEqual([
      'Copyright, not kept: “by nobody”.',
      "Name of an instrument, not kept: “Viola d'amore”.",
      'Passed over: 3 messages of pressure.',
      'Passed over: 1 system message.',
      'Passed over: 1 event for other programs.',
    ]);
    expect(song.tracks[0].notes).toHaveLength(1);
  });
  it('of very many notes and controllers is written and read whole', () => {
    const count = 30_000;
    const song: Song = {
      tempos: [{ tick: 0, bpm: 100 }],
      metres: [],
      keys: [],
      texts: [],
      tracks: [
        {
          name: 'Long',
          channel: 3,
          notes: Array.from({ length: count }, (_, i) => ({
            startTick: i * 500,
            endTick: i * 500 + 400,
            key: 40 + (i % 40),
            velocity: 1 + (i % 127),
          })),
          controls: Array.from({ length: count }, (_, i) => ({
            tick: i * 300,
            controller: 1,
            value: i % 128,
          })),
          programs: [],
          texts: [],
        },
      ],
    };
    expect(readSmf(writeSmf(song), 'long.mid')).toEqual(song);
  });
  it('whose notes of one key overlap ends them in the order in which they began', () => {
    const struck = Array.from({ length: 3 }, () => [10, 0x90, 60, 90]).flat();
    const ended = Array.from({ length: 2 }, () => [10, 0x80, 60, 0]).flat();
    const { notes } = readSmf(file([...struck, ...ended]), 'over.mid').tracks[0];
    expect(notes.map(({ startTick, endTick }) => [startTick / 10, endTick / 10])).toEqual([
      [10, 40],
      [20, 50],
      [30, 50],
    ]);
  });
  it('keeps notes without a length for as long as can be told, where they are', () => {
    const { notes } = readSmf(file(note(96, 0), { division: [3, 192] }), 'short.mid').tracks[0];
    // 960 ticks a quarter, like the cue’s own.
    expect(notes).toEqual([{ startTick: 96, endTick: 97, key: 60, velocity: 100 }]);
  });
});

import { describe, expect, it } from 'vitest';
import { laneName } from '../keymap/index.ts';
import { entry, keymapOf, trigger } from '../testing/keymaps.ts';
import { channelOf, type SongTrack } from './song.ts';
import { partFromSong } from './song-parts.ts';

/** What tracks of a song become in a part: every case a sequence of messages and what it must read as. */

const n = (startTick: number, key: number, more: object = {}) => ({
  startTick,
  endTick: startTick + 400,
  key,
  velocity: 90,
  ...more,
});
const track = (more: Partial<SongTrack>): SongTrack => ({
  name: '',
  channel: 0,
  notes: [],
  controls: [],
  programs: [],
  texts: [],
  ...more,
});
const control = (tick: number, value: number, controller = 1) => ({ tick, controller, value });
const marks = (list: readonly { startTick: number; endTick: number; articulation: string }[]) =>
  list.map(({ startTick, endTick, articulation }) => [articulation, startTick, endTick]);

describe('controllers', () => {
  const line = (...controls: ReturnType<typeof control>[]) =>
    partFromSong([track({ controls })], undefined, 'long', 0).points.map(({ tick, value }) => [tick, value]);
  it('hold what they have until the next message, where that is far', () => {
    expect(line(control(0, 10), control(960, 90))).toEqual([
      [0, 10],
      [959, 10],
      [960, 90],
    ]);
  });
  it('are a drawn line where messages are dense, within an eighth of a quarter', () => {
    expect(line(control(0, 10), control(120, 90))).toEqual([
      [0, 10],
      [120, 90],
    ]);
    expect(line(control(0, 10), control(121, 90))).toHaveLength(3);
  });
  it('that say the same again say nothing', () => {
    // A line through all of them needs its ends alone.
    expect(line(control(0, 10), control(960, 10), control(1920, 10))).toEqual([
      [0, 10],
      [1920, 10],
    ]);
  });
  it('are put in order, each by itself, over all tracks', () => {
    const { points } = partFromSong(
      [
        track({ controls: [control(960, 50), control(0, 10), control(0, 99, 11)] }),
        track({ controls: [control(0, 64, 64)], points: [{ tick: 5, controller: 21, value: 3.5 }] }),
      ],
      undefined,
      'long',
      0,
    );
    expect(points.map(({ tick, controller, value }) => [controller, tick, value])).toEqual([
      [1, 0, 10],
      [1, 959, 10],
      [1, 960, 50],
      [11, 0, 99],
      [64, 0, 64],
      [21, 5, 3.5],
    ]);
  });
});

describe('notes', () => {
  it('stay as they are without a keymap, in order, with what is sung on them', () => {
    const {
      notes,
      switches,
      marks: none,
    } = partFromSong(
      [track({ notes: [n(960, 60), n(0, 72, { syllable: 'la' })] }), track({ notes: [n(0, 48)] })],
      undefined,
      'long',
      0,
    );
    expect(notes).toEqual([n(0, 48), n(0, 72, { syllable: 'la' }), n(960, 60)]);
    expect([switches, none]).toEqual([0, []]);
  });
  it('bring along the marks their format knows', () => {
    const mark = { startTick: 3, endTick: 9, articulation: 'muted' };
    expect(partFromSong([track({ marks: [mark] })], undefined, 'long', 0).marks).toEqual([mark]);
  });
});

describe('what selects an articulation', () => {
  const keymap = keymapOf({ long: 24, staccato: 25 });
  const read = (tracks: SongTrack[], map = keymap, base = 'long', end = 9600) =>
    partFromSong(tracks, map, base, end);
  it('becomes a mark over the notes it holds for, and is a note no longer', () => {
    const part = read([
      track({ notes: [n(0, 60), n(900, 25), n(960, 62), n(1920, 64), n(2800, 24), n(2880, 65)] }),
    ]);
    expect(part.notes.map(({ key }) => key)).toEqual([60, 62, 64, 65]);
    expect(marks(part.marks)).toEqual([['staccato', 960, 2880]]);
    expect(part.switches).toBe(2);
  });
  it('without notes after it marks nothing; the last mark ends with the music, or the last note', () => {
    expect(read([track({ notes: [n(0, 60), n(900, 25)] })]).marks).toEqual([]);
    const late = [track({ notes: [n(0, 25), n(0, 60)] })];
    expect(marks(read(late, keymap, 'long', 9600).marks)).toEqual([['staccato', 0, 9600]]);
    expect(marks(read(late, keymap, 'long', 100).marks)).toEqual([['staccato', 0, 400]]);
  });
  it('that changes under a chord leaves no mark without length', () => {
    const chord = [n(0, 25), n(0, 60), n(960, 24), n(960, 64), n(960, 67)];
    expect(marks(read([track({ notes: chord })], keymap, 'muted').marks)).toEqual([
      ['staccato', 0, 960],
      ['long', 960, 9600],
    ]);
    // Two techniques on the same tick, on two lanes: only the second has a length.
    const lanes = ['long', 'staccato'].map((id) =>
      track({ name: laneName(id), notes: [n(0, 60 + id.length)] }),
    );
    for (const [, from, to] of marks(read(lanes, keymap, 'muted').marks))
      expect(to).toBeGreaterThan(Number(from));
  });
  it('holds only while its key is held, where it says so', () => {
    const held = keymapOf([
      entry('long', 24),
      entry('staccato', [trigger({ id: 'while held', number: 25, hold: 'held' })]),
    ]);
    const notes = [n(0, 60), n(960, 25, { endTick: 2000 }), n(1000, 62), n(1920, 64), n(2880, 65)];
    expect(marks(read([track({ notes })], held).marks)).toEqual([['staccato', 1000, 2880]]);
    // Let go as the next note begins: what sounds goes before.
    const edge = [n(0, 60), n(960, 25, { endTick: 1920 }), n(1000, 62), n(1920, 64), n(2880, 65)];
    expect(marks(read([track({ notes: edge })], held).marks)).toEqual([['staccato', 1000, 2880]]);
  });
  it('may be a program, with its bank before it', () => {
    const programs = keymapOf([
      entry('long', [trigger({ id: 'a', kind: 'program', number: 3 })]),
      entry('staccato', [trigger({ id: 'b', kind: 'program', number: 7 })]),
    ]);
    const part = read(
      [
        track({
          notes: [n(0, 60), n(960, 62), n(1920, 64)],
          programs: [
            { tick: 960, program: 7 },
            { tick: 1920, program: 3 },
          ],
        }),
      ],
      programs,
    );
    expect(marks(part.marks)).toEqual([['staccato', 960, 1920]]);
    expect(part.notes).toHaveLength(3);
  });
  it('may be a controller, which is then no curve', () => {
    const by = keymapOf([
      entry('long', [trigger({ id: 'a', kind: 'controller', number: 20, low: 0, high: 63 })]),
      entry('staccato', [trigger({ id: 'b', kind: 'controller', number: 20, low: 64, high: 127 })]),
    ]);
    const part = read(
      [track({ notes: [n(0, 60), n(960, 62)], controls: [control(960, 100, 20), control(0, 30, 1)] })],
      by,
    );
    expect(marks(part.marks)).toEqual([['staccato', 960, 9600]]);
    expect(part.points.map(({ controller }) => controller)).toEqual([1]);
  });
  it('is the name of a lane, whatever else happens', () => {
    const part = read([
      track({ name: `Violins${laneName('staccato')}`, notes: [n(0, 60), n(960, 24)] }),
      track({ name: 'Violins', notes: [n(1920, 62)] }),
    ]);
    // On a lane every key sounds.
    expect(part.notes.map(({ key }) => key)).toEqual([60, 24, 62]);
    expect(marks(part.marks)).toEqual([['staccato', 0, 1920]]);
  });
});

describe('the channel of a track', () => {
  it('is that of its place, the drums’ left out, and begins again after fifteen', () => {
    expect([0, 8, 9, 14, 15, 23, 24].map(channelOf)).toEqual([0, 8, 10, 15, 0, 8, 10]);
  });
});

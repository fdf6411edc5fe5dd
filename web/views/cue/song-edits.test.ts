import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Song, SongTrack } from '#core/formats/index.ts';
import { sineInstrument } from '#core/testing/fixtures.ts';
import { openPage, shown } from '../../testing/open-page.ts';
import { edit, undo } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import {
  instrumentOfNew,
  LEAVE_OUT,
  newTrackEdits,
  newTrackWith,
  songEdits,
  suggestTargets,
} from './song-edits.ts';

const VIOLINS = 'aaaaaaaa-0000-4000-8000-000000000000';
let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    cue: [{ id: 'cue', name: 'C', endTick: 0, loopStartTick: 0, loopEndTick: 0 }],
    track: [
      { id: VIOLINS, place: 4, name: 'Violins I', instrumentId: 'v', articulation: 'long', keymapId: null },
    ],
  });
  const summary = (id: string, name: string, family: string) => ({ id, name, family, articulations: [] });
  useLibraries.setState({
    libraries: [
      {
        id: 'l',
        name: 'Lamp',
        instruments: [summary('v', 'Violins I', 'strings'), summary('o', 'Oboe', 'winds')],
      },
    ] as never,
  });
});
afterEach(async () => {
  useLibraries.setState({ libraries: undefined });
  await page.close();
});

const track = (name: string, notes = 1, more: Partial<SongTrack> = {}): SongTrack => ({
  name,
  channel: 0,
  notes: Array.from({ length: notes }, (_, i) => ({
    startTick: i * 960,
    endTick: i * 960 + 900,
    key: 60,
    velocity: 80,
  })),
  controls: [],
  programs: [],
  texts: [],
  ...more,
});
const song = (...tracks: SongTrack[]): Song => ({ tempos: [], metres: [], keys: [], texts: [], tracks });
const choices = (targets: readonly string[]) => ({
  targets,
  useSwitches: true,
  takeLeadsBack: false,
  toBeats: true,
  moveSwitches: true,
});

describe('where tracks of a file go at first', () => {
  it('is the track of their name, a new one with the instrument that suits, or nowhere without notes', () => {
    expect(
      suggestTargets(
        song(
          track('Vln 1'),
          track('Oboe 1'),
          track('Empty', 0),
          track('Lead', 1, { programs: [{ tick: 0, program: 73 }] }),
          track('Odd'),
        ),
      ),
    ).toEqual([VIOLINS, newTrackWith('o'), LEAVE_OUT, newTrackWith('o'), newTrackWith(undefined)]);
  });
  it('is a drum for what is on the channel of drums', () => {
    // No percussion is there: a new track without an instrument.
    expect(suggestTargets(song(track('Track 3', 1, { channel: 9 })))).toEqual([newTrackWith(undefined)]);
  });
});

describe('new tracks', () => {
  it('are made at the end of the template with their names and instruments, and the notes go there', () => {
    const file = song(track('Oboe 1'), track('Vln 1'), track(''), track('Left', 3));
    const targets = [newTrackWith('o'), VIOLINS, newTrackWith(undefined), LEAVE_OUT];
    const { instrument } = sineInstrument();
    const fresh = newTrackEdits(
      file,
      targets,
      new Map([['o', { ...instrument, id: 'o', name: 'Oboe', family: 'winds' }]]),
    );
    expect(fresh.targets[1]).toBe(VIOLINS);
    expect(fresh.targets[3]).toBe(LEAVE_OUT);
    edit('Tracks', fresh.edits);
    edit('Bring in', songEdits(file, choices(fresh.targets), 'cue'));
    expect(
      shown('track').map(({ name, place, instrumentId, family }) => [name, place, instrumentId, family]),
    ).toEqual([
      ['Violins I', 4, 'v', undefined],
      ['Oboe 1', 5, 'o', 'winds'],
      ['Track 4', 6, null, 'other'],
    ]);
    expect(shown('positionMix').map(({ trackId }) => trackId)).toEqual([fresh.targets[0]]);
    expect(
      shown('part')
        .map(({ trackId }) => trackId)
        .sort(),
    ).toEqual(fresh.targets.slice(0, 3).sort());
    expect(shown('note')).toHaveLength(3);
    undo();
    undo();
    expect([shown('track').length, shown('note').length]).toEqual([1, 0]);
  });
  it('are told from targets that are there', () => {
    expect([newTrackWith('o'), newTrackWith(undefined), VIOLINS, LEAVE_OUT].map(instrumentOfNew)).toEqual([
      'o',
      '',
      undefined,
      undefined,
    ]);
  });
});

describe('a score', () => {
  it('brings its marks, curves, syllables, keys and moving tempos along', () => {
    const violins = track('Vln 1', 2, {
      notes: [
        { startTick: 0, endTick: 960, key: 60, velocity: 80, syllable: 'lan-' },
        { startTick: 960, endTick: 1920, key: 62, velocity: 80 },
      ],
      marks: [{ startTick: 0, endTick: 960, articulation: 'pizzicato' }],
      points: [{ controller: 1, tick: 0, value: 32 }],
    });
    const score: Song = {
      ...song(violins),
      tempos: [
        { tick: 0, bpm: 60, ramp: true },
        { tick: 960, bpm: 2000 },
      ],
      keys: [{ tick: 0, fifths: -3 }],
    };
    edit('Bring in', songEdits(score, { ...choices([VIOLINS]), useSwitches: false }, 'cue'));
    expect(shown('note').map(({ key, syllable }) => [key, syllable])).toEqual([
      [60, 'lan-'],
      [62, ''],
    ]);
    expect(shown('mark').map(({ articulation, endTick }) => [articulation, endTick])).toEqual([
      ['pizzicato', 960],
    ]);
    expect(shown('point').map(({ controller, tick, value }) => [controller, tick, value])).toEqual([
      [1, 0, 32],
    ]);
    expect(shown('signature').map(({ tick, fifths }) => [tick, fifths])).toEqual([[0, -3]]);
    expect(shown('tempo').map(({ bpm, ramp }) => [bpm, ramp])).toEqual([
      [60, true],
      [999, false],
    ]);
  });
});

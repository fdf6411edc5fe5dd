import { naturalId } from '#api/index.ts';
import type { Instrument } from '#core/catalogue/index.ts';
import { partFromSong, type Song, type SongTrack } from '#core/formats/index.ts';
import { findPlaces, KIT_PROGRAM, readAhead, readPerformed } from '#core/intake/index.ts';
import { EMPTY_BAR, movedSwitch, octaveOff } from '#core/keymap/index.ts';
import { BPM, metreTicks, TempoMap } from '#core/music/index.ts';
import { clamp } from '#core/units/index.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import type { Edit } from '../../state/diff.ts';
import { itemOf, listOf, useDocuments } from '../../state/documents.ts';
import { keymapOfTrack, rangeOfSummary, summaryOf } from '../../state/keymaps.ts';
import { useLibraries } from '../../state/libraries.ts';
import { freshTrack, instrumentEdits } from '../../state/track-edits.ts';

export const LEAVE_OUT = '';
const BAR = 3840;

/** How a song is taken in. */
export interface SongChoices {
  /** Track of the template for each of the song's, `newTrackWith` an instrument, or `LEAVE_OUT`. */
  targets: readonly string[];
  /** What selects articulations becomes marks. */
  useSwitches: boolean;
  /** The empty bar in front goes, and notes go back to the beats they were moved ahead of. */
  takeLeadsBack: boolean;
  /** Notes of others that were moved ahead go back to their beats. */
  toBeats: boolean;
  /** Switches that are an octave off are read where the keymap has them. */
  moveSwitches: boolean;
}

/** A track of its own for a track of the song, with this instrument, or (empty) none yet. */
const NEW = 'new ';
export const newTrackWith = (instrumentId: string | undefined) => `${NEW}${instrumentId ?? ''}`;

/** The instrument a target asks a new track with: empty for none yet; undefined for a target that is no new track. */
export function instrumentOfNew(target: string): string | undefined {
  return target.startsWith(NEW) ? target.slice(NEW.length) : undefined;
}

/** MIDI's channel of drums, from 0. */
const DRUMS = 9;

/** Where the song's tracks go at first: to tracks of the template by name, the others to new ones with the instrument that suits best. */
export function suggestTargets(song: Song): string[] {
  const { records } = useDocuments.getState();
  const places = findPlaces(
    song.tracks.map(({ name, programs, channel }) => {
      const program = channel === DRUMS ? KIT_PROGRAM : programs[0]?.program;
      return { name, ...(program === undefined ? {} : { program }) };
    }),
    listOf(records, 'track').map(({ id, name, instrumentId }) => ({
      id,
      name,
      instrument: summaryOf(instrumentId)?.name ?? '',
    })),
    (useLibraries.getState().libraries ?? []).flatMap(({ instruments }) => instruments),
  );
  return song.tracks.map(({ notes }, i) => {
    if (notes.length === 0) return LEAVE_OUT;
    const place = places[i];
    return 'trackId' in place ? place.trackId : newTrackWith(place.instrumentId);
  });
}

/**
 * Edits that make the new tracks that are asked for, at the end of the template, and the targets with their ids in place.
 * @param instruments those that are asked for, by id
 */
export function newTrackEdits(
  song: Song,
  targets: readonly string[],
  instruments: ReadonlyMap<string, Instrument>,
): { edits: Edit[]; targets: string[] } {
  const { records } = useDocuments.getState();
  const before = listOf(records, 'track');
  let place = before.at(-1)?.place ?? 0;
  const edits: Edit[] = [];
  const made = targets.map((target, i) => {
    const wanted = instrumentOfNew(target);
    if (wanted === undefined) return target;
    const id = crypto.randomUUID();
    const name = song.tracks[i].name.trim().slice(0, 120) || `Track ${before.length + i + 1}`;
    const fields = { ...freshTrack(name, ++place) };
    const instrument = instruments.get(wanted);
    const [chosen, ...positions] = instrument ? instrumentEdits(records, { id, ...fields }, instrument) : [];
    const own = chosen?.op === 'update' ? chosen.fields : {};
    edits.push({ kind: 'track', id, op: 'add', fields: { ...fields, ...own, name } }, ...positions);
    return id;
  });
  return { edits, targets: made };
}

/** Whether a song was made to be performed by Farlo, with an empty bar in front. */
export function isPerformed(song: Song): boolean {
  return song.texts.some(({ text }) => text === EMPTY_BAR);
}

/** What a track of the template is played by, and over which keys. */
function playedBy(trackId: string) {
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', trackId);
  const keymap = track && keymapOfTrack(records, track, track.instrumentId)?.keymap;
  const instrument = summaryOf(track?.instrumentId);
  const range = instrument && rangeOfSummary(instrument);
  return { track, keymap, ranges: range ? [range] : [] };
}

/** Tracks whose switches lie an octave or two off in the song, with by how much. */
export function octavesOff(
  song: Song,
  targets: readonly string[],
): { name: string; shift: number; trackId: string }[] {
  return [...new Set(targets)].flatMap((trackId) => {
    const { track, keymap, ranges } = playedBy(trackId);
    if (!track || !keymap) return [];
    const keys = song.tracks.flatMap((one, i) =>
      targets[i] === trackId ? one.notes.map(({ key }) => key) : [],
    );
    const shift = octaveOff(keys, keymap, ranges);
    return shift === 0 ? [] : [{ name: track.name, shift, trackId }];
  });
}

/** Everything the song puts into a cue, as one edit. */
export function songEdits(song: Song, choices: SongChoices, cueId: string): Edit[] {
  const { targets } = choices;
  const first = [...song.metres].sort((a, b) => a.tick - b.tick)[0] ?? {
    tick: 0,
    numerator: 4,
    denominator: 4,
  };
  const ahead = choices.takeLeadsBack ? metreTicks(first).bar : 0;
  const back = <T extends { tick: number }>(list: readonly T[]) => {
    const moved = list.map((one) => ({ ...one, tick: Math.max(0, one.tick - ahead) }));
    // Of several that then fall on the beginning the last holds.
    return [...new Map(moved.map((one) => [one.tick, one])).values()];
  };
  const add = (kind: Edit['kind'], fields: Record<string, unknown>): Edit => ({
    kind,
    id: crypto.randomUUID(),
    op: 'add',
    fields,
  });
  const notes = song.tracks.filter((_, i) => targets[i] !== LEAVE_OUT).flatMap((track) => track.notes);
  const last = notes.reduce((end, note) => Math.max(end, note.endTick), BAR + ahead) - ahead;
  const end = Math.ceil(last / BAR) * BAR;
  const texts = [...song.texts, ...song.tracks.flatMap((track) => track.texts)].filter(
    ({ text }) => text.trim() !== '' && !(ahead > 0 && text === EMPTY_BAR),
  );
  const tempos = back(song.tempos).map(({ tick, bpm, ramp = false }) => ({
    tick,
    bpm: clamp(bpm, BPM.low, BPM.high),
    ramp,
  }));
  const off = choices.moveSwitches ? octavesOff(song, targets) : [];
  return [
    { kind: 'cue', id: cueId, op: 'update', fields: { endTick: end } },
    ...tempos.map((tempo) => add('tempo', tempo)),
    ...back(song.metres).map(({ tick, numerator, denominator }) =>
      add('metre', { tick, numerator, denominator }),
    ),
    ...back(song.keys).map(({ tick, fifths }) => add('signature', { tick, fifths })),
    ...texts.map(({ tick, text }) =>
      add('marker', { tick: Math.max(0, tick - ahead), text: text.slice(0, 400) }),
    ),
    ...[...new Set(targets)]
      .filter((trackId) => trackId !== LEAVE_OUT)
      .flatMap((trackId) => {
        const partId = naturalId('part', cueId, trackId);
        const shift = off.find((one) => one.trackId === trackId)?.shift ?? 0;
        const part = partOf(song, choices, trackId, shift, new TempoMap(tempos), ahead, end);
        return [
          { kind: 'part' as const, id: partId, op: 'add' as const, fields: { trackId } },
          ...part.notes.map((note) => add('note', { ...note, partId })),
          ...part.marks.map((mark) => add('mark', { ...mark, partId })),
          ...part.points.map((point) => add('point', { ...point, partId })),
        ];
      }),
  ];
}

/** Tracks of the song that go to one of the template, with selecting keys where its keymap has them. */
function songTracks(song: Song, targets: readonly string[], trackId: string, shift: number): SongTrack[] {
  const { ranges } = playedBy(trackId);
  return song.tracks
    .filter((_, i) => targets[i] === trackId)
    .map((one) =>
      shift === 0
        ? one
        : {
            ...one,
            notes: one.notes.map((note) => ({ ...note, key: movedSwitch(note.key, shift, ranges) })),
          },
    );
}

/** Names of tracks whose notes lie ahead of the beats they are meant for, as their techniques speak late. */
export function aheadOfBeats(
  song: Song,
  { targets, moveSwitches }: Pick<SongChoices, 'targets' | 'moveSwitches'>,
): string[] {
  const tempo = new TempoMap(song.tempos);
  const off = moveSwitches ? octavesOff(song, targets) : [];
  return [...new Set(targets)].flatMap((trackId) => {
    const { track, keymap } = playedBy(trackId);
    const context = usePerformance.getState().plans[trackId]?.context;
    if (!track || !keymap || !context) return [];
    const tracks = songTracks(song, targets, trackId, off.find((one) => one.trackId === trackId)?.shift ?? 0);
    const end = tracks
      .flatMap(({ notes }) => notes)
      .reduce((last, note) => Math.max(last, note.endTick), BAR);
    const own = { ...context, tempo, articulation: track.articulation };
    return readAhead(tracks, keymap, own, end) ? [track.name] : [];
  });
}

function partOf(
  song: Song,
  { targets, useSwitches, toBeats }: SongChoices,
  trackId: string,
  shift: number,
  tempo: TempoMap,
  ahead: number,
  end: number,
) {
  const { track, keymap } = playedBy(trackId);
  const tracks = songTracks(song, targets, trackId, shift);
  const articulation = track?.articulation ?? 'long';
  const context = usePerformance.getState().plans[trackId]?.context;
  if (ahead > 0 && useSwitches && keymap && context)
    return readPerformed(tracks, keymap, { ...context, tempo, articulation }, ahead, end);
  const meant =
    toBeats && useSwitches && keymap && context
      ? readAhead(tracks, keymap, { ...context, tempo, articulation }, end)
      : undefined;
  if (meant) return meant;
  const part = partFromSong(tracks, useSwitches ? keymap : undefined, articulation, end + ahead);
  if (ahead === 0) return part;
  const earlier = <T extends { startTick: number; endTick: number }>(one: T): T => {
    const startTick = Math.max(0, one.startTick - ahead);
    return { ...one, startTick, endTick: Math.max(startTick + 1, one.endTick - ahead) };
  };
  return {
    ...part,
    notes: part.notes.map(earlier),
    marks: part.marks.map(earlier),
    points: part.points.map((point) => ({ ...point, tick: Math.max(0, point.tick - ahead) })),
  };
}

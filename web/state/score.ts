import { transpositionOf } from '#core/catalogue/index.ts';
import type { Score } from '#core/formats/index.ts';
import { cueOf, partOf } from './cue.ts';
import { listOf, type Item } from './documents.ts';
import { summaryOf } from './keymaps.ts';
import type { Records } from './tables.ts';

/** As it sounds, or as players of instruments that transpose read it. */
export type ScorePitch = 'sounding' | 'written';

export const SCORE_PITCHES: readonly { value: ScorePitch; text: string }[] = [
  { value: 'sounding', text: 'as it sounds' },
  { value: 'written', text: 'as players read it' },
];

/** Semitones from what players of a track read to what sounds. */
export function transpositionOfTrack({ name, instrumentId }: Item<'track'>): number {
  const instrument = summaryOf(instrumentId);
  return (
    transpositionOf(name, instrument?.family) || transpositionOf(instrument?.name ?? '', instrument?.family)
  );
}

/** The open cue as a score of some tracks. */
export function scoreOf(
  records: Records,
  cueId: string | undefined,
  tracks: readonly Item<'track'>[],
  pitch: ScorePitch,
): Score {
  const cue = cueOf(records, cueId);
  return {
    title: cue?.name ?? '',
    tempos: listOf(records, 'tempo'),
    metres: listOf(records, 'metre'),
    keys: listOf(records, 'signature'),
    markers: listOf(records, 'marker'),
    endTick: cue?.endTick ?? 0,
    parts: tracks.map((track) => ({
      name: track.name,
      articulation: track.articulation,
      part: partOf(records, track.id).part,
      transposition: pitch === 'written' ? transpositionOfTrack(track) : 0,
    })),
  };
}

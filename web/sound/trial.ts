import { toast } from 'sonner';
import { create } from 'zustand';
import { articulationFor, cutPhrase, type WrittenPhrase } from '#core/listen/index.ts';
import { articulationTerm, type Instrument } from '#core/catalogue/index.ts';
import { trialMix, type TrackMix } from '#core/mixing/index.ts';
import { planPart } from '#core/performance/index.ts';
import { TICKS_PER_QUARTER } from '#core/units/index.ts';
import { edit, listOf, useDocuments, type Item } from '../state/documents.ts';
import { instrumentEdits } from '../state/track-edits.ts';
import { openInstrument, wantArticulation } from './instruments.ts';
import { mixOf } from './mixes.ts';
import { usePerformance } from './performance-state.ts';
import { partOf, tempoOf } from '../state/cue.ts';
import { rendering } from './renderings.ts';

/** What is told of a trial under way. */
interface TrialNews {
  /** Set while recordings come and levels are matched. */
  preparing: boolean;
  /** Marks that the tried sound lacks, with what plays them. */
  standIns: readonly string[];
}

export const useTrialNews = create<TrialNews>(() => ({ preparing: false, standIns: [] }));

/** Levels are matched over this much of the part, from its first note on. */
const MATCH_QUARTERS = 24;
const MOST_TRIM_DB = 24;

/**
 * Lets an instrument take a track's place in the open cue: marks it lacks are played by stand-ins, its level is matched to what
 * it replaces over the beginning of the part. Nothing of the template changes until it is kept.
 * @throws Error with a sentence when its recordings cannot be loaded
 */
export async function startTrial(trackId: string, instrumentId: string, articulation: string): Promise<void> {
  const { records } = useDocuments.getState();
  const track = listOf(records, 'track').find((one) => one.id === trackId);
  if (!track) return;
  useTrialNews.setState({ preparing: true, standIns: [] });
  try {
    const instrument = await openInstrument(instrumentId);
    const group = articulationTerm(track.articulation).group;
    const plain = articulationFor(instrument, group, articulation) ?? articulationFor(instrument, group);
    if (!plain) throw new Error(`${instrument.name} has nothing that can be played.`);
    const { part } = partOf(records, trackId);
    const mix = trialMix(mixOf(records, track), { trimDb: 0 }, instrument.positions);
    const plan = planPart(part, {
      tempo: tempoOf(records),
      instrument,
      mix,
      mode: track.mode,
      articulation: plain.id,
    });
    const used = new Set([
      plain.id,
      ...plan.segments.flatMap((segment) =>
        segment.sounds.map((sound) => instrument.articulations[sound.articulation].id),
      ),
    ]);
    for (const id of used) await wantArticulation(instrumentId, id);
    const trimDb = await matchingTrim(track, instrument, plain.id, mix);
    const standIns = plan.segments.flatMap((segment) => segment.findings.map((one) => one.sentence));
    useTrialNews.setState({ standIns: [...new Set(standIns)] });
    usePerformance.setState({ trial: { trackId, instrumentId, articulation: plain.id, trimDb } });
  } finally {
    useTrialNews.setState({ preparing: false });
  }
}

/** Decibels that make the tried sound as loud as the track's own over the beginning of its part; 0 when either is silent. */
async function matchingTrim(
  track: Item<'track'>,
  instrument: Instrument,
  articulation: string,
  mix: TrackMix,
): Promise<number> {
  const { records } = useDocuments.getState();
  const { part } = partOf(records, track.id);
  const first = part.notes.reduce((least, note) => Math.min(least, note.startTick), Infinity);
  if (track.instrumentId === null || !Number.isFinite(first)) return 0;
  const phrase = cutPhrase(part, first, first + MATCH_QUARTERS * TICKS_PER_QUARTER);
  const bpm = tempoOf(records).bpmAt(first);
  const own = { ...mixOf(records, track), muted: false };
  const sounds = [
    { instrumentId: track.instrumentId, articulation: track.articulation, mix: own },
    { instrumentId: instrument.id, articulation, mix: { ...mix, muted: false } },
  ];
  const levels: number[] = [];
  for (const sound of sounds) {
    const { lufs } = await rendering({ ...sound, name: nameOf(sound, phrase, bpm), phrase, bpm });
    levels.push(lufs);
  }
  const trim = levels[0] - levels[1];
  return Number.isFinite(trim)
    ? Math.round(Math.max(-MOST_TRIM_DB, Math.min(MOST_TRIM_DB, trim)) * 10) / 10
    : 0;
}

function nameOf(sound: object, phrase: WrittenPhrase, bpm: number): string {
  return `trial ${JSON.stringify([sound, phrase, bpm])}`;
}

/** Puts the track's own sound back. */
export function endTrial(): void {
  usePerformance.setState({ trial: undefined });
  useTrialNews.setState({ standIns: [] });
}

/** Makes the tried sound the track's own, as one step of undo. */
export async function keepTrial(): Promise<void> {
  const { trial } = usePerformance.getState();
  const { records } = useDocuments.getState();
  const track = listOf(records, 'track').find((one) => one.id === trial?.trackId);
  if (!trial || !track) return;
  const instrument = await openInstrument(trial.instrumentId);
  const mix = trialMix(mixOf(records, track), trial, instrument.positions);
  edit(
    'Keep the tried sound',
    instrumentEdits(records, track, instrument, {
      articulation: trial.articulation,
      gainDb: Math.max(-60, Math.min(12, Math.round(mix.gainDb * 10) / 10)),
      positions: mix.positions,
    }),
  );
  endTrial();
  toast(`${instrument.name} now plays ${track.name}. Undo brings the old sound back.`);
}

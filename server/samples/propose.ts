import type { ImportProposal } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { guessFamily, guessMeanings, offerJoins, suggestPattern } from '#core/intake/index.ts';
import { findLoop, hearPitch } from '#core/measure/index.ts';
import { readAudio } from './audio-file.ts';
import type { FileSource } from './file-source.ts';
import { baseName, scanSource, type LooseFile, type Scan } from './scan.ts';
import type { Progress } from './take-in.ts';

/** What a proposal needs to know beside the files. */
export interface ProposalOrder {
  id: string;
  name: string;
  remembered: ImportProposal['remembered'];
  names: ImportProposal['names'];
}

const PEAKS = 400;
const LONGEST_RECORDING_SECONDS = 600;

/** Looks through a source and proposes how to take it in. Nothing is stored. @throws FarloError */
export async function propose(
  source: FileSource,
  { id, name, remembered, names }: ProposalOrder,
  progress: Progress,
): Promise<ImportProposal> {
  const scan = await scanSource(source, (share, message) => progress(share * 0.9, message));
  const zones = scan.files.flatMap((file) => file.zones);
  const { loose } = scan;
  return {
    id,
    kind: scan.kind,
    name: scan.kind === 'recordings' || scan.files.length > 1 ? name : scan.files[0].name || name,
    instruments: instrumentsIn(scan),
    joins: scan.kind === 'sfz' ? offerJoins(scan.files) : [],
    // Without knowing the maker yet, words are guessed afresh; the form puts remembered ones over them.
    words: guessMeanings(zones),
    remembered,
    names,
    files: loose.map(({ path, facts }) => ({
      path,
      frames: facts.frames,
      rate: facts.rate,
      channels: facts.channels,
      looped: facts.loops.length > 0,
    })),
    pattern: loose.length > 1 ? (suggestPattern(loose.map(({ path }) => path)) ?? null) : null,
    recording: loose.length === 1 ? await hear(source, loose[0]) : null,
    failed: scan.failed,
  };
}

function instrumentsIn(scan: Scan): ImportProposal['instruments'] {
  const out = new Map<string, ImportProposal['instruments'][number]>();
  for (const file of scan.files)
    for (const { zone, instrument, sample } of file.zones) {
      const known = out.get(instrument);
      if (known) {
        known.zones++;
        known.keyLow = Math.min(known.keyLow, zone.keyLow);
        known.keyHigh = Math.max(known.keyHigh, zone.keyHigh);
        continue;
      }
      out.set(instrument, {
        name: instrument,
        ...guessFamily(instrument, file.programs.get(instrument)),
        players: 1,
        keyLow: zone.keyLow,
        keyHigh: zone.keyHigh,
        zones: 1,
        example: sample,
      });
    }
  return [...out.values()];
}

async function hear(source: FileSource, { path, facts }: LooseFile): Promise<ImportProposal['recording']> {
  const seconds = facts.frames / facts.rate;
  if (seconds > LONGEST_RECORDING_SECONDS)
    throw new FarloError(
      'file.too-large',
      `The recording lasts ${Math.round(seconds / 60)} minutes; an instrument is made of at most ten. Cut out the note you want.`,
      { file: path },
    );
  const audio = await readAudio(await source.read(path), path);
  const [left] = audio.channels;
  const right = audio.channels[1] ?? left;
  const mono = left.map((value, i) => (value + right[i]) / 2);
  const pitch = hearPitch(mono, audio.rate);
  const loop = facts.loops[0] ? { ...facts.loops[0], likeness: 1 } : (findLoop(mono, audio.rate) ?? null);
  return {
    path: baseName(path),
    seconds,
    rate: audio.rate,
    key: pitch?.key ?? null,
    cents: pitch ? Math.round(pitch.cents * 10) / 10 : 0,
    clarity: pitch?.clarity ?? 0,
    loop,
    peaks: peaksOf(mono),
  };
}

function peaksOf(signal: Float32Array): number[] {
  return Array.from({ length: PEAKS }, (_, p) => {
    const from = Math.floor((p * signal.length) / PEAKS);
    const to = Math.max(from + 1, Math.floor(((p + 1) * signal.length) / PEAKS));
    let peak = 0;
    for (let i = from; i < to && i < signal.length; i++) peak = Math.max(peak, Math.abs(signal[i]));
    return Math.round(peak * 1000) / 1000;
  });
}

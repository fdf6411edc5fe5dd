import type {
  Articulation,
  Family,
  Instrument,
  InstrumentKind,
  PackInfo,
  SampleInfo,
  Zone,
} from '#core/catalogue/index.ts';
import { FarloError } from '#core/errors/index.ts';
import {
  encodeFrames,
  instrumentFromSfz,
  readSfz,
  readWav,
  type SampleFacts,
  type SfzRegion,
  type WavAudio,
} from '#core/formats/index.ts';
import {
  attackEnvelope,
  landingSeconds,
  meanLevelDb,
  onsetOfEnvelope,
  packEnvelope,
} from '#core/measure/index.ts';
import { centsToRatio, midiToHertz } from '#core/units/index.ts';
import type { NewLibrary } from '../store/catalogue.ts';
import type { FileSource } from './file-source.ts';
import { sampleId, writePack, type StoredAudio } from './pack-writer.ts';

/** What the user says of the library being taken in. */
export interface ImportFacts {
  library: string;
  maker: string;
  room: string;
  recipe: string;
  /** For instruments; SFZ itself does not know. */
  family: Family;
  kind: InstrumentKind;
  players: number;
  /** Name of the instrument when there is only one SFZ; otherwise file names are used. */
  instrument?: string;
}

/** Called with a share of the work done, 0…1, and what is being done. */
export type Progress = (share: number, message: string) => void;

/**
 * Takes in every SFZ of a source with its WAV files: packs are written, everything else is returned.
 * All or nothing: a failure leaves at most packs that nothing refers to.
 * @throws FarloError naming file and place
 */
export async function importLibrary(
  source: FileSource,
  facts: ImportFacts,
  dataFolder: string,
  progress: Progress,
): Promise<NewLibrary> {
  const roots = await rootFiles(source);
  if (roots.length === 0)
    throw new FarloError(
      'import.no-instrument',
      'There is no .sfz file among what was given. Choose the folder or zip that holds the .sfz and its WAV files.',
    );
  const instruments: NewLibrary['instruments'] = [];
  const unsupported: NewLibrary['unsupported'] = [];
  for (const [i, root] of roots.entries()) {
    const part: Progress = (share, message) => progress((i + share) / roots.length, message);
    const name = roots.length === 1 && facts.instrument ? facts.instrument : baseName(root);
    const read = await importInstrument(source, root, dataFolder, part);
    instruments.push({
      name,
      family: facts.family,
      kind: facts.kind,
      players: facts.players,
      ...read.instrument,
    });
    unsupported.push(...read.unsupported);
  }
  const { library: name, maker, room, recipe } = facts;
  return { name, maker, room, recipe, unsupported, instruments };
}

const baseName = (path: string) => path.slice(path.lastIndexOf('/') + 1).replace(/\.sfz$/i, '');

/** SFZ files that no other includes. */
async function rootFiles(source: FileSource): Promise<string[]> {
  const all = source.paths.filter((path) => /\.sfz$/i.test(path)).sort();
  const included = new Set<string>();
  for (const path of all)
    for (const match of textOf(await source.read(path)).matchAll(/^\s*#include\s+"([^"]+)"/gm))
      included.add(baseName(match[1].replaceAll('\\', '/')));
  const roots = all.filter((path) => !included.has(baseName(path)));
  return roots.length > 0 ? roots : all;
}

async function importInstrument(source: FileSource, root: string, dataFolder: string, progress: Progress) {
  const findPath = pathFinder(source.paths);
  const texts = new Map<string, string>();
  for (const path of source.paths)
    if (/\.(sfz|txt|inc|h)$/i.test(path)) texts.set(path, textOf(await source.read(path)));
  const regions = readSfz(root, (path) => {
    const found = findPath(path);
    return found === undefined ? undefined : texts.get(found);
  });
  const wavs = await readSamples(source, regions, findPath, (share) =>
    progress(share * 0.5, `Reading recordings of ${baseName(root)}`),
  );
  const facts = new Map(
    [...wavs].map(([path, { frames, loops }]): [string, SampleFacts] => [path, { frames, loops }]),
  );
  const read = instrumentFromSfz(regions, facts);
  measureZones(read.articulations, wavs, (share) =>
    progress(0.5 + share * 0.3, `Measuring ${baseName(root)}`),
  );
  const stored = storePacks(
    read.articulations,
    read.positions.map((p) => p.id),
    wavs,
    dataFolder,
    (share) => progress(0.8 + share * 0.2, `Packing ${baseName(root)}`),
  );
  const instrument: Pick<Instrument, 'positions' | 'articulations' | 'samples' | 'packs'> = {
    positions: read.positions,
    articulations: read.articulations,
    ...stored,
  };
  return {
    instrument,
    unsupported: read.unsupported.map(({ opcode, reason, count, place }) => ({
      opcode,
      reason,
      count,
      place: `${place.file ?? root}, line ${place.line ?? 0}`,
    })),
  };
}

const textOf = (bytes: Uint8Array) => new TextDecoder('utf-8').decode(bytes).replace(/^\uFEFF/, '');

/** Libraries written on systems that do not tell case apart must still find their files. */
function pathFinder(paths: readonly string[]): (path: string) => string | undefined {
  const exact = new Set(paths);
  const folded = new Map(paths.map((path) => [path.toLowerCase(), path]));
  return (path) => (exact.has(path) ? path : folded.get(path.toLowerCase()));
}

interface ReadSample {
  frames: number;
  loops: WavAudio['loops'];
  channels: Float32Array[];
  stored: StoredAudio;
}

async function readSamples(
  source: FileSource,
  regions: readonly SfzRegion[],
  findPath: (path: string) => string | undefined,
  progress: (share: number) => void,
): Promise<Map<string, ReadSample>> {
  const wanted = new Map<string, SfzRegion>();
  for (const region of regions) {
    const sample = region.opcodes.get('sample');
    if (sample && !sample.value.startsWith('*') && !wanted.has(sample.value))
      wanted.set(sample.value, region);
  }
  const samples = new Map<string, ReadSample>();
  let done = 0;
  for (const [path, region] of wanted) {
    const found = findPath(path);
    if (found === undefined)
      throw new FarloError(
        'sfz.sample-missing',
        `The sample “${path}” is not among the files. Add it, or choose the folder above.`,
        region.opcodes.get('sample')?.place ?? region.place,
      );
    const wav = readWav(await source.read(found), found);
    if (wav.channels[0].length === 0)
      throw new FarloError('file.damaged', 'The recording holds no audio.', { file: found });
    samples.set(path, {
      frames: wav.channels[0].length,
      loops: wav.loops,
      channels: wav.channels,
      stored: toStored(wav),
    });
    progress(++done / wanted.size);
  }
  return samples;
}

/** 16-bit files stay 16 bits; anything finer is kept as 32-bit floats. */
function toStored(wav: WavAudio): StoredAudio {
  const format = wav.format === 'i16' ? 'i16' : 'f32';
  const channels = wav.channels.length === 1 ? 1 : 2;
  const bytes = encodeFrames(wav.channels, format, 0, wav.channels[0].length);
  return {
    id: sampleId(bytes, format, channels, wav.rate),
    bytes,
    frames: wav.channels[0].length,
    channels,
    rate: wav.rate,
    format,
  };
}

/** Fills in what must be known before a note is planned: envelopes, leads, levels. */
function measureZones(
  articulations: readonly Articulation[],
  samples: ReadonlyMap<string, ReadSample>,
  progress: (share: number) => void,
): void {
  const zones = articulations.flatMap((articulation) => articulation.zones);
  const known = new Map<string, object>();
  zones.forEach((zone, i) => {
    for (const ref of Object.values(zone.samples)) {
      const sample = samples.get(ref.sample);
      if (!sample) continue;
      const key = `${zone.role} ${ref.sample} ${zone.startFrame} ${zone.rootKey} ${zone.interval ?? 0}`;
      let measured = known.get(key);
      if (!measured) known.set(key, (measured = measure(zone, sample)));
      Object.assign(ref, measured);
    }
    progress((i + 1) / zones.length);
  });
}

function measure(zone: Zone, { channels, stored: { rate } }: ReadSample): object {
  const levelDb = Math.round(meanLevelDb(channels, zone.startFrame, zone.startFrame + rate / 2) * 100) / 100;
  if (zone.role === 'attack') {
    const envelope = attackEnvelope(channels, rate, zone.startFrame);
    return { leadSeconds: onsetOfEnvelope(envelope), levelDb, envelope: packEnvelope(envelope) };
  }
  if (zone.role === 'release' || zone.interval === undefined) return { leadSeconds: 0, levelDb };
  const mono = channels.length === 1 ? channels[0] : channels[0].map((value, i) => value + channels[1][i]);
  const root = midiToHertz(zone.rootKey - zone.tuneCents / 100);
  const to = Math.min(mono.length, zone.startFrame + 0.43 * rate);
  const landing = landingSeconds(
    mono,
    rate,
    root * centsToRatio(-100 * zone.interval),
    root,
    zone.startFrame + 0.03 * rate,
    to,
  );
  return { leadSeconds: landing === undefined ? 0 : landing - zone.startFrame / rate, levelDb };
}

/** Writes one pack per articulation and position; a sample that an earlier pack holds is not packed again. */
function storePacks(
  articulations: readonly Articulation[],
  positions: readonly string[],
  wavs: ReadonlyMap<string, ReadSample>,
  dataFolder: string,
  progress: (share: number) => void,
): { samples: Record<string, SampleInfo>; packs: Record<string, PackInfo> } {
  const samples: Record<string, SampleInfo> = {};
  const packs: Record<string, PackInfo> = {};
  // The techniques played most are packed first, so that what they share with others lies with them.
  const order = [...articulations].sort((a, b) => Number(a.id !== 'long') - Number(b.id !== 'long'));
  order.forEach((articulation, i) => {
    for (const position of positions) {
      const audio = new Map<string, StoredAudio>();
      for (const zone of articulation.zones) {
        const ref = zone.samples[position];
        const wav = ref && wavs.get(ref.sample);
        if (!wav) continue;
        ref.sample = wav.stored.id;
        if (!(wav.stored.id in samples)) audio.set(wav.stored.id, wav.stored);
      }
      if (audio.size === 0) continue;
      const written = writePack(dataFolder, articulation.id, position, [...audio.values()]);
      packs[written.pack.id] = written.pack;
      for (const sample of written.samples) samples[sample.id] = sample;
    }
    progress((i + 1) / order.length);
  });
  return { samples, packs };
}

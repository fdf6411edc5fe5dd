import type { Family, Instrument, InstrumentKind, LibraryFacts, Zone } from '#core/catalogue/index.ts';
import { describeError, FarloError } from '#core/errors/index.ts';
import type { ImportReport, Remark } from '#api/index.ts';
import type { FoundWord, FoundZone } from '#core/formats/index.ts';
import {
  assemble,
  foundInNames,
  guessFamily,
  guessMeanings,
  joinZones,
  nameFiles,
  readJoinedSample,
  readPattern,
  type Join,
  type Meaning,
} from '#core/intake/index.ts';
import { blendLoop } from '#core/measure/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { dbToGain } from '#core/units/index.ts';
import type { NewLibrary } from '../store/catalogue.ts';
import { readAudio } from './audio-file.ts';
import type { FileSource } from './file-source.ts';
import { measureZones } from './measure-zones.ts';
import { ownRecording, type OwnRecording } from './own-recording.ts';
import { baseName, scanSource, type FoundFile, type Scan } from './scan.ts';
import { SampleStore } from './sample-store.ts';

/** What is known or was decided of a library being taken in. */
export interface ImportFacts {
  library: string;
  maker: string;
  room: string;
  recipe: string;
  facts: LibraryFacts;
  /** What was said of single instruments, by the name the files give them. */
  instruments: Record<
    string,
    { name?: string; family: Family; kind: InstrumentKind; players: number; tags?: readonly string[] }
  >;
  /** What words mean; guessed where nothing is given. */
  meanings?: readonly (FoundWord & Meaning)[];
  /** For recordings without an instrument file. */
  pattern?: string;
  middleC?: MiddleC;
  recording?: OwnRecording;
  /** Files that are positions of one instrument. */
  joins?: readonly Join[];
}

export type Progress = (share: number, message: string) => void;

/**
 * Takes in everything of a source: packs are written, everything else is returned. All or nothing per instrument file;
 * when none can be taken in, the first failure is thrown. What was written for a failed one nothing refers to.
 * @param known ids of samples that are stored already
 * @throws FarloError naming file and place
 */
export async function takeIn(
  source: FileSource,
  facts: ImportFacts,
  dataFolder: string,
  known: ReadonlySet<string>,
  progress: Progress,
): Promise<NewLibrary> {
  const scan = await scanSource(source, (share, message) => progress(share * 0.1, message));
  const files =
    scan.kind === 'recordings'
      ? [looseInstrument(source, scan, facts)]
      : joinedFiles(scan.files, facts.joins ?? []);
  const store = new SampleStore(dataFolder, known);
  const instruments: NewLibrary['instruments'] = [];
  const failed = [...scan.failed];
  let firstError: FarloError | undefined;
  for (const [i, file] of files.entries()) {
    const part: Progress = (share, message) => progress(0.1 + (0.9 * (i + share)) / files.length, message);
    try {
      instruments.push(...(await takeInFile(file, facts, store, part)));
    } catch (error) {
      if (!(error instanceof FarloError)) throw error;
      firstError ??= error;
      failed.push({ name: file.name, sentence: describeError(error) });
    }
  }
  if (instruments.length === 0 && firstError) throw firstError;
  const report: ImportReport = {
    instruments: instruments.length,
    zones: instruments.reduce((n, one) => n + one.articulations.reduce((m, a) => m + a.zones.length, 0), 0),
    recordings: store.count,
    bytes: store.bytes,
    converted: store.conversions,
    unsupported: files.flatMap((file) => file.remarks),
    failed,
  };
  const { library: name, maker, room, recipe } = facts;
  return {
    name,
    maker,
    room,
    recipe,
    facts: facts.facts,
    report,
    instruments,
    packsWritten: store.packsWritten,
  };
}

/** Files with those that are positions of one instrument put together. @throws FarloError where they do not fit together */
function joinedFiles(files: readonly FoundFile[], joins: readonly Join[]): FoundFile[] {
  const joined = new Set(joins.flatMap((join) => join.files.map(({ file }) => file)));
  return [
    ...joins.map((join): FoundFile => {
      const zones = joinZones(join, files);
      const members = join.files.flatMap(({ file }) => files.find(({ name }) => name === file) ?? []);
      return {
        name: join.name,
        zones,
        remarks: members.flatMap(({ remarks }) => remarks),
        audio: async (name) => {
          const { place, gainDb, sample } = readJoinedSample(name);
          const audio = await members[place].audio(sample);
          if (gainDb === 0) return audio;
          const gain = dbToGain(gainDb);
          const channels = audio.channels.map((channel) => channel.map((value) => gain * value));
          return { ...audio, format: 'f32', channels };
        },
        keepsRates: members.some(({ keepsRates }) => keepsRates),
        rests: Object.assign({}, ...members.map(({ rests }) => rests ?? {})) as Record<number, number>,
        programs: new Map(),
      };
    }),
    ...files.filter(({ name }) => !joined.has(name)),
  ];
}

/** Recordings that no instrument file speaks of, as one: by a name pattern, or a single one as the user set it. */
function looseInstrument(source: FileSource, scan: Scan, facts: ImportFacts): FoundFile {
  const byPath = new Map(scan.loose.map(({ path, facts: own }) => [path, own]));
  const audio = async (path: string) => readAudio(await source.read(path), path);
  const name = facts.library;
  if (facts.recording) {
    const [first] = scan.loose;
    const { loop } = facts.recording;
    const looped = async (path: string) => {
      const own = await audio(path);
      // A seam that somebody set by eye would click; a twentieth of a second of blending takes it away.
      if (loop && loop.end <= own.channels[0].length)
        blendLoop(own.channels, loop.start, loop.end, Math.round(0.05 * own.rate));
      return own;
    };
    const zones = ownRecording(first, facts.recording, baseName(first.path));
    return { name, zones, remarks: [], audio: looped, keepsRates: false, programs: new Map() };
  }
  const pattern = readPattern(facts.pattern ?? '');
  if (typeof pattern === 'string') throw new FarloError('import.pattern', pattern);
  const named = nameFiles([...byPath.keys()], pattern, facts.middleC ?? 4);
  const remarks = named
    .filter((file) => file.problem !== undefined)
    .map((file): Remark => ({ opcode: 'file', reason: file.problem ?? '', count: 1, place: file.path }));
  const zones = foundInNames(named, byPath, name);
  if (zones.length === 0)
    throw new FarloError(
      'import.pattern',
      'The pattern fits none of the file names. Look at the preview and change it.',
    );
  return { name, zones, remarks, audio, keepsRates: false, programs: new Map() };
}

async function takeInFile(
  file: FoundFile,
  facts: ImportFacts,
  store: SampleStore,
  progress: Progress,
): Promise<NewLibrary['instruments']> {
  const meanings = facts.meanings ?? guessMeanings(file.zones);
  const assembled = assemble(file.zones, meanings);
  const wanted = [
    ...new Set(
      assembled.flatMap(({ articulations }) => articulations.flatMap(({ zones }) => samplesOf(zones))),
    ),
  ];
  const shortLoops = shortLooped(file.zones);
  for (const [i, sample] of wanted.entries()) {
    await store.read(
      `${file.name} ${sample}`,
      () => file.audio(sample),
      file.keepsRates || shortLoops.has(sample),
    );
    progress((0.55 * (i + 1)) / wanted.length, `Reading recordings of ${file.name}`);
  }
  const nameIn = (sample: string) => `${file.name} ${sample}`;
  const zones = assembled.flatMap(({ articulations }) => articulations.flatMap((a) => a.zones));
  store.scaleZones(zones, nameIn);
  measureZones(
    zones,
    (sample) => store.get(nameIn(sample)),
    (share) => progress(0.55 + share * 0.3, `Measuring ${file.name}`),
  );
  return assembled.map((one, i) => {
    const said = facts.instruments[one.name] ?? facts.instruments[file.name];
    const guess = guessFamily(one.name, file.programs.get(one.name));
    const stored = store.pack(
      one.articulations,
      one.positions.map((p) => p.id),
      nameIn,
    );
    progress(0.85 + (0.15 * (i + 1)) / assembled.length, `Packing ${file.name}`);
    const instrument: Omit<Instrument, 'id'> = {
      name: said?.name ?? one.name,
      family: said?.family ?? guess.family,
      kind: said?.kind ?? guess.kind,
      players: said?.players ?? 1,
      positions: one.positions,
      articulations: one.articulations,
      ...(Object.keys(file.rests ?? {}).length > 0 ? { rests: { ...file.rests } } : {}),
      ...(one.hallSendDb === undefined ? {} : { hallSendDb: one.hallSendDb }),
      ...stored,
    };
    return { ...instrument, tags: said?.tags ?? [] };
  });
}

const samplesOf = (zones: readonly Zone[]) =>
  zones.flatMap((zone) => Object.values(zone.samples).map((ref) => ref.sample));

const SHORT_LOOP_SECONDS = 0.25;

/** Recordings with a loop so short that converting their rate would put it out of tune. */
function shortLooped(found: readonly FoundZone[]): Set<string> {
  const out = new Set<string>();
  for (const { zone, sample, rate } of found)
    if (zone.loop && zone.loop.end - zone.loop.start < SHORT_LOOP_SECONDS * rate) out.add(sample);
  return out;
}

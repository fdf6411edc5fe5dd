import type { Remark } from '#api/index.ts';
import { describeError, FarloError } from '#core/errors/index.ts';
import {
  foundInSfz,
  foundInSoundFont,
  readSfz,
  readSoundFont,
  type FoundZone,
  type SampleFacts,
  type SoundFont,
  type WavAudio,
} from '#core/formats/index.ts';
import { KIT_PROGRAM } from '#core/intake/index.ts';
import { AUDIO_FILE, audioFacts, readAudio } from './audio-file.ts';
import type { FileSource } from './file-source.ts';

/** One instrument file (or all loose recordings) with its zones and a way to its audio. */
export interface FoundFile {
  name: string;
  zones: FoundZone[];
  remarks: Remark[];
  /** Reads a recording by the name its zones use. */
  audio(sample: string): Promise<WavAudio>;
  /** True where recordings stay at their own rates: their loops are often single waves. */
  keepsRates: boolean;
  /** Where controllers rest that mean something to its instruments alone. */
  rests?: Readonly<Record<number, number>>;
  /** Program of each instrument, where the file has such. */
  programs: ReadonlyMap<string, number>;
}

/** A recording that no instrument file speaks of. */
export interface LooseFile {
  path: string;
  facts: SampleFacts & { channels: number };
}

/** What a source holds. */
export interface Scan {
  kind: 'sfz' | 'soundfont' | 'recordings';
  files: FoundFile[];
  loose: LooseFile[];
  /** Instrument files or recordings that cannot be taken in, each with a sentence. */
  failed: { name: string; sentence: string }[];
}

type Progress = (share: number, message: string) => void;

/**
 * Looks through a source: SFZ files first; without any, SoundFonts; without any, the recordings themselves.
 * @throws FarloError when there is nothing Farlo reads, or nothing of it can be read
 */
export async function scanSource(source: FileSource, progress: Progress): Promise<Scan> {
  const roots = await rootFiles(source);
  const fonts = source.paths.filter((path) => /\.sf[23]$/i.test(path)).sort();
  const scan: Scan =
    roots.length > 0
      ? { kind: 'sfz', files: [], loose: [], failed: [] }
      : fonts.length > 0
        ? { kind: 'soundfont', files: [], loose: [], failed: [] }
        : { kind: 'recordings', files: [], loose: [], failed: [] };
  let firstError: FarloError | undefined;
  const attempt = async (name: string, work: () => Promise<void>) => {
    try {
      await work();
    } catch (error) {
      if (!(error instanceof FarloError)) throw error;
      firstError ??= error;
      scan.failed.push({ name, sentence: describeError(error) });
    }
  };
  const todo = scan.kind === 'sfz' ? roots : scan.kind === 'soundfont' ? fonts : audioPaths(source);
  for (const [i, path] of todo.entries()) {
    progress(i / todo.length, `Looking at ${baseName(path)}`);
    await attempt(baseName(path), async () => {
      if (scan.kind === 'sfz') scan.files.push(await scanSfz(source, path));
      else if (scan.kind === 'soundfont') scan.files.push(await scanFont(source, path));
      else scan.loose.push({ path, facts: audioFacts(await source.read(path), path) });
    });
  }
  if (scan.files.length === 0 && scan.loose.length === 0)
    throw (
      firstError ??
      new FarloError(
        'import.no-instrument',
        'Nothing Farlo reads is among what was given: no .sfz, no .sf2, no .wav or .flac. Choose the folder or zip that holds them.',
      )
    );
  return scan;
}

export const baseName = (path: string) =>
  path.slice(path.lastIndexOf('/') + 1).replace(/\.(sfz|sf[23]|wave?|flac?)$/i, '');

const audioPaths = (source: FileSource) => source.paths.filter((path) => AUDIO_FILE.test(path)).sort();

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

const textOf = (bytes: Uint8Array) => new TextDecoder('utf-8').decode(bytes).replace(/^\uFEFF/, '');

/** Libraries written on systems that do not tell case apart must still find their files. */
export function pathFinder(paths: readonly string[]): (path: string) => string | undefined {
  const exact = new Set(paths);
  const folded = new Map(paths.map((path) => [path.toLowerCase(), path]));
  return (path) => (exact.has(path) ? path : folded.get(path.toLowerCase()));
}

async function scanSfz(source: FileSource, root: string): Promise<FoundFile> {
  const findPath = pathFinder(source.paths);
  const texts = new Map<string, string>();
  for (const path of source.paths)
    if (/\.(sfz|txt|inc|h)$/i.test(path)) texts.set(path, textOf(await source.read(path)));
  const file = readSfz(root, (path) => {
    const found = findPath(path);
    return found === undefined ? undefined : texts.get(found);
  });
  const facts = new Map<string, SampleFacts>();
  for (const region of file.regions) {
    const sample = region.opcodes.get('sample');
    if (!sample || sample.value.startsWith('*') || facts.has(sample.value)) continue;
    const found = findPath(sample.value);
    if (found === undefined)
      throw new FarloError(
        'sfz.sample-missing',
        `The sample “${sample.value}” is not among the files. Add it, or choose the folder above.`,
        sample.place,
      );
    facts.set(sample.value, audioFacts(await source.read(found), found));
  }
  const { found, unsupported, rests } = foundInSfz(file, facts, baseName(root));
  if (found.length === 0)
    throw new FarloError('sfz.nothing-to-play', 'No region of this instrument can be played.', {
      file: root,
    });
  return {
    name: baseName(root),
    zones: found,
    remarks: unsupported.map(({ opcode, reason, count, place }) => ({
      opcode,
      reason,
      count,
      place: `${place.file ?? root}, line ${place.line ?? 0}`,
    })),
    audio: async (sample) => {
      const path = findPath(sample) ?? sample;
      return readAudio(await source.read(path), path);
    },
    keepsRates: false,
    programs: new Map(),
    rests,
  };
}

async function scanFont(source: FileSource, path: string): Promise<FoundFile> {
  const font = readSoundFont(await source.read(path), path);
  const { found, unsupported } = foundInSoundFont(font);
  if (found.length === 0)
    throw new FarloError('sfz.nothing-to-play', 'No preset of this SoundFont can be played.', { file: path });
  const programs = new Map<string, number>();
  for (const preset of font.presets)
    programs.set(preset.name, preset.bank < 128 ? preset.program : KIT_PROGRAM);
  return {
    name: baseName(path),
    // Its number tells a sample within one font; there may be several.
    zones: found.map((one) => ({ ...one, sample: `${path}: ${one.sample}` })),
    remarks: unsupported.map((remark) => ({ ...remark, place: remark.place.file ?? path })),
    audio: (sample) => Promise.resolve(fontAudio(font, fontSample(sample)?.index ?? 0)),
    keepsRates: true,
    programs,
  };
}

const FONT_SAMPLE = /^(.+): sample (\d+)$/;
/** The font and the number of what a zone of a SoundFont calls its sample; undefined for anything else. */
export function fontSample(sample: string): { font: string; index: number } | undefined {
  const named = FONT_SAMPLE.exec(sample);
  return named ? { font: named[1], index: Number(named[2]) } : undefined;
}

/** One sample of a SoundFont as a recording: 16 bits, or 24 where the file has the bits below. */
export function fontAudio(font: SoundFont, index: number): WavAudio {
  const { start, end, rate } = font.samples[index];
  const channel = new Float32Array(end - start);
  for (let i = start; i < end; i++)
    channel[i - start] = font.low ? (font.audio[i] * 256 + font.low[i]) / 8_388_608 : font.audio[i] / 32_768;
  return { rate, format: font.low ? 'i24' : 'i16', channels: [channel], loops: [] };
}

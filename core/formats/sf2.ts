import { FarloError } from '../errors/index.ts';
import { ByteReader } from './byte-reader.ts';

/**
 * SoundFont 2 (SoundFont Technical Specification 2.04): bytes to records. What the records mean for playing is worked
 * out in `sf2-found`.
 */

/** A generator: operator number and its 16-bit amount, as it lies in the file. */
export interface Sf2Generator {
  operator: number;
  amount: number;
}

/** A modulator, sources and transform as packed numbers. */
export interface Sf2Modulator {
  source: number;
  target: number;
  amount: number;
  amountSource: number;
}

export interface Sf2Zone {
  generators: Sf2Generator[];
  modulators: Sf2Modulator[];
}

/** A preset or an instrument: its zones, the global one first where there is one. */
export interface Sf2Bundle {
  name: string;
  zones: Sf2Zone[];
}

export interface Sf2Preset extends Sf2Bundle {
  bank: number;
  program: number;
}

export interface Sf2Sample {
  name: string;
  /** Frames [start, end) in the whole file's audio. */
  start: number;
  end: number;
  /** Relative to `start`. */
  loopStart: number;
  loopEnd: number;
  rate: number;
  rootKey: number;
  tuneCents: number;
}

export interface SoundFont {
  name: string;
  presets: Sf2Preset[];
  instruments: Sf2Bundle[];
  samples: Sf2Sample[];
  /** All audio, 16 bits; with `low` the 8 bits below, where the file has them. */
  audio: Int16Array;
  low: Uint8Array | undefined;
}

interface Chunk {
  id: string;
  start: number;
  size: number;
}

const MOST_RECORDS = 1_000_000;
const ROM = 0x8000;
/** Set by files whose recordings are compressed (.sf3). */
const COMPRESSED = 0x10;

/** @throws FarloError naming file and byte when anything is missing or points outside */
export function readSoundFont(bytes: Uint8Array, file: string): SoundFont {
  const reader = new ByteReader(bytes, file);
  if (reader.tag('The file header') !== 'RIFF')
    throw new FarloError('file.not-this-format', 'This is no SoundFont: it does not begin with “RIFF”.', {
      file,
      byte: 0,
    });
  reader.u32le('The file header');
  if (reader.tag('The file header') !== 'sfbk')
    throw new FarloError('file.not-this-format', 'This RIFF file holds something other than a SoundFont.', {
      file,
      byte: 8,
    });
  const lists = new Map<string, Map<string, Chunk>>();
  for (const chunk of chunksIn(reader, 12, bytes.length - 12)) {
    if (chunk.id !== 'LIST') continue;
    reader.at = chunk.start;
    lists.set(reader.tag('A list'), byId(chunksIn(reader, chunk.start + 4, chunk.size - 4)));
  }
  const data = lists.get('pdta');
  const sound = lists.get('sdta')?.get('smpl');
  if (!data) throw damaged(file, 'It has no description of its presets (“pdta”).');
  if (!sound)
    throw new FarloError(
      'file.unsupported',
      'It holds no audio of its own (“smpl”). Sounds in the memory of a device cannot be played.',
      { file },
    );
  const audio = int16At(bytes, sound);
  const lowChunk = lists.get('sdta')?.get('sm24');
  const low =
    lowChunk && lowChunk.size >= audio.length
      ? bytes.subarray(lowChunk.start, lowChunk.start + audio.length)
      : undefined;
  const pdta = new Pdta(reader, data);
  const samples = pdta.samples(audio.length);
  const instruments = pdta.bundles('inst', 'ibag', 'imod', 'igen');
  const presets = pdta.bundles('phdr', 'pbag', 'pmod', 'pgen') as Sf2Preset[];
  const info = lists.get('INFO')?.get('INAM');
  return {
    name: info ? textAt(bytes, info.start, info.size) : '',
    presets: [...presets].sort((a, b) => a.bank - b.bank || a.program - b.program),
    instruments,
    samples,
    audio,
    low,
  };
}

const damaged = (file: string, sentence: string, byte?: number) =>
  new FarloError('file.damaged', sentence, { file, ...(byte === undefined ? {} : { byte }) });

const byId = (chunks: readonly Chunk[]) => new Map(chunks.map((chunk) => [chunk.id, chunk]));

function chunksIn(reader: ByteReader, start: number, size: number): Chunk[] {
  const chunks: Chunk[] = [];
  reader.at = start;
  const end = start + size;
  while (reader.at + 8 <= end) {
    const id = reader.tag('A chunk header');
    const length = reader.u32le('A chunk header');
    reader.need(length, `The “${id}” chunk`);
    chunks.push({ id, start: reader.at, size: length });
    reader.at = Math.min(reader.bytes.length, reader.at + length + (length & 1));
  }
  return chunks;
}

function int16At(bytes: Uint8Array, chunk: Chunk): Int16Array {
  const count = chunk.size >> 1;
  const audio = new Int16Array(count);
  const view = new DataView(bytes.buffer, bytes.byteOffset + chunk.start, count * 2);
  for (let i = 0; i < count; i++) audio[i] = view.getInt16(2 * i, true);
  return audio;
}

/** Text up to its zero byte; bytes beyond ASCII are read as Latin-1. */
function textAt(bytes: Uint8Array, start: number, length: number): string {
  let text = '';
  for (let i = start; i < start + length && bytes[i] !== 0; i++)
    text += bytes[i] >= 32 ? String.fromCharCode(bytes[i]) : ' ';
  return text.trim();
}

/** The tables of the “pdta” list. */
class Pdta {
  constructor(
    private readonly reader: ByteReader,
    private readonly chunks: ReadonlyMap<string, Chunk>,
  ) {}

  private table(id: string, width: number): { start: number; count: number } {
    const { file } = this.reader;
    const chunk = this.chunks.get(id);
    if (!chunk) throw damaged(file, `Its “${id}” table is missing.`);
    if (chunk.size % width !== 0 || chunk.size < width)
      throw damaged(file, `Its “${id}” table has ${chunk.size} bytes, no multiple of ${width}.`, chunk.start);
    const count = chunk.size / width;
    if (count > MOST_RECORDS)
      throw new FarloError('file.too-large', `Its “${id}” table has ${count} entries.`, { file });
    return { start: chunk.start, count };
  }

  /** Presets or instruments with their zones; the last entry of each table only ends it. */
  bundles(head: string, bag: string, mod: string, gen: string): Sf2Bundle[] {
    const { view, bytes, file } = this.reader;
    const width = head === 'phdr' ? 38 : 22;
    const heads = this.table(head, width);
    const bags = this.table(bag, 4);
    const gens = this.table(gen, 4);
    const mods = this.table(mod, 10);
    const bagAt = head === 'phdr' ? 24 : 20;
    const index = (table: string, value: number, last: number, byte: number) => {
      if (value > last)
        throw damaged(file, `An entry points to “${table}” ${value}, but there are only ${last}.`, byte);
      return value;
    };
    const out: Sf2Bundle[] = [];
    for (let h = 0; h + 1 < heads.count; h++) {
      const at = heads.start + h * width;
      const from = index(bag, view.getUint16(at + bagAt, true), bags.count - 1, at + bagAt);
      const to = index(bag, view.getUint16(at + width + bagAt, true), bags.count - 1, at + width + bagAt);
      if (to < from) throw damaged(file, `The zones of “${textAt(bytes, at, 20)}” run backwards.`, at);
      const zones: Sf2Zone[] = [];
      for (let b = from; b < to; b++) {
        const z = bags.start + b * 4;
        const g0 = index(gen, view.getUint16(z, true), gens.count - 1, z);
        const g1 = index(gen, view.getUint16(z + 4, true), gens.count - 1, z + 4);
        const m0 = index(mod, view.getUint16(z + 2, true), mods.count - 1, z + 2);
        const m1 = index(mod, view.getUint16(z + 6, true), mods.count - 1, z + 6);
        zones.push({
          generators: range(g0, g1, (g) => ({
            operator: view.getUint16(gens.start + g * 4, true),
            amount: view.getInt16(gens.start + g * 4 + 2, true),
          })),
          modulators: range(m0, m1, (m) => ({
            source: view.getUint16(mods.start + m * 10, true),
            target: view.getUint16(mods.start + m * 10 + 2, true),
            amount: view.getInt16(mods.start + m * 10 + 4, true),
            amountSource: view.getUint16(mods.start + m * 10 + 6, true),
          })),
        });
      }
      const bundle: Sf2Bundle = { name: textAt(bytes, at, 20), zones };
      out.push(
        head === 'phdr'
          ? ({
              ...bundle,
              program: view.getUint16(at + 20, true),
              bank: view.getUint16(at + 22, true),
            } as Sf2Preset)
          : bundle,
      );
    }
    return out;
  }

  samples(audioFrames: number): Sf2Sample[] {
    const { view, bytes, file } = this.reader;
    const table = this.table('shdr', 46);
    const out: Sf2Sample[] = [];
    for (let s = 0; s + 1 < table.count; s++) {
      const at = table.start + s * 46;
      const name = textAt(bytes, at, 20);
      const [start, end, loopStart, loopEnd, rate] = [20, 24, 28, 32, 36].map((offset) =>
        view.getUint32(at + offset, true),
      );
      const type = view.getUint16(at + 44, true);
      if ((type & COMPRESSED) !== 0)
        throw new FarloError(
          'file.unsupported',
          'The recordings of this SoundFont are compressed (Ogg Vorbis inside, as in .sf3). Convert it to a plain .sf2, and take that in.',
          { file, byte: at + 44 },
        );
      const inside = end > start && end <= audioFrames && (type & ROM) === 0;
      if (!inside && (type & ROM) === 0 && end > start)
        throw damaged(
          file,
          `The sample “${name}” reaches to frame ${end}, but the file holds only ${audioFrames}.`,
          at,
        );
      const root = bytes[at + 40];
      out.push({
        name,
        start: inside ? start : 0,
        end: inside ? end : 0,
        loopStart: loopStart - start,
        loopEnd: loopEnd - start,
        rate: rate >= 400 && rate <= 192_000 ? rate : 44_100,
        rootKey: root <= 127 ? root : 60,
        tuneCents: view.getInt8(at + 41),
      });
    }
    return out;
  }
}

function range<T>(from: number, to: number, make: (i: number) => T): T[] {
  return Array.from({ length: Math.max(0, to - from) }, (_, i) => make(from + i));
}

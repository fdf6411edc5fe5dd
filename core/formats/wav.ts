import { FarloError } from '../errors/index.ts';
import { ByteReader } from './byte-reader.ts';

/** How samples of a WAV file are stored. */
export type WavFormat = 'i16' | 'i24' | 'i32' | 'f32';

/** Audio of a WAV file: one array per channel, full scale ±1. Loops are frames [start, end). */
export interface WavAudio {
  rate: number;
  format: WavFormat;
  channels: Float32Array[];
  loops: { start: number; end: number }[];
}

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
const MOST_FRAMES = 0x7fffffff;

interface Chunk {
  start: number;
  size: number;
}

/** Chunks of a RIFF or RF64 file by id, the first of each kind. */
function chunksOf(reader: ByteReader): Map<string, Chunk> {
  const { file } = reader;
  const magic = reader.tag('The file header');
  if (magic !== 'RIFF' && magic !== 'RF64')
    throw new FarloError(
      'file.not-this-format',
      `This is no WAV file: it begins with “${magic}”, not “RIFF”.`,
      { file, byte: 0 },
    );
  reader.u32le('The file header');
  if (reader.tag('The file header') !== 'WAVE')
    throw new FarloError('file.not-this-format', 'This RIFF file holds something other than WAVE audio.', {
      file,
      byte: 8,
    });
  const chunks = new Map<string, Chunk>();
  let longData: number | undefined;
  while (reader.left >= 8) {
    const id = reader.tag('A chunk header');
    let size = reader.u32le('A chunk header');
    if (id === 'ds64') {
      reader.need(24, 'The size chunk of the RF64 file');
      longData =
        reader.view.getUint32(reader.at + 8, true) + reader.view.getUint32(reader.at + 12, true) * 2 ** 32;
    }
    if (id === 'data' && size === 0xffffffff && longData !== undefined) size = longData;
    reader.need(size, `The “${id}” chunk`);
    if (!chunks.has(id)) chunks.set(id, { start: reader.at, size });
    reader.at = Math.min(reader.bytes.length, reader.at + size + (size & 1));
  }
  return chunks;
}

/** What the header of a WAV file says. */
export interface WavFacts {
  rate: number;
  format: WavFormat;
  channels: number;
  frames: number;
  loops: WavAudio['loops'];
  /** Root key, where the file names one together with its loops. */
  rootKey?: number;
}

/**
 * Reads the header of a WAV file (plain, EXTENSIBLE or RF64), mono or stereo, with its loops, and no audio.
 * @param mostChannels that are taken; two unless given
 * @throws FarloError naming the file and the byte when anything is missing or unlike the format
 */
export function wavFacts(bytes: Uint8Array, file: string, mostChannels = 2): WavFacts {
  return layoutOf(bytes, file, mostChannels).facts;
}

/**
 * Reads 16, 24 or 32-bit integer or 32-bit float WAV (plain, EXTENSIBLE or RF64), mono or stereo, with its loops.
 * @param mostChannels that are taken; two unless given
 * @throws FarloError naming the file and the byte when anything is missing or unlike the format
 */
export function readWav(bytes: Uint8Array, file: string, mostChannels = 2): WavAudio {
  const { facts, data } = layoutOf(bytes, file, mostChannels);
  const { format, rate, frames, loops } = facts;
  const width = bytesPerSample(format);
  const view = new DataView(bytes.buffer, bytes.byteOffset + data.start, data.size);
  const channels = Array.from({ length: facts.channels }, () => new Float32Array(frames));
  if (format === 'i16' && LITTLE_ENDIAN) {
    decode16(bytes.slice(data.start, data.start + frames * facts.channels * 2), channels);
    return { rate, format, channels, loops };
  }
  const readSample = sampleReader(format, view);
  for (let i = 0, at = 0; i < frames; i++)
    for (let c = 0; c < facts.channels; c++, at += width) channels[c][i] = readSample(at);
  return { rate, format, channels, loops };
}

/** Says that a file has more channels than can be taken. */
export const tooManyChannels = (channels: number, most: number): string =>
  `The file has ${channels} channels; Farlo takes ${most === 2 ? 'one or two' : `${most} at most`}.`;

function layoutOf(bytes: Uint8Array, file: string, mostChannels: number): { facts: WavFacts; data: Chunk } {
  const reader = new ByteReader(bytes, file);
  const chunks = chunksOf(reader);
  const fmt = chunks.get('fmt ');
  const data = chunks.get('data');
  if (!fmt || !data)
    throw new FarloError(
      'file.damaged',
      `The WAV file has no ${fmt ? 'audio (“data” chunk)' : 'description (“fmt ” chunk)'}.`,
      { file, byte: 12 },
    );
  reader.at = fmt.start;
  if (fmt.size < 16)
    throw new FarloError('file.damaged', 'The “fmt ” chunk is too short.', { file, byte: fmt.start });
  let code = reader.u16le('The “fmt ” chunk');
  const channels = reader.u16le('The “fmt ” chunk');
  const rate = reader.u32le('The “fmt ” chunk');
  reader.u32le('The “fmt ” chunk');
  reader.u16le('The “fmt ” chunk');
  const bits = reader.u16le('The “fmt ” chunk');
  if (code === EXTENSIBLE && fmt.size >= 26) code = reader.view.getUint16(fmt.start + 24, true);
  const format = wavFormat(code, bits, file, fmt.start);
  if (channels < 1 || channels > mostChannels)
    throw new FarloError('file.unsupported', tooManyChannels(channels, mostChannels), {
      file,
      byte: fmt.start + 2,
    });
  if (rate < 8000 || rate > 192000)
    throw new FarloError('file.unsupported', `The sample rate ${rate} Hz is outside 8,000 to 192,000 Hz.`, {
      file,
      byte: fmt.start + 4,
    });
  const frames = Math.floor(data.size / (bytesPerSample(format) * channels));
  if (frames > MOST_FRAMES)
    throw new FarloError('file.too-large', 'The recording is too long.', { file, byte: data.start });
  const smpl = chunks.get('smpl');
  const loops = loopsOf(reader, smpl, frames);
  const key = smpl && smpl.size >= 36 ? reader.view.getUint32(smpl.start + 12, true) : 128;
  return {
    facts: {
      rate,
      format,
      channels,
      frames,
      loops,
      ...(key <= 127 && loops.length > 0 ? { rootKey: key } : {}),
    },
    data,
  };
}

function wavFormat(code: number, bits: number, file: string, byte: number): WavFormat {
  if (code === PCM && bits === 16) return 'i16';
  if (code === PCM && bits === 24) return 'i24';
  if (code === PCM && bits === 32) return 'i32';
  if (code === FLOAT && bits === 32) return 'f32';
  throw new FarloError(
    'file.unsupported',
    `The coding (format ${code}, ${bits} bits) is not one Farlo reads: 16, 24 or 32-bit integers or 32-bit floats. Save it in one of these.`,
    { file, byte },
  );
}

function sampleReader(format: WavFormat, view: DataView): (at: number) => number {
  switch (format) {
    case 'i16':
      return (at) => view.getInt16(at, true) / 32768;
    case 'i24':
      return (at) => ((view.getInt8(at + 2) << 16) | view.getUint16(at, true)) / 8388608;
    case 'i32':
      return (at) => view.getInt32(at, true) / 2147483648;
    case 'f32':
      return (at) => {
        const value = view.getFloat32(at, true);
        return Number.isFinite(value) ? value : 0;
      };
  }
}

function loopsOf(reader: ByteReader, chunk: Chunk | undefined, frameCount: number): WavAudio['loops'] {
  if (!chunk || chunk.size < 36) return [];
  const count = Math.min(reader.view.getUint32(chunk.start + 28, true), Math.floor((chunk.size - 36) / 24));
  const loops: WavAudio['loops'] = [];
  for (let i = 0; i < count; i++) {
    const at = chunk.start + 36 + i * 24;
    const start = reader.view.getUint32(at + 8, true);
    // The chunk gives the last frame played; Farlo's end is exclusive.
    const end = reader.view.getUint32(at + 12, true) + 1;
    if (end <= frameCount && end > start) loops.push({ start, end });
  }
  return loops;
}

/** Header of a WAV file with `frameCount` frames; the audio must follow at once. */
export function wavHeader(format: WavFormat, rate: number, channels: number, frameCount: number): Uint8Array {
  const width = bytesPerSample(format);
  const dataSize = frameCount * channels * width;
  const bytes = new Uint8Array(44);
  const view = new DataView(bytes.buffer);
  writeTag(bytes, 0, 'RIFF');
  view.setUint32(4, 36 + dataSize, true);
  writeTag(bytes, 8, 'WAVE');
  writeTag(bytes, 12, 'fmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, format === 'f32' ? FLOAT : PCM, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * channels * width, true);
  view.setUint16(32, channels * width, true);
  view.setUint16(34, width * 8, true);
  writeTag(bytes, 36, 'data');
  view.setUint32(40, dataSize, true);
  return bytes;
}

/** Bytes of one sample of a format. */
export function bytesPerSample(format: WavFormat): number {
  return format === 'i16' ? 2 : format === 'i24' ? 3 : 4;
}

function writeTag(bytes: Uint8Array, at: number, tag: string): void {
  for (let i = 0; i < 4; i++) bytes[at + i] = tag.charCodeAt(i);
}

/**
 * Interleaves and codes frames [from, to). Integers are rounded and held within full scale; ±1 is full scale.
 */
export function encodeFrames(
  channels: readonly Float32Array[],
  format: WavFormat,
  from: number,
  to: number,
): Uint8Array {
  if (format === 'i16' && LITTLE_ENDIAN) return encode16(channels, from, to);
  const width = bytesPerSample(format);
  const bytes = new Uint8Array((to - from) * channels.length * width);
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (let i = from; i < to; i++)
    for (const channel of channels) {
      const value = channel[i];
      if (format === 'f32') view.setFloat32(at, value, true);
      else if (format === 'i16') view.setInt16(at, hold(value * 32768, 32767), true);
      else if (format === 'i32') view.setInt32(at, hold(value * 2147483648, 2147483647), true);
      else {
        const coded = hold(value * 8388608, 8388607);
        view.setUint16(at, coded & 0xffff, true);
        view.setInt8(at + 2, coded >> 16);
      }
      at += width;
    }
  return bytes;
}

const LITTLE_ENDIAN = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

/** @param bytes of the audio alone, at the start of their own buffer */
function decode16(bytes: Uint8Array, channels: readonly Float32Array[]): void {
  const values = new Int16Array(bytes.buffer, 0, bytes.length >> 1);
  const width = channels.length;
  channels.forEach((channel, c) => {
    for (let i = 0, at = c; i < channel.length; i++, at += width) channel[i] = values[at] / 32768;
  });
}

/** The common case without a view: a whole library is coded in seconds instead of a minute. */
function encode16(channels: readonly Float32Array[], from: number, to: number): Uint8Array {
  const width = channels.length;
  const out = new Int16Array((to - from) * width);
  channels.forEach((channel, c) => {
    for (let i = from, at = c; i < to; i++, at += width) {
      const value = channel[i] * 32768;
      // Rounded as `Math.round` does, without leaving whole numbers; what is no number is silence.
      if (value >= 32767) out[at] = 32767;
      else if (value > -32768) out[at] = ((value + 32768.5) | 0) - 32768;
      else out[at] = value <= -32768 ? -32768 : 0;
    }
  });
  return new Uint8Array(out.buffer);
}

function hold(value: number, highest: number): number {
  const rounded = Math.round(value);
  return rounded > highest ? highest : rounded < -highest - 1 ? -highest - 1 : rounded;
}

/** A whole WAV file. Allocates. */
export function writeWav(audio: Pick<WavAudio, 'rate' | 'format' | 'channels'>): Uint8Array {
  const count = audio.channels[0]?.length ?? 0;
  const header = wavHeader(audio.format, audio.rate, audio.channels.length, count);
  const body = encodeFrames(audio.channels, audio.format, 0, count);
  const bytes = new Uint8Array(header.length + body.length);
  bytes.set(header);
  bytes.set(body, header.length);
  return bytes;
}

import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { FarloError } from '#core/errors/index.ts';
import { tooManyChannels, type WavAudio } from '#core/formats/index.ts';

/** What of the decoder is used here; its own types speak of browsers. */
interface FlacDecoder {
  decode(bytes: Uint8Array): boolean;
  getSamples(interleaved: false): Uint8Array[];
  getState(): number;
  destroy(): void;
  /** Whether it met a frame whose checksum is wrong, or something that is no frame. */
  readonly _isError: boolean;
  metadata?: { sampleRate: number; channels: number; bitsPerSample: number; total_samples: number };
}
interface FlacLibrary {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
}

const MOST_FRAMES = 2 ** 29;
let opening: Promise<{ flac: FlacLibrary; Decoder: new (flac: FlacLibrary) => FlacDecoder }> | undefined;

/** Loads the decoder once. It would fetch its binary by HTTP if it saw `fetch`, so that is hidden meanwhile. */
function openLibrary() {
  opening ??= (async () => {
    const require = createRequire(import.meta.url);
    const { fetch } = globalThis;
    let flac: FlacLibrary;
    try {
      Object.assign(globalThis, { fetch: undefined });
      flac = (require('libflacjs') as (variant: string) => FlacLibrary)('wasm');
      if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', () => resolve()));
    } finally {
      Object.assign(globalThis, { fetch });
    }
    const { Decoder } = require('libflacjs/lib/decoder') as {
      Decoder: new (flac: FlacLibrary) => FlacDecoder;
    };
    return { flac, Decoder };
  })();
  return opening;
}

/** What the first block of a FLAC file says, without decoding. @throws FarloError naming the file */
export function flacFacts(
  bytes: Uint8Array,
  file: string,
  mostChannels = 2,
): { frames: number; rate: number; channels: number } {
  // After an optional ID3 tag: “fLaC”, block header of 4 bytes, then STREAMINFO.
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 42 || String.fromCharCode(...bytes.subarray(0, 4)) !== 'fLaC')
    throw new FarloError('file.not-this-format', 'This is no FLAC file.', { file, byte: 0 });
  const packed = view.getUint32(18, false);
  const rate = packed >>> 12;
  const channels = ((packed >>> 9) & 7) + 1;
  const frames = (view.getUint8(21) & 15) * 2 ** 32 + view.getUint32(22, false);
  if (rate < 8000 || rate > 192_000)
    throw new FarloError('file.unsupported', `The sample rate ${rate} Hz is outside 8,000 to 192,000 Hz.`, {
      file,
      byte: 18,
    });
  if (channels > mostChannels)
    throw new FarloError('file.unsupported', tooManyChannels(channels, mostChannels), {
      file,
      byte: 20,
    });
  if (frames > MOST_FRAMES)
    throw new FarloError('file.too-large', 'The recording is too long.', { file, byte: 21 });
  return { frames, rate, channels };
}

/** Decodes a FLAC file whole. @throws FarloError when it is damaged or shorter than it says */
export async function readFlac(bytes: Uint8Array, file: string, mostChannels = 2): Promise<WavAudio> {
  const facts = flacFacts(bytes, file, mostChannels);
  const { flac, Decoder } = await openLibrary();
  const decoder = new Decoder(flac);
  try {
    const done = decoder.decode(bytes);
    const { metadata } = decoder;
    const samples = done ? decoder.getSamples(false) : [];
    const bits = metadata?.bitsPerSample ?? 16;
    // 24 bits come in four bytes, sign extended.
    const width = bits <= 8 ? 1 : bits <= 16 ? 2 : 4;
    const frames = (samples[0]?.length ?? 0) / width;
    if (!metadata || samples.length === 0 || (facts.frames > 0 && frames !== facts.frames))
      throw new FarloError(
        'file.damaged',
        `The FLAC file is damaged or ends early (${Math.floor(frames)} of ${facts.frames} frames could be read). Copy it again from its source.`,
        { file },
      );
    if (decoder._isError || !hasItsSum(bytes, samples, width, Math.ceil(bits / 8)))
      throw new FarloError(
        'file.damaged',
        'The FLAC file is damaged: its audio does not have the checksum it was written with. Copy it again from its source.',
        { file },
      );
    return {
      rate: metadata.sampleRate,
      format: bits <= 16 ? 'i16' : 'i24',
      channels: samples.map((channel) => toFloats(channel, width, bits)),
      loops: [],
    };
  } finally {
    decoder.destroy();
  }
}

/** Compares the MD5 sum that STREAMINFO holds (zeros mean none) with that of the decoded audio. */
function hasItsSum(
  bytes: Uint8Array,
  samples: readonly Uint8Array[],
  width: number,
  written: number,
): boolean {
  const wanted = Buffer.from(bytes.subarray(26, 42));
  if (wanted.every((byte) => byte === 0)) return true;
  const frames = samples[0].length / width;
  const interleaved = new Uint8Array(frames * samples.length * written);
  let at = 0;
  for (let i = 0; i < frames; i++)
    for (const channel of samples)
      for (let b = 0; b < written; b++) interleaved[at++] = channel[i * width + b];
  return createHash('md5').update(interleaved).digest().equals(wanted);
}

function toFloats(bytes: Uint8Array, width: number, bits: number): Float32Array {
  const out = new Float32Array(bytes.length / width);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const scale = 1 / 2 ** (bits - 1);
  for (let i = 0; i < out.length; i++) {
    let value: number;
    if (width === 1) value = view.getInt8(i);
    else if (width === 2) value = view.getInt16(2 * i, true);
    else value = view.getInt32(4 * i, true);
    out[i] = value * scale;
  }
  return out;
}

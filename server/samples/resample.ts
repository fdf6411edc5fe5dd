import SpeexResampler from '@echogarden/speex-resampler-wasm';

/** The functions of the compiled resampler that are used here. */
interface Speex {
  _malloc(bytes: number): number;
  _free(pointer: number): void;
  _speex_resampler_init(channels: number, from: number, to: number, quality: number, error: number): number;
  _speex_resampler_skip_zeros(state: number): number;
  _speex_resampler_process_float(
    state: number,
    channel: number,
    input: number,
    inputFrames: number,
    output: number,
    outputFrames: number,
  ): number;
  _speex_resampler_destroy(state: number): void;
  HEAPF32: Float32Array;
  HEAPU32: Uint32Array;
}

const BEST = 10;
const CHUNK = 65_536;
/** Silence fed in after the end, so that the filter's delay comes out: more than its longest half at quality 10. */
const FLUSH = 2048;
let opening: Promise<Speex> | undefined;

/** Converts a channel to another sample rate; the result has round(frames × to / from) frames, in time with the source. */
export async function resample(channel: Float32Array, from: number, to: number): Promise<Float32Array> {
  opening ??= (SpeexResampler as () => Promise<Speex>)();
  const speex = await opening;
  const wanted = Math.round((channel.length * to) / from);
  const out = new Float32Array(wanted);
  const most = Math.ceil(((CHUNK + FLUSH) * to) / from) + 64;
  const input = speex._malloc(CHUNK * 4);
  const output = speex._malloc(most * 4);
  const counts = speex._malloc(8);
  const state = speex._speex_resampler_init(1, from, to, BEST, 0);
  if (state === 0) throw new Error(`no resampler from ${from} to ${to} Hz`);
  try {
    speex._speex_resampler_skip_zeros(state);
    let read = 0;
    let written = 0;
    const silence = new Float32Array(FLUSH);
    while (written < wanted) {
      const ended = read >= channel.length;
      const chunk = ended ? silence : channel.subarray(read, read + CHUNK);
      speex.HEAPF32.set(chunk, input >> 2);
      speex.HEAPU32[counts >> 2] = chunk.length;
      speex.HEAPU32[(counts >> 2) + 1] = most;
      speex._speex_resampler_process_float(state, 0, input, counts, output, counts + 4);
      const used = speex.HEAPU32[counts >> 2];
      const made = Math.min(speex.HEAPU32[(counts >> 2) + 1], wanted - written);
      out.set(speex.HEAPF32.subarray(output >> 2, (output >> 2) + made), written);
      written += made;
      if (!ended) read += used;
      if (ended && made === 0 && used === 0) break;
    }
    return out;
  } finally {
    speex._speex_resampler_destroy(state);
    for (const pointer of [input, output, counts]) speex._free(pointer);
  }
}

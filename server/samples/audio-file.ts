import { FarloError } from '#core/errors/index.ts';
import { readWav, wavFacts, type SampleFacts, type WavAudio } from '#core/formats/index.ts';
import { flacFacts, readFlac } from './flac.ts';

/** Files that hold a recording, by the end of their names. */
export const AUDIO_FILE = /\.(wav|wave|flac|fla)$/i;
const FLAC_FILE = /\.(flac|fla)$/i;

/** What the header of a recording says. @throws FarloError naming the file */
export function audioFacts(
  bytes: Uint8Array,
  path: string,
  mostChannels = 2,
): SampleFacts & { channels: number } {
  const facts = FLAC_FILE.test(path)
    ? { ...flacFacts(bytes, path, mostChannels), loops: [] }
    : wavFacts(bytes, path, mostChannels);
  if (facts.frames === 0)
    throw new FarloError('file.damaged', 'The recording holds no audio.', { file: path });
  return facts;
}

/** A recording whole. @throws FarloError naming the file */
export async function readAudio(bytes: Uint8Array, path: string, mostChannels = 2): Promise<WavAudio> {
  const audio = FLAC_FILE.test(path)
    ? await readFlac(bytes, path, mostChannels)
    : readWav(bytes, path, mostChannels);
  if (audio.channels[0].length === 0)
    throw new FarloError('file.damaged', 'The recording holds no audio.', { file: path });
  return audio;
}

import { FarloError } from '#core/errors/index.ts';
import { readSoundFont, writeWav, type WavAudio } from '#core/formats/index.ts';
import { readAudio } from './audio-file.ts';
import type { FileSource } from './file-source.ts';
import { fontAudio, fontSample, pathFinder } from './scan.ts';

/** What is heard of a recording before it is taken in. */
const HEARD_SECONDS = 4;
const FADE_SECONDS = 0.1;
/** Larger SoundFonts are not read for one note. */
const MOST_FONT_BYTES = 256 * 2 ** 20;

/**
 * The beginning of one recording among files that wait to be taken in, as a WAV file of 16 bits.
 * @param sample as its file names it: a path, or a sample of a SoundFont as its zones name it
 * @throws FarloError when it is not there, damaged, or in a font too large to be read for it
 */
export async function hearSample(source: FileSource, sample: string): Promise<Uint8Array> {
  const { rate, channels } = await audioOf(source, sample);
  const frames = Math.min(channels[0].length, Math.round(HEARD_SECONDS * rate));
  const fade = Math.min(frames, Math.round(FADE_SECONDS * rate));
  const cut = channels.map((channel) =>
    channel.slice(0, frames).map((value, i) => value * Math.min(1, (frames - i) / fade)),
  );
  return writeWav({ rate, format: 'i16', channels: cut });
}

async function audioOf(source: FileSource, sample: string): Promise<WavAudio> {
  const path = pathFinder(source.paths)(sample);
  if (path !== undefined) return readAudio(await source.read(path), path);
  const named = fontSample(sample);
  const font = named && pathFinder(source.paths)(named.font);
  if (font === undefined || !named)
    throw new FarloError('not-found', 'This recording is not among the files.', { file: sample });
  if (source.size(font) > MOST_FONT_BYTES)
    throw new FarloError(
      'file.too-large',
      'This SoundFont is too large to be heard before it is taken in. Take it in; what you do not want can be taken off the shelf.',
      { file: font },
    );
  const read = readSoundFont(await source.read(font), font);
  if (named.index >= read.samples.length)
    throw new FarloError('not-found', 'This recording is not among the files.', { file: sample });
  return fontAudio(read, named.index);
}

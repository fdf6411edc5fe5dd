import { closeSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { FarloError } from '#core/errors/index.ts';
import { encodeFrames } from '#core/formats/index.ts';
import { LONGEST_REFERENCE_SECONDS } from '#core/listen/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { AUDIO_FILE, audioFacts, readAudio } from './audio-file.ts';
import { resample } from './resample.ts';
import type { Progress } from './take-in.ts';

const OUTLINE_POINTS = 1200;
const LOWEST_RATE = 8000;
const HIGHEST_RATE = 384_000;
const STRETCH = ENGINE_RATE * 10;

/** Where a reference's frames lie: stereo, 16 bits, 48 kHz, interleaved. */
export function referencePath(dataFolder: string, id: string): string {
  return join(dataFolder, 'references', `${id}.pcm`);
}

/**
 * Takes in a recording to hold sounds against: any rate, one or more channels (the first two are kept), up to an hour. The
 * file appears under its name only when it is complete.
 * @throws FarloError naming the file when it is no recording, damaged, or too long
 */
export async function takeReference(
  path: string,
  name: string,
  dataFolder: string,
  id: string,
  progress: Progress,
): Promise<{ frames: number; rate: number; outline: number[] }> {
  if (!AUDIO_FILE.test(name))
    throw new FarloError('file.unsupported', 'A reference must be a WAV or FLAC file.', { file: name });
  const bytes = new Uint8Array(readFileSync(path));
  const facts = audioFacts(bytes, name);
  if (facts.rate < LOWEST_RATE || facts.rate > HIGHEST_RATE)
    throw new FarloError('file.unsupported', `A rate of ${facts.rate} Hz cannot be converted.`, {
      file: name,
    });
  const seconds = facts.frames / facts.rate;
  if (seconds > LONGEST_REFERENCE_SECONDS)
    throw new FarloError(
      'file.too-large',
      `It lasts ${Math.ceil(seconds / 60)} minutes; an hour is the most. Cut the part you want to compare.`,
      { file: name },
    );
  progress(0.1, `Reading ${name}`);
  const audio = await readAudio(bytes, name);
  const kept = [audio.channels[0], audio.channels[Math.min(1, audio.channels.length - 1)]];
  const channels: Float32Array[] = [];
  for (const channel of kept) {
    channels.push(audio.rate === ENGINE_RATE ? channel : await resample(channel, audio.rate, ENGINE_RATE));
    progress(0.2 + 0.35 * channels.length, 'Converting');
  }
  const frames = channels[0].length;
  const final = referencePath(dataFolder, id);
  mkdirSync(dirname(final), { recursive: true });
  const draft = `${final}.part`;
  try {
    const file = openSync(draft, 'w');
    try {
      for (let at = 0; at < frames; at += STRETCH)
        writeSync(file, encodeFrames(channels, 'i16', at, Math.min(frames, at + STRETCH)));
    } finally {
      closeSync(file);
    }
    renameSync(draft, final);
  } catch (error) {
    rmSync(draft, { force: true });
    throw error;
  }
  return { frames, rate: audio.rate, outline: outlineOf(channels) };
}

function outlineOf(channels: readonly Float32Array[]): number[] {
  const frames = channels[0].length;
  const count = Math.min(OUTLINE_POINTS, frames);
  return Array.from({ length: count }, (_, p) => {
    let most = 0;
    for (const channel of channels)
      for (let i = Math.floor((p * frames) / count); i < Math.floor(((p + 1) * frames) / count); i++)
        most = Math.max(most, Math.abs(channel[i]));
    return Math.round(Math.min(1, most) * 1000) / 1000;
  });
}

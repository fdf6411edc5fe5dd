import { mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { FarloError } from '#core/errors/index.ts';
import { LONGEST_HALL_SECONDS, takeHall } from '#core/intake/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { AUDIO_FILE, audioFacts, readAudio } from './audio-file.ts';
import { resample } from './resample.ts';
import type { Progress } from './take-in.ts';

/** Silence around an impulse response is cut away, but nobody has so much of it. */
const LONGEST_FILE_SECONDS = 6 * LONGEST_HALL_SECONDS;
const MOST_CHANNELS = 4;

/** What was taken in of an impulse response. */
export interface HallFacts {
  channels: number;
  frames: number;
  decaySeconds: number;
  remarks: string[];
}

/** Where a hall's response lies: its channels one after the other, 32-bit floats, 48 kHz. */
export function hallPath(dataFolder: string, id: string): string {
  return join(dataFolder, 'halls', `${id}.f32`);
}

/**
 * Takes in an impulse response of any rate. The file appears under its name only when it is complete.
 * @throws FarloError naming the file when it is no impulse response
 */
export async function takeHallFile(
  path: string,
  name: string,
  dataFolder: string,
  id: string,
  progress: Progress,
): Promise<HallFacts> {
  if (!AUDIO_FILE.test(name))
    throw new FarloError('file.unsupported', 'An impulse response must be a WAV or FLAC file.', {
      file: name,
    });
  const bytes = new Uint8Array(readFileSync(path));
  const facts = audioFacts(bytes, name, MOST_CHANNELS);
  const refuse = (sentence: string) => new FarloError('file.unsupported', sentence, { file: name });
  if (facts.frames / facts.rate > LONGEST_FILE_SECONDS)
    throw refuse(
      `It lasts ${Math.ceil(facts.frames / facts.rate)} s; a hall rings ${LONGEST_HALL_SECONDS} s at most. Choose an impulse response.`,
    );
  progress(0.1, `Reading ${name}`);
  const audio = await readAudio(bytes, name, MOST_CHANNELS);
  const channels: Float32Array[] = [];
  for (const channel of audio.channels) {
    channels.push(audio.rate === ENGINE_RATE ? channel : await resample(channel, audio.rate, ENGINE_RATE));
    progress(0.2 + (0.6 * channels.length) / audio.channels.length, 'Converting');
  }
  const taken = takeHall(channels, name);
  const remarks =
    audio.rate === ENGINE_RATE
      ? taken.remarks
      : [`Converted from ${audio.rate} Hz to ${ENGINE_RATE} Hz.`, ...taken.remarks];
  const final = hallPath(dataFolder, id);
  mkdirSync(dirname(final), { recursive: true });
  const draft = `${final}.part`;
  const frames = taken.channels[0].length;
  const whole = new Float32Array(frames * taken.channels.length);
  taken.channels.forEach((channel, c) => whole.set(channel, c * frames));
  try {
    writeFileSync(draft, Buffer.from(whole.buffer));
    renameSync(draft, final);
  } catch (error) {
    rmSync(draft, { force: true });
    throw error;
  }
  return { channels: taken.channels.length, frames, decaySeconds: taken.decaySeconds, remarks };
}

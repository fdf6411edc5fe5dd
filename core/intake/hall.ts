import { FarloError } from '../errors/index.ts';
import { decayOf } from '../measure/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** An impulse response that is ready to be a hall. */
export interface TakenHall {
  /** One, two or four channels at 48 kHz, alike in length, their direct sound at the beginning. */
  channels: Float32Array[];
  decaySeconds: number;
  /** What was changed of it, in sentences. */
  remarks: string[];
}

/** How long a hall may ring. */
export const LONGEST_HALL_SECONDS = 10;
const SHORTEST_SECONDS = 0.05;
/** Below this nothing was recorded. */
const SILENT_DB = -80;
/** What lies so far below the peak before the direct sound is waiting, after it is the end. */
const BEFORE_DB = -40;
const AFTER_DB = -80;
const LEAD_FRAMES = 24;
/** A tail that is cut off at the longest length has to have fallen by this much. */
const FALLEN_DB = -40;
const STRETCH = 480;
const FADE_FRAMES = 960;

/**
 * Makes a hall of an impulse response: waits before its direct sound and silence after its end go, what is longer than ten seconds
 * is faded out where it has fallen far enough.
 * @param channels mono, stereo, or four: left source at the left and at the right, right source at the left and at the right; 48 kHz
 * @throws FarloError `file.unsupported` when it is silent, too short or too long, no decay, or of another number of channels
 */
export function takeHall(channels: readonly Float32Array[], file: string): TakenHall {
  const refuse = (sentence: string) => new FarloError('file.unsupported', sentence, { file });
  if (![1, 2, 4].includes(channels.length))
    throw refuse(
      `It has ${channels.length} channels. A hall has one, two, or four (left source at left and right, right source at left and right).`,
    );
  if (channels.some((channel) => channel.some((value) => !Number.isFinite(value))))
    throw refuse('It holds values that are no numbers. Export it again.');
  const loudness = levelsOf(channels);
  const peak = loudness.reduce((most, value) => Math.max(most, value), 0);
  if (peak < dbGain(SILENT_DB)) throw refuse('It is silent.');
  for (let c = 0; c < channels.length; c++)
    if (!channels[c].some((value) => Math.abs(value) > peak * dbGain(AFTER_DB)))
      throw refuse(`Channel ${c + 1} of it is silent: export it with fewer channels.`);
  const direct = channels.reduce(
    (first, channel) =>
      Math.min(
        first,
        channel.findIndex((value) => Math.abs(value) >= peak * dbGain(BEFORE_DB)),
      ),
    Infinity,
  );
  const from = Math.max(0, direct - LEAD_FRAMES);
  let last = loudness.length - 1;
  while (last > 0 && loudness[last] < peak * dbGain(AFTER_DB)) last--;
  const end = Math.min(channels[0].length, (last + 1) * STRETCH);
  if (end - from < SHORTEST_SECONDS * ENGINE_RATE)
    throw refuse('It lasts less than 50 ms: that is no hall. Choose an impulse response.');
  const remarks: string[] = [];
  const waited = from / ENGINE_RATE;
  if (waited > 0.005)
    remarks.push(
      `${Math.round(waited * 1000)} ms before its direct sound were cut; set a pre-delay instead.`,
    );
  const longest = LONGEST_HALL_SECONDS * ENGINE_RATE;
  const to = Math.min(end, from + longest);
  if (to < end) {
    const left = loudness.slice(Math.floor(to / STRETCH)).reduce((most, value) => Math.max(most, value), 0);
    if (left > peak * dbGain(FALLEN_DB))
      throw refuse(
        `It is ${((end - from) / ENGINE_RATE).toFixed(1)} s long and still sounds after ${LONGEST_HALL_SECONDS} s. Cut it to its decay, or choose an impulse response.`,
      );
    remarks.push(`It was cut at ${LONGEST_HALL_SECONDS} s, where it is hardly heard any more.`);
  }
  const decay = decayOf(channels, ENGINE_RATE, from, to);
  if (!decay) throw refuse('It does not die away. Choose an impulse response, not music.');
  const fade = Math.min(FADE_FRAMES, to - from);
  return {
    channels: channels.map((channel) => {
      const out = channel.slice(from, to);
      for (let i = 0; i < fade; i++) out[out.length - 1 - i] *= i / fade;
      return out;
    }),
    decaySeconds: Math.round(decay.seconds * 100) / 100,
    remarks,
  };
}

const dbGain = (db: number) => 10 ** (db / 20);

/** The loudest value of all channels in stretches of 10 ms. */
function levelsOf(channels: readonly Float32Array[]): number[] {
  return Array.from({ length: Math.ceil(channels[0].length / STRETCH) }, (_, s) => {
    let most = 0;
    for (const channel of channels)
      for (let i = s * STRETCH; i < Math.min(channel.length, (s + 1) * STRETCH); i++)
        most = Math.max(most, Math.abs(channel[i]));
    return most;
  });
}

/** Branded numbers of Farlo, the only conversions between them, and arithmetic that gives the same bits everywhere. */
import { ENGINE_RATE } from './engine-rate.ts';
import { exp10, exp2, log10 } from './exact.ts';

export * from './exact.ts';
export * from './engine-rate.ts';
export * from './course.ts';

declare const unit: unique symbol;
type Unit<Name extends string> = number & { readonly [unit]: Name };

/** Seconds of real time. */
export type Seconds = Unit<'seconds'>;
/** Musical time: 960 per quarter note, integer where stored. */
export type Ticks = Unit<'ticks'>;
/** Audio time: one frame holds one sample of every channel. */
export type Frames = Unit<'frames'>;
/** Cycles per second. */
export type Hertz = Unit<'hertz'>;
/** Level relative to unity gain. */
export type Decibels = Unit<'decibels'>;
/** Linear amplitude factor, 1 = unity. */
export type LinearGain = Unit<'gain'>;
/** MIDI key number 0…127, 60 is middle C. */
export type MidiNote = Unit<'midi-note'>;
/** Hundredths of an equal-tempered semitone. */
export type Cents = Unit<'cents'>;

/** Ticks in one quarter note. */
export const TICKS_PER_QUARTER = 960;
/** Speed of sound in air at 20 °C, metres per second. */
export const SPEED_OF_SOUND = 343;
/** Level below which Farlo treats a gain as silence. */
export const SILENCE_DB = -96;

/** Amplitude factor for a level: 10^(dB/20); anything at or below −96 dB is exactly 0. */
export function dbToGain(levelDb: number): LinearGain {
  return (levelDb <= SILENCE_DB ? 0 : exp10(levelDb / 20)) as LinearGain;
}

/** Level in dB of an amplitude factor; 0 and below give −∞. */
export function gainToDb(gain: number): Decibels {
  return (gain > 0 ? 20 * log10(gain) : -Infinity) as Decibels;
}

/** Frequency of a (fractional) MIDI key in equal temperament, A4 = key 69 = 440 Hz. */
export function midiToHertz(note: number): Hertz {
  return (440 * exp2((note - 69) / 12)) as Hertz;
}

/** Playback rate for a shift in cents: 2^(cents/1200). */
export function centsToRatio(shiftCents: number): number {
  return exp2(shiftCents / 1200);
}

/** Nearest frame to a time; the rate is in hertz. */
export function secondsToFrames(time: number, rate: number = ENGINE_RATE): Frames {
  return Math.round(time * rate) as Frames;
}

/** Travel time of sound over a distance in metres. */
export function distanceToSeconds(metres: number): Seconds {
  return (metres / SPEED_OF_SOUND) as Seconds;
}

/** “1 note”, “3 notes”. */
export const counted = (count: number, one: string, more = `${one}s`): string =>
  `${count} ${count === 1 ? one : more}`;

/** Value held within [low, high]; NaN becomes low. */
export function clamp(value: number, low: number, high: number): number {
  return value >= low ? (value <= high ? value : high) : low;
}

import { changeAt } from './time-spans.ts';

/** Key signatures, and how keys are spelled in them. */

/** A key signature from a tick on: sharps above 0, flats below, −7 … 7. */
export interface KeyChange {
  tick: number;
  fifths: number;
}

export const MOST_FIFTHS = 7;

/** Major and minor key of each signature, from seven flats to seven sharps. */
const NAMES = [
  'C♭ · a♭',
  'G♭ · e♭',
  'D♭ · b♭',
  'A♭ · f',
  'E♭ · c',
  'B♭ · g',
  'F · d',
  'C · a',
  'G · e',
  'D · b',
  'A · f♯',
  'E · c♯',
  'B · g♯',
  'F♯ · d♯',
  'C♯ · a♯',
];

/** “B♭ · g” of two flats. @param fifths −7 … 7 */
export const keyName = (fifths: number): string => NAMES[fifths + MOST_FIFTHS];

/** The signature that holds at a tick: none (C) before the first. */
export function fifthsAt(keys: readonly KeyChange[], tick: number): number {
  return changeAt(keys, tick)?.fifths ?? 0;
}

/** A written pitch: letter, semitones it is raised by (flats below 0), octave of middle C = 4. */
export interface Spelling {
  step: string;
  alter: number;
  octave: number;
}

const LETTERS = 'FCGDAEB';
/** On the line of fifths a signature's own seven notes, three flats below and two sharps above them: E♭ … G♯ of C. */
const LOWEST = -3;

/**
 * How a key is written in a signature: by the nearest note on the line of fifths, its own notes first.
 * @param key MIDI key @param fifths −7 … 7
 */
export function spelled(key: number, fifths: number): Spelling {
  const own = (((7 * key) % 12) + 12) % 12;
  const lowest = fifths + LOWEST;
  const place = lowest + ((((own - lowest) % 12) + 12) % 12);
  const alter = Math.floor((place + 1) / 7);
  return {
    step: LETTERS[(((place + 1) % 7) + 7) % 7],
    alter,
    octave: Math.floor((key - alter) / 12) - 1,
  };
}

/** The signature of music that is written so many semitones higher, with as few signs as there can be. */
export function transposedFifths(fifths: number, semitones: number): number {
  if (semitones % 12 === 0) return fifths;
  const moved = fifths + 7 * semitones;
  const within = (((moved % 12) + 12 + 5) % 12) - 5;
  // Six or seven signs of one kind stay of that kind where both would do.
  return within === 6 && fifths < 0 ? -6 : within;
}

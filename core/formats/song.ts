import type { CurvePoint, KeyChange, Mark, MetreChange, TempoChange } from '../music/index.ts';

/** Music as a file has it, whatever the format: what is not in there yet are the ids. */

/** A note in Farlo's ticks (960 a quarter). */
export interface SongNote {
  startTick: number;
  endTick: number;
  key: number;
  velocity: number;
  /** What is sung on it. */
  syllable?: string;
}

/** A controller value; number 128 is pitch bend scaled to 0…127.99 with 64 in the middle. */
export interface SongControl {
  tick: number;
  controller: number;
  value: number;
}

/** What one track holds of one channel. */
export interface SongTrack {
  name: string;
  channel: number;
  notes: SongNote[];
  controls: SongControl[];
  programs: { tick: number; program: number }[];
  texts: { tick: number; text: string }[];
  /** Articulations and curves, where the format writes them as such. */
  marks?: Omit<Mark, 'id'>[];
  points?: Omit<CurvePoint, 'id'>[];
}

export interface Song {
  tempos: TempoChange[];
  metres: MetreChange[];
  keys: KeyChange[];
  texts: { tick: number; text: string }[];
  tracks: SongTrack[];
  /** What of a file that was read is not kept, or not as it was written, in sentences. */
  told?: string[];
}

const DRUM_CHANNEL = 9;

/** MIDI channel of a track by its place: all but that of the drums, over and over. */
export const channelOf = (index: number): number => (index % 15) + (index % 15 >= DRUM_CHANNEL ? 1 : 0);

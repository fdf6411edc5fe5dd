import { create } from 'zustand';
import type { TrackMix } from '#core/mixing/index.ts';
import type { Plan } from '#core/performance/index.ts';
import type { TrackMeter } from './messages.ts';
import type { LiveReading } from './reading.ts';

/** A sound outside any track: it plays on an engine track of its own behind those of the template. */
export interface TakenSound {
  instrumentId: string;
  name: string;
  mix: TrackMix;
  /** True when its keymap of the house is listened to; otherwise every key plays. */
  byKeymap?: boolean;
}

/** A sound that takes a track's place in the open cue for as long as it is tried; nothing of the template changes. */
export interface Trial {
  trackId: string;
  instrumentId: string;
  /** Articulation of notes without a mark. */
  articulation: string;
  /** What is added to the track's level, so that it is as loud as what it replaces. */
  trimDb: number;
}

/** What of a track's part is not heard. */
export interface Unheard {
  trackId: string;
  /** Notes that begin in these ticks. */
  notes?: { fromTick: number; toTick: number };
  /** Curves from a tick on, as a hand has taken them. */
  curves: readonly { controller: number; fromTick: number }[];
}

interface PerformanceState {
  playing: boolean;
  /** Play was pressed, and waits for plans, recordings and the hall. */
  preparing: boolean;
  /** The hall the template asks for is being worked out. */
  hallIsComing: boolean;
  looping: boolean;
  /** What hands play is written down when it ends. */
  recording: boolean;
  /** Notes that have been recorded so far. */
  recorded: number;
  /** What of a part is not heard while something takes its place. */
  unheard: Unheard | undefined;
  /** Where playing starts and the playhead rests while stopped, in ticks. */
  restTick: number;
  /** Track that keys and controllers play. */
  trackId: string | undefined;
  /** Articulation the hand plays now. */
  articulation: string;
  /** Keys that sound from a hand. */
  held: readonly number[];
  /** Controllers as they were last ridden, by number. */
  ridden: Readonly<Record<number, number>>;
  /** What was played last and what came of it. */
  reading: LiveReading | undefined;
  /** A sound that hands play in place of the track's, for example one looked at on the shelf. */
  taken: TakenSound | undefined;
  /** A sound tried in the cue. */
  trial: Trial | undefined;
  /** Planned parts by track id. */
  plans: Readonly<Record<string, Plan>>;
}

/** Transport, the current track and what is planned. The playhead itself is read from `playheadTick`. */
export const usePerformance = create<PerformanceState>(() => ({
  playing: false,
  preparing: false,
  hallIsComing: false,
  looping: false,
  recording: false,
  recorded: 0,
  unheard: undefined,
  restTick: 0,
  trackId: undefined,
  articulation: 'long',
  held: [],
  ridden: {},
  reading: undefined,
  taken: undefined,
  trial: undefined,
  plans: {},
}));

/** A voice that was given up, for display. */
export interface GivenUpHere {
  /** Name of the track, or of the sound that hands play. */
  whose: string;
  key: number;
  why: 'track' | 'machine';
  at: number;
}

/** Levels for display; read in animation frames, never through React state. */
export const meters: {
  tracks: Record<string, TrackMeter>;
  momentary: number;
  voices: number;
  stolen: number;
  /** Voices given up since the page was opened, and the last of them. */
  givenUpCount: number;
  givenUp: GivenUpHere | undefined;
  /** Blocks of workers that came too late since the page was opened, and when the last of them was missed. */
  lateBlocks: number;
  lateAt: number;
} = {
  tracks: {},
  momentary: -Infinity,
  voices: 0,
  stolen: 0,
  givenUpCount: 0,
  givenUp: undefined,
  lateBlocks: 0,
  lateAt: 0,
};

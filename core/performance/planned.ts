import type { Fade, Instrument } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import type { Responses, Voicing } from '../keymap/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import type { ArticulationId, TempoMap } from '../music/index.ts';

/**
 * How connected notes are played: `immediate` enters the recorded move shortly before its landing, on the beat;
 * `natural` plays the whole move from the beat on; `planned` begins early, so that it lands on the beat.
 */
export type ConnectedMode = 'immediate' | 'natural' | 'planned';

/** A place of a position's level that moves; straight from one to the next, at rest before the first. */
export interface PositionMove {
  positionId: string;
  tick: number;
  levelDb: number;
}

/** What a part is planned for. */
export interface PlanContext {
  tempo: TempoMap;
  instrument: Instrument;
  mix: TrackMix;
  mode: ConnectedMode;
  /** Articulation of notes without a mark. */
  articulation: ArticulationId;
  /** What of the instrument sounds for an articulation; without one, the articulation itself or what stands in for it. */
  voicing?: Voicing;
  /** How the instrument answers to controllers; without it, as usual. */
  responses?: Responses;
  /** Levels of positions that move in the cue, dB against the mix; a list, also an empty one, is told to the engine, nothing is not. */
  moves?: readonly PositionMove[];
  /** Recordings loaded so far, by sample id: with them leads are exact. A new map when more has come. */
  audio?: ReadonlyMap<string, SampleAudio>;
}

/** One sound that the engine will start for a note. Times are seconds of the cue. */
export interface PlannedSound {
  noteId: string;
  /** Index in the instrument's articulations. */
  articulation: number;
  role: 'attack' | 'transition';
  /** What the player does, for display: `attack`, `move`, or `hold` (the tone after a move). */
  gesture: 'attack' | 'move' | 'hold';
  key: number;
  velocity: number;
  fromKey: number;
  /** When it is to speak or land. */
  beatSeconds: number;
  /** Lead per take. */
  leads: Float64Array;
  take: number;
  startSeconds: number;
  offsetSeconds: number;
  fadeInSeconds: number;
  /** Takes over from the sound before it, on the same pitch: both are aligned and their crossfade weighed. */
  joins: boolean;
  /** Level against the recording's own, in dB every `LEVEL_STEP_SECONDS` from its beginning; empty leaves it as it is. */
  levelsDb: readonly number[];
  /** Level beside the recording's own, in dB, and where a controller lets it be heard. */
  levelDb: number;
  /** True for a recorded noise. */
  noise: boolean;
  morph: Fade | undefined;
  /** When its tone begins to fade by itself. */
  fadesSeconds: number;
  endSeconds: number;
  /** Fade at the end; negative takes the instrument's own release. */
  endFadeSeconds: number;
  release: boolean;
  /** Seed from the note's id. */
  seed: number;
}

/** Something that will not sound as written. */
export interface Finding {
  noteId: string;
  sentence: string;
}

export interface Segment {
  /** Notes it covers, in order. */
  count: number;
  sounds: PlannedSound[];
  /** When the last of them is let go or lands, in seconds; −Infinity without any. */
  untilSeconds: number;
  /** True when any of its sounds has several takes. */
  takes: boolean;
  findings: Finding[];
}

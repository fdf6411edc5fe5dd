/** One performance as the engine plays it: which notes it serves, how it is shaped, where its recordings are. */

/** What a zone is for: the start of a note, its recorded end, or a recorded move from another pitch. */
export type ZoneRole = 'attack' | 'release' | 'transition';

/** Sources of change that are no MIDI controllers, numbered beyond them. */
export const SOURCE = {
  /** Pitch bend; 64 is none. */
  bend: 128,
  /** Velocity of the note. */
  velocity: 129,
  /** Key of the note. */
  key: 130,
} as const;

/** One more than the highest source number. */
export const SOURCES = 131;

/**
 * Equal-power crossfade window over a source (0…127): silent below `inLow`, full from `inHigh`
 * to `outLow`, silent above `outHigh`.
 */
export interface Fade {
  controller: number;
  inLow: number;
  inHigh: number;
  outLow: number;
  outHigh: number;
}

/** A source must lie within [low, high] when the note begins. */
export interface Gate {
  controller: number;
  low: number;
  high: number;
}

/**
 * How a source turns into a share of the depth: 0 → 1, −1 → 1, 1 → 0, 1 → −1, or squared 0 → 1; bent by a logarithm, late (concave) or
 * early (convex), or all at once in the middle (switch), up or down.
 */
export type Curve =
  | 'rise'
  | 'bipolar'
  | 'fall'
  | 'bipolarFall'
  | 'square'
  | 'concave'
  | 'concaveFall'
  | 'convex'
  | 'convexFall'
  | 'switch'
  | 'switchFall';

/** A source's reach: its share (by `curve`, `rise` unless given) times `depth` is added to the target. */
export interface Modulation {
  controller: number;
  /** `amplitude` multiplies the level by 1 − depth + depth × share; the others are added. */
  target: 'gainDb' | 'cutoffCents' | 'tuneCents' | 'pan' | 'resonanceDb' | 'amplitude';
  depth: number;
  curve?: Curve;
}

/** Volume envelope; times in seconds, sustain 0…1. The decay is straight in decibels. */
export interface Envelope {
  delaySeconds?: number;
  attackSeconds: number;
  holdSeconds: number;
  decaySeconds: number;
  sustain: number;
  releaseSeconds: number;
  /** Decibels by which the release falls, straight, before it ends; an equal-power fade unless given. */
  releaseDb?: number;
}

/** An envelope of its own that moves pitch or filter: 0 → 1 → sustain → 0, straight lines. */
export interface ShapedMove extends Envelope {
  target: 'cutoffCents' | 'tuneCents';
  depth: number;
}

/** A slow sine that moves pitch, filter or level; a controller may add to its depth. */
export interface Lfo {
  target: 'cutoffCents' | 'tuneCents' | 'gainDb';
  depth: number;
  hertz: number;
  delaySeconds: number;
  fadeSeconds: number;
  controller?: number;
  /** Depth added when the controller stands at 127. */
  controllerDepth?: number;
  /** Value from which on the controller adds to the depth; 0 unless given. */
  controllerFrom?: number;
}

/** Kinds of filter: one or two poles. */
export const FILTER_KINDS = ['lowpass1', 'lowpass2', 'highpass1', 'highpass2', 'bandpass', 'notch'] as const;
export type FilterKind = (typeof FILTER_KINDS)[number];

/** A loop over frames [start, end); played until the key is let go, or on through the release. */
export interface Loop {
  start: number;
  end: number;
  untilRelease?: boolean;
}

/** What was measured of one recording at import. */
export interface Measured {
  /** Time after the sample's start at which the sound speaks (attack) or the new pitch takes over (transition). */
  leadSeconds: number;
  /** Mean level of its first half second in dBFS. */
  levelDb: number;
  /** Attack only: level every 2 ms from the start, as hex bytes (see `measure/onset`). */
  envelope?: string;
}

/** The keys and velocities one performance serves, with its recording from each position. */
export interface Zone {
  role: ZoneRole;
  keyLow: number;
  keyHigh: number;
  rootKey: number;
  /** Cents per key; 100 unless given, 0 for sounds that keep their pitch. */
  keyTrack?: number;
  velocityLow: number;
  velocityHigh: number;
  fades: Fade[];
  gates?: Gate[];
  /** Only when no other note is held (`first`), or only when one is (`joined`). */
  when?: 'first' | 'joined';
  modulations: Modulation[];
  /** Take number from 0 within `takes` alternatives of the same note. */
  take: number;
  takes: number;
  /** Transition only: semitones from the old pitch to the new one. */
  interval?: number;
  tuneCents: number;
  gainDb: number;
  /** Balance of a stereo recording, place of a mono one: −1 left … 1 right. */
  pan?: number;
  /** How much velocity scales the level, 0…1. */
  velocityTrack: number;
  startFrame: number;
  /** Frames after the last one heard; the whole recording unless given. */
  endFrame?: number;
  loop?: Loop;
  /** A one-shot plays to its end whatever the key does. */
  oneShot: boolean;
  envelope: Envelope;
  moves?: ShapedMove[];
  lfos?: Lfo[];
  /** Filter cutoff in hertz, with resonance in dB, where the instrument asks for one. */
  cutoffHz?: number;
  resonanceDb?: number;
  /** `lowpass2` unless given. */
  filter?: FilterKind;
  /** Sounds of `offBy` end when one of that `group` begins, within `offSeconds`. */
  group?: number;
  offBy?: number;
  offSeconds?: number;
  /** Most sounds of the group at once, and most on one key. */
  polyphony?: number;
  keyPolyphony?: number;
  /** Release only: how much quieter it is per second that the note was held. */
  decayDbPerSecond?: number;
  /** How alike its wave is to that of another layer it is blended with, −1 … 1, by the other's first sample. */
  alike?: Record<string, number>;
  /** Sample id and measurement per position id. */
  samples: Record<string, { sample: string } & Partial<Measured>>;
}

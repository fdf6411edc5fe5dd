/** Commands to the engine, each with the frame (from the start of playing) at which it takes effect. */
import { SOURCE, type Fade, type ZoneRole } from '../catalogue/index.ts';

/** Seconds between the values of a sound's own level; it goes straight from one to the next. */
export const LEVEL_STEP_SECONDS = 0.025;

/** Starts a sound: all layers of one take of a note, a transition or a release. */
export interface StartEvent {
  kind: 'start';
  frame: number;
  track: number;
  /** Number by which the sound is stopped later; unique on its track while it sounds. */
  sound: number;
  /** Index of the articulation in the instrument. */
  articulation: number;
  role: ZoneRole;
  key: number;
  velocity: number;
  /** Transition only: the key it comes from. */
  fromKey: number;
  /** Any integer; taken modulo the takes there are. */
  take: number;
  /** Where in the recording to begin, in seconds at the pitch played; beyond a loop's end it goes round the loop. */
  offsetSeconds: number;
  /** Fade from silence, equal in power; 0 begins at once. */
  fadeInSeconds: number;
  /**
   * The sound it takes over from, on the same pitch at that moment. Its place in the recording is moved by up to
   * `alignSeconds` to where both waves agree most, and the crossfade allows for how alike they are.
   */
  joins?: number;
  alignSeconds?: number;
  /** Level against the recording's own, in dB every `LEVEL_STEP_SECONDS` from its beginning; the last one holds. */
  levelsDb?: readonly number[];
  /** Level in dB beside what its zones say, also for its recorded end; none unless given. */
  levelDb?: number;
  /** True for a recorded noise: its level is ridden apart. */
  noise?: boolean;
  /** Where a controller lets it be heard, beside what its zones say: for morphs between articulations. */
  morph?: Fade;
}

/** Ends a sound. */
export interface StopEvent {
  kind: 'stop';
  frame: number;
  track: number;
  sound: number;
  /** Equal-power fade to silence; negative takes the zone's own release time. */
  fadeSeconds: number;
  /** Whether the recorded end of the note is played. */
  release: boolean;
}

/** Sets a controller's target (0…127, fractions allowed; dB for levels of positions); the engine glides towards it. */
export interface ControlEvent {
  kind: 'control';
  frame: number;
  track: number;
  controller: number;
  value: number;
}

/** Lets go of what was planned for a track and sounds, but for the sounds named: what a changed plan goes on with. */
export interface KeepEvent {
  kind: 'keep';
  frame: number;
  track: number;
  sounds: readonly number[];
}

/** Numbers of sounds that were planned begin here; those of what hands play lie below. */
export const FIRST_PLANNED_SOUND = 2 ** 40;

export type EngineEvent = StartEvent | StopEvent | ControlEvent | KeepEvent;

/** Pitch bend travels as a controller of its own beyond the MIDI range; 64 is no bend, the ends are ±2 semitones. */
export const PITCH_BEND = SOURCE.bend;

/**
 * Levels of positions that move travel as controllers of their own, one for each position of the instrument in its order: dB against
 * the position's own level, −60 and below is silence.
 */
export const POSITION_LEVEL = 256;

/** Order in which events of one frame take effect: what is kept, controllers, then ends, then starts. */
const RANK = { keep: 0, control: 1, stop: 2, start: 3 } as const;

/** Sorts events by frame and rank, in place. */
export function sortEvents(events: EngineEvent[]): EngineEvent[] {
  return events.sort((a, b) => a.frame - b.frame || RANK[a.kind] - RANK[b.kind]);
}

import type { ArticulationId } from './articulation-id.ts';

/** A written note: ticks are integers, the end is exclusive, velocity 1…127. */
export interface Note {
  id: string;
  startTick: number;
  endTick: number;
  key: number;
  velocity: number;
  /** What is sung on it: a word, or a part of one that ends with a hyphen where it goes on. */
  syllable?: string;
}

/** A mark gives the notes that start in [startTick, endTick) their articulation. */
export interface Mark {
  id: string;
  startTick: number;
  endTick: number;
  articulation: ArticulationId;
}

/** One point of a controller curve: value 0…127, straight lines between points. */
export interface CurvePoint {
  id: string;
  controller: number;
  tick: number;
  value: number;
}

/** What is written for one track of one cue. Notes, marks and points come in any order. */
export interface Part {
  notes: readonly Note[];
  marks: readonly Mark[];
  points: readonly CurvePoint[];
}

/** The controllers Farlo gives a meaning, by their number in the MIDI standard. */
export const CONTROLLER = {
  dynamics: 1,
  transitionPace: 5,
  volume: 7,
  pan: 10,
  expression: 11,
  pedal: 64,
  release: 72,
  attack: 73,
  brightness: 74,
  vibrato: 77,
  reverbSend: 91,
  // The standard leaves these undefined.
  onsetTrim: 102,
  recordedEnds: 103,
  noise: 104,
  randomStart: 105,
  drift: 106,
} as const;

/** Pitch bend as a controller of its own, behind those of the standard. */
export const BEND = 128;

/** Where a controller rests until something moves it, 0…127. */
export function controllerRest(controller: number): number {
  switch (controller) {
    case CONTROLLER.expression:
    case CONTROLLER.volume:
    case CONTROLLER.brightness:
      return 127;
    case CONTROLLER.dynamics:
      return 80;
    case CONTROLLER.pan:
    case CONTROLLER.vibrato:
    case CONTROLLER.release:
    case CONTROLLER.attack:
    case CONTROLLER.recordedEnds:
    case CONTROLLER.noise:
    case BEND:
      return 64;
    default:
      return 0;
  }
}

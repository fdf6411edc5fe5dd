import type { ArticulationId } from '../music/index.ts';
import type { Decay, Liveliness, Partial as TonePartial, Trouble, Vibrato, Width } from '../measure/index.ts';

/** Raised when measuring changes, so that what is kept is measured anew. */
export const REPORT_REVISION = 7;

/** A recording that could not be measured, and why. */
export interface TroubledSample {
  position: string;
  key: number;
  trouble: Trouble | 'missing';
}

/** Loudness of one root in one layer, as it is played there. */
export interface KeyLevel {
  key: number;
  layer: number;
  lufs: number;
  /** Spectral centroid of its tone in hertz, breath and hiss aside. */
  centroidHz: number;
  /** Of left and right, −1 … 1; null where it is silent. */
  correlation: number | null;
}

/** Figures of a position that cannot always be measured. */
export type UnmeasuredFigure = 'noise' | 'decay' | 'directToRoomDb' | 'tailSeconds' | 'arrival';

/** Something of the room that rings on after all notes. */
export interface Ringing {
  hertz: number;
  /** dB by which it stands out of its neighbours once the rest has died away. */
  excessDb: number;
}

/** What was measured of one position. */
export interface PositionFigures {
  id: string;
  levels: KeyLevel[];
  /** Loudness at a middling touch, mean over the keys. */
  loudnessLufs: number | null;
  /** Third-octave levels in dB at a middling touch, mean over the keys; see `THIRD_OCTAVES`. */
  thirds: number[] | null;
  width: Width | null;
  /** Hiss in dBFS as it is played, and how far it lies below the notes. */
  noiseDb: number | null;
  noiseBelowDb: number | null;
  decay: Decay | null;
  directToRoomDb: number | null;
  /** Seconds until a released or short note has gone, −60 dB. */
  tailSeconds: number | null;
  /** Seconds after the nearest position at which it hears the players. */
  arrivalSeconds: number | null;
  /** Whether its waves are turned over against those of the nearest position. */
  isInverted: boolean | null;
  /** What rings on in the tails of its notes. */
  ringing: Ringing[];
  bytes: number;
  /** Why figures that are null could not be measured, to be said after “because”. */
  why: Partial<Record<UnmeasuredFigure, string>>;
}

/** When one take speaks, in seconds after the key, and when it has reached its height. */
export interface OnsetFigure {
  key: number;
  layer: number;
  take: number;
  seconds: number;
  riseSeconds: number;
}

/** A take that is none of its own: the same as another one. */
export interface SameTake {
  kind: 'repeated' | 'borrowed';
  key: number;
  layer: number;
  take: number;
  /** Where the same recording serves too. */
  otherKey: number;
  otherTake: number;
}

/** How loud and bright one key is along the controller that rules its layers. */
export interface LayerCurve {
  key: number;
  controller: 'dynamics' | 'velocity';
  /** Loudness in LUFS and spectral centroid in hertz at controller values 1 … 127. */
  lufs: number[];
  centroidHz: number[];
  steps: LayerStep[];
}

/** Recordings that hold less of their phases against each other than this are heard as two. */
export const TWO_SOURCES = 0.5;

/** A place where a layer hands over to the next. */
export interface LayerStep {
  /** Controller value in its middle. */
  at: number;
  /** Jump in loudness and, in octaves, of the spectral centroid, beyond what the slope around it explains. */
  stepLu: number;
  stepOctaves: number;
  /** Controller steps over which both layers are heard, within 10 dB of each other. */
  overlap: number;
  /** 0…1: below `TWO_SOURCES` the two layers are heard as two sources while they blend. */
  coherence: number;
}

/** Tuning of one recorded root. */
export interface TuningFigure {
  key: number;
  /** Middle of all its recordings, and its standard error from how they differ. */
  cents: number;
  errorCents: number;
  /** Cents from the first half of the note to the second. */
  driftCents: number;
}

export interface SustainFigure extends Liveliness {
  key: number;
  layer: number;
}

export interface VibratoFigure extends Vibrato {
  key: number;
  /** True for recordings that the vibrato controller brings in. */
  ridden: boolean;
}

/** Landing of recorded moves by interval in semitones. */
export interface MoveFigure {
  interval: number;
  seconds: number;
  count: number;
}

/** What a triad adds beyond its notes, in dB, in the low mids and in the presence region. */
export interface ChordFigure {
  key: number;
  lowMidsDb: number;
  presenceDb: number;
}

/** Everything measured of one articulation. */
export interface ArticulationReport {
  revision: number;
  articulation: ArticulationId;
  name: string;
  range: { low: number; high: number } | null;
  layers: number;
  takes: number;
  bytes: number;
  troubled: TroubledSample[];
  /** Near to far. */
  positions: PositionFigures[];
  onsets: OnsetFigure[];
  sameTakes: SameTake[];
  curves: LayerCurve[];
  tuning: TuningFigure[];
  sustains: SustainFigure[];
  vibrato: VibratoFigure[];
  moves: MoveFigure[];
  chords: ChordFigure[];
  /** Partials of the notes, low to high, once for every layer: what the instrument's resonances are told from. */
  partials: TonePartial[][][];
}

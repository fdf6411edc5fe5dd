import { articulationTerm, type InstrumentKind } from '../../catalogue/index.ts';
import type { ArticulationId, MiddleC } from '../../music/index.ts';
import type { ArticulationReport } from '../figures.ts';

/** What a finding is about. */
export type FindingCode =
  | 'layer-step'
  | 'layer-colour'
  | 'two-sources'
  | 'late-short'
  | 'repeated-take'
  | 'borrowed-take'
  | 'mistuned'
  | 'static-loop'
  | 'loop-bump'
  | 'out-of-level'
  | 'noisy'
  | 'mono-point'
  | 'mono-keys'
  | 'polarity'
  | 'ringing'
  | 'resonance'
  | 'slow-move'
  | 'missing-technique'
  | 'no-length'
  | 'triad-growth'
  | 'uneven-keys'
  | 'trouble';

/** Where a finding can be heard: what the engine is to play. */
export interface HearIt {
  articulation: ArticulationId;
  shape: 'note' | 'repeat' | 'rise' | 'chord' | 'move' | 'pair';
  keys: number[];
  velocity?: number;
  /** Only this position, where the finding is about one. */
  position?: string;
  /** Second articulation of a pair. */
  against?: ArticulationId;
}

/** Something that measuring found, in words for players. */
export interface Finding {
  code: FindingCode;
  /** `fault`: something is wrong; `note`: worth knowing. */
  weight: 'fault' | 'note';
  /** How many times what is still let pass: the worst come first. */
  severity: number;
  articulation: ArticulationId | null;
  position: string | null;
  /** The figure by itself, short. */
  figure: string;
  sentence: string;
  hear: HearIt | null;
}

/** What must be known of an instrument to read its reports. */
export interface ReportedInstrument {
  name: string;
  kind: InstrumentKind;
  reports: readonly ArticulationReport[];
}

/** Sentences need to name keys. */
export interface Writing {
  middleC: MiddleC;
}

/** What a player does about a finding: in the mix, in the mapping, or by avoiding what it spoils. */
export const ADVICE: Readonly<Record<FindingCode, string>> = {
  'layer-step': 'Ride across this place quickly, or stay on one side of it in long swells.',
  'layer-colour':
    'Keep held lines on one side of this layer there, or let a neighbouring instrument cover the change.',
  'two-sources': 'Keep a soloist’s line above or below this stretch of the controller.',
  'late-short': 'Let Farlo plan the part, so that it starts early; by hand, play slower values.',
  'repeated-take': 'Vary velocities in fast repetitions, or change to a related technique every few notes.',
  'borrowed-take': 'Avoid rows of this note in the open, or vary their velocities.',
  mistuned:
    'Tune the key by a pitch bend point where it is held in the open, or take the technique that is in tune there.',
  'static-loop': 'Keep it for notes under a second, or move dynamics and vibrato while it is held.',
  'loop-bump': 'Keep notes there shorter than the loop’s end, or hide them in a chord.',
  'out-of-level': 'Take its level down in the keymap’s entry, by the figure told.',
  noisy: 'Turn this position down or off in soft places, or cut its treble in Balance.',
  'mono-point': 'Widen it by another position; alone it is a soloist’s seat.',
  'mono-keys': 'Balance these keys by a wider position, or give the part to other keys.',
  polarity: 'Turn its polarity over in Balance before positions are mixed.',
  ringing: 'Cut this frequency narrowly in Balance, at this position.',
  resonance: 'Cut this frequency narrowly in Balance, or keep long notes off it.',
  'slow-move':
    'Let Farlo plan the line, so that moves start early; by hand, avoid these leaps in fast lines.',
  'missing-technique': 'Choose the stand-ins in the keymap, or line up another instrument for these marks.',
  'no-length': 'Measure its length by ear and write it into its name, so that it can be planned.',
  'triad-growth': 'Spread chords wider there, or cut that band in Balance.',
  'uneven-keys': 'Correct the key’s velocities where it stands alone.',
  trouble: 'Take the library in again, or ask its maker for a sound file.',
};

export const termName = (id: ArticulationId) => articulationTerm(id).name;
export const minus = (text: string) => text.replace('-', '−');
export const signed = (value: number, digits = 0) =>
  `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(digits)}`;
export const milliseconds = (seconds: number) => Math.round(seconds * 1000);

/** A key in the middle of what a report plays. */
export const middleKeyOf = ({ range }: ArticulationReport) =>
  range ? Math.round((range.low + range.high) / 2) : 60;

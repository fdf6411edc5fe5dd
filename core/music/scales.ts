/** Steps of the octave that belong to a scale, in semitones from its root. */
export const SCALES = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
  'harmonic minor': [0, 2, 3, 5, 7, 8, 11],
  'melodic minor': [0, 2, 3, 5, 7, 9, 11],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  'whole tones': [0, 2, 4, 6, 8, 10],
  octatonic: [0, 2, 3, 5, 6, 8, 9, 11],
} as const;
export type ScaleName = keyof typeof SCALES;
export const SCALE_NAMES = Object.keys(SCALES) as ScaleName[];

/** A scale on a root, 0 for C to 11 for B. */
export interface Scale {
  root: number;
  name: ScaleName;
}

const OCTAVE = 12;

/** Octaves above the lowest root, and semitones above the root there. */
function placeIn({ root }: Scale, key: number): { octave: number; above: number } {
  const octave = Math.floor((key - root) / OCTAVE);
  return { octave, above: key - root - octave * OCTAVE };
}

/** Whether a key belongs to a scale. */
export function isInScale(scale: Scale, key: number): boolean {
  return (SCALES[scale.name] as readonly number[]).includes(placeIn(scale, key).above);
}

/** A key moved by steps of a scale. One that does not belong to it keeps its distance to the step below it. */
export function stepInScale(scale: Scale, key: number, steps: number): number {
  const degrees: readonly number[] = SCALES[scale.name];
  const { octave, above } = placeIn(scale, key);
  const degree = degrees.filter((one) => one <= above).length - 1;
  const to = degree + steps;
  const octaves = octave + Math.floor(to / degrees.length);
  const step = degrees[to - Math.floor(to / degrees.length) * degrees.length];
  return scale.root + OCTAVE * octaves + step + (above - degrees[degree]);
}

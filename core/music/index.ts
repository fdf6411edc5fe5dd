/** Music as written: pitch, musical time, notes, marks and curves. No sound here. */
export * from './pitch.ts';
export * from './scales.ts';
export * from './tempo-map.ts';
export * from './tempo-steps.ts';
export * from './tempo-fit.ts';
export * from './part.ts';
export * from './played.ts';
export * from './curve.ts';
export * from './curve-shapes.ts';
export * from './curve-changes.ts';
export { NOTE_RULES } from './note-rules.ts';
export * from './note-shapes.ts';
export * from './place.ts';
export * from './tap.ts';
export * from './bars.ts';
export type { ArticulationId } from './articulation-id.ts';
export * from './mark-line.ts';
export * from './mark-spans.ts';

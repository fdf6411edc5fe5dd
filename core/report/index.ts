/** The measured report: from zones and recordings to figures, findings with a plain reading, and where to hear them. */
export * from './figures.ts';
export * from './findings/index.ts';
export * from './readings.ts';
export { READINGS, type Reading, type ReadingKind, type ReadingSource } from './reading-table.ts';
export { togetherOf } from './together.ts';
export { measureArticulation } from './measure-articulation.ts';
export { layersOf, type HeardSample, type SampleSource } from './zones.ts';

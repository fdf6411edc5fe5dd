/**
 * The invented players and halls that record the demo libraries: plans as data (`libraries`), performances (`gestures`,
 * `players`, `struck`), sessions in a room (`session`), finished takes (`studio`) and the SFZ over them (`write-sfz`).
 */
export * from './plan.ts';
export * from './studio.ts';
export * from './write-sfz.ts';
export * from './truth.ts';
export * from './bells.ts';
export * from './libraries/index.ts';

/** Open formats: bytes to model and back, nothing else. */
export * from './byte-reader.ts';
export * from './paths.ts';
export * from './wav.ts';
export * from './sfz.ts';
export * from './sfz-instrument.ts';
export * from './smf.ts';
export * from './smf-parts.ts';

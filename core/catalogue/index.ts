/** What a library holds: vocabulary, instruments, articulations, zones, samples, and what they cost. */
export * from './vocabulary.ts';
export * from './instrument.ts';

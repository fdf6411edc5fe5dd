/** What libraries hold: instruments, articulations, zones; the house vocabulary; how a shelf is searched. */
export * from './instrument.ts';
export * from './zone.ts';
export * from './terms.ts';
export * from './vocabulary.ts';
export * from './transposition.ts';
export * from './positions.ts';
export * from './edition.ts';
export * from './library.ts';
export * from './vibrato.ts';
export * from './shelf.ts';

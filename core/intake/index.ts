/** Taking sounds in: what names and labels mean, and zones put together into instruments by it. */
export * from './layers.ts';
export * from './meaning.ts';
export * from './assemble.ts';
export * from './names.ts';
export * from './families.ts';
export * from './read-performed.ts';
export * from './hall.ts';
export * from './join.ts';
export * from './match-tracks.ts';

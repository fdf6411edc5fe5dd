/** The invented players and halls that record the demo libraries, as sound and as SFZ. */
export * from './hall.ts';
export * from './strings-large.ts';
export * from './bells.ts';

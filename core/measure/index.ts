/** Figures taken from sound: onsets, landings, levels. */
export * from './onset.ts';
export * from './landing.ts';
export * from './level.ts';

/** Figures taken from sound: onsets, landings, levels. */
export * from './onset.ts';
export * from './landing.ts';
export * from './level.ts';
export * from './pitch.ts';
export * from './loop.ts';

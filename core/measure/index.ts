/** Figures taken from sound: onsets, landings, levels, spectra, decay, width, pitch, likeness. */
export * from './onset.ts';
export * from './landing.ts';
export * from './level.ts';
export * from './pitch.ts';
export * from './loop.ts';
export * from './spectrum.ts';
export * from './decay.ts';
export { endingOf, type Ending } from './ending.ts';
export * from './direct-and-room.ts';
export * from './width.ts';
export * from './trouble.ts';
export * from './noise.ts';
export * from './likeness.ts';
export * from './vibrato.ts';
export * from './liveliness.ts';
export * from './resonance.ts';
export * from './ringing.ts';
export * from './conversion.ts';

/** What leaves Farlo: bounces and MIDI, clean and performed. */
export * from './bounce.ts';
export * from './midi.ts';

/** What leaves Farlo: bounces and MIDI, clean and performed. */
export * from './order.ts';
export * from './share.ts';
export * from './stems.ts';
export * from './at-once.ts';
export * from './bounce.ts';
export * from './midi.ts';
export * from './apart.ts';
export * from './score-within.ts';

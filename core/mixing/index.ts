/** Levels, balance, width and the shape of a mix. */
export * from './mix.ts';
export * from './eq.ts';
export * from './seating.ts';
export * from './seatings.ts';

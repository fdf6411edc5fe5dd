/** Several recordings of one section, their sum, and how sections stand to each other: measured, and brought to where they are wanted. */
export * from './apart.ts';
export * from './arrival.ts';
export * from './forms.ts';
export * from './let-go.ts';
export * from './distance.ts';
export * from './solve.ts';
export * from './kept-mix.ts';
export * from './comb.ts';
export * from './cover.ts';
export * from './seat.ts';
export * from './fit-room.ts';
export * from './stereo.ts';

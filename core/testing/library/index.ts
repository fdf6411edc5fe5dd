/** Libraries made by seed, with faults planted in them, and what a report must tell of these (decision 19). */
export type { Fault } from './faults.ts';
export { judge } from './judge.ts';
export { seededLibrary, type SeededLibrary } from './library.ts';

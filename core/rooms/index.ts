/** Halls as models: their walls, their microphones, and how a point in them sounds at another. */
export * from './hall.ts';
export * from './halls.ts';

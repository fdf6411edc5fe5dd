/** Halls as models: their walls, their microphones, how a point in them sounds at another, and what they answer to what is sent. */
export * from './hall.ts';
export * from './halls.ts';
export * from './response.ts';
export * from './recorded.ts';

/** Shapes of requests and responses, shared by server and web, nothing else. */
export * from './records.ts';
export * from './patches.ts';
export * from './session.ts';
export * from './catalogue.ts';
export * from './imports.ts';
export * from './packs.ts';
export * from './listening.ts';
export * from './events.ts';
export * from './pointing.ts';
export * from './natural-id.ts';
export * from './people.ts';

/** Listening side by side: phrases that fit, renderings switched without a gap, matched loudness, blind rounds, walks. */
export * from './phrases.ts';
export * from './own-phrase.ts';
export * from './hear.ts';
export * from './render.ts';
export * from './match.ts';
export * from './blind.ts';
export * from './walks.ts';
export * from './reference.ts';
export * from './score.ts';

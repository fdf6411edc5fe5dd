/** How the house vocabulary is played on an instrument: triggers, what they resolve to, clashes, keys by rule, coverage. */
export * from './keymap.ts';
export * from './rows.ts';
export * from './resolve.ts';
export * from './responses.ts';
export * from './select.ts';
export * from './voicing.ts';
export * from './clashes.ts';
export * from './agreement.ts';
export * from './assign.ts';
export * from './compare.ts';
export * from './coverage.ts';
export * from './first.ts';
export * from './keys.ts';
export * from './octaves.ts';

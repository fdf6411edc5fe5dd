/** Articulations and the triggers that select them: resolving, clashes, first keymaps. */
export * from './trigger.ts';
export * from './clash.ts';

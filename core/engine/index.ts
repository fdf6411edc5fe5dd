/** The sampler that plays everything: the same code in the worklet, the bounce worker and Node. */
export * from './memory/index.ts';
export * from './events.ts';
export * from './prepared.ts';
export * from './track.ts';
export * from './players.ts';
export * from './desk.ts';
export * from './engine.ts';
export * from './ahead/index.ts';
export * from './gains.ts';
export * from './click.ts';
export { FilterPoint } from './filter.ts';
export * from './switcher.ts';
export { BLOCK, FRAME_BYTES, MAX_POSITIONS } from './voice-renderer.ts';
export { kernelIn, type Kernel } from './kernel/index.ts';
export { curveShare } from './moves.ts';
export { HEAVY_POSITIONS, heavyInstrument } from './heavy-instrument.ts';

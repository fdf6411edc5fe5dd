/** Where sound lies in memory, and who gives out room. */
export { Allocator, type FreeRoom, type Stretch } from './allocator.ts';
export * from './sound-memory.ts';
export type { WebAssemblyMemory } from './web-assembly.ts';

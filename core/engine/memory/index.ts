/** Where sound lies in memory, and who gives out room. */
export * from './allocator.ts';
export * from './sound-memory.ts';
export type { WebAssemblyMemory } from './web-assembly.ts';

/** The little of WebAssembly that the engine needs; core knows neither browser nor Node, which both have it. */
export interface WebAssemblyMemory {
  /** Taken anew after every growth; what was taken before goes on to show what it showed. */
  readonly buffer: SharedArrayBuffer;
  /** Grows by pages of 64 KiB. @throws RangeError when the machine refuses */
  grow(pages: number): number;
}

export interface WebAssemblyHost {
  Memory: new (size: { initial: number; maximum: number; shared: true }) => WebAssemblyMemory;
  Module: new (code: Uint8Array) => object;
  Instance: new (module: object, imports: { env: { memory: WebAssemblyMemory } }) => { exports: object };
}

export const webAssembly = (globalThis as unknown as { WebAssembly: WebAssemblyHost }).WebAssembly;

import { create } from 'zustand';
import type { Rendered } from './render.worker.ts';

/** How far a rendering has come. */
export type RenderState =
  | { kind: 'waiting' }
  | { kind: 'loading' }
  | { kind: 'rendering' }
  | ({ kind: 'ready'; seconds: number } & Pick<Rendered, 'lufs' | 'truePeakDb' | 'outline'>)
  | { kind: 'failed'; message: string };

/** States by name of the order. What was rendered once keeps its figures when its sound is let go. */
export const useRenderings = create<{ states: Readonly<Record<string, RenderState>>; heldBytes: number }>(
  () => ({
    states: {},
    heldBytes: 0,
  }),
);

import { outlineOf, renderPhrase, type PhraseOrder } from '#core/listen/index.ts';

/** What the rendering worker is asked for. */
export interface RenderRequest {
  order: PhraseOrder;
}

/** A rendering in shared memory, with what was measured of it. */
export interface Rendered {
  left: Float32Array;
  right: Float32Array;
  lufs: number;
  truePeakDb: number;
  /** Peaks of equal stretches, for drawing. */
  outline: number[];
}

export type RenderAnswer = { kind: 'done'; rendered: Rendered } | { kind: 'failed'; message: string };

const OUTLINE_POINTS = 64;

self.onmessage = ({ data: { order } }: MessageEvent<RenderRequest>) => {
  const answer = (message: RenderAnswer) => self.postMessage(message);
  try {
    const { left, right, lufs, truePeakDb } = renderPhrase(order);
    answer({
      kind: 'done',
      rendered: {
        left: shared(left),
        right: shared(right),
        lufs,
        truePeakDb,
        outline: outlineOf(left, right, OUTLINE_POINTS),
      },
    });
  } catch (error) {
    answer({ kind: 'failed', message: (error as Error).message });
  }
};

/** Into memory that page and worklet read without copying. */
function shared(signal: Float32Array): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(signal.byteLength));
  out.set(signal);
  return out;
}

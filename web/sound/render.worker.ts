import { SoundMemory } from '#core/engine/index.ts';
import { outlineOf, renderPhrase, type PhraseOrder } from '#core/listen/index.ts';
import type { SharedRoom } from './page-memory.ts';

/** What the rendering worker is asked for. */
export interface RenderRequest {
  order: PhraseOrder;
  /** Where its recordings lie, and the engine may work; the same for all orders to one worker. */
  shared: SharedRoom;
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

self.onmessage = ({ data: { order, shared: room } }: MessageEvent<RenderRequest>) => {
  const answer = (message: RenderAnswer) => self.postMessage(message);
  try {
    // One engine after the other works in the same room.
    const sound = SoundMemory.within(room.memory, room.room);
    const { left, right, lufs, truePeakDb } = renderPhrase(order, sound);
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

import { bounce, type BounceFigures, type BounceOrder } from '#core/deliver/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import { encodeFrames, wavHeader, type WavFormat } from '#core/formats/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { SharedRoom } from './page-memory.ts';

/** What the bounce worker is asked for. */
export interface BounceRequest {
  order: BounceOrder;
  /** Where its recordings lie, and the engine may work. */
  shared: SharedRoom;
  format: Extract<WavFormat, 'i24' | 'f32'>;
}

export type BounceAnswer =
  | { kind: 'progress'; share: number }
  | { kind: 'done'; file: Blob; figures: BounceFigures }
  | { kind: 'failed'; message: string };

const LEAST_MS_BETWEEN = 80;

self.onmessage = ({ data: { order, format, shared } }: MessageEvent<BounceRequest>) => {
  const parts: BlobPart[] = [];
  let told = 0;
  const answer = (message: BounceAnswer) => self.postMessage(message);
  try {
    const figures = bounce(
      order,
      (left, right) => parts.push(encodeFrames([left, right], format, 0, left.length) as BlobPart),
      (share) => {
        if (performance.now() - told < LEAST_MS_BETWEEN) return;
        told = performance.now();
        answer({ kind: 'progress', share });
      },
      SoundMemory.within(shared.memory, shared.room),
    );
    const header = wavHeader(format, ENGINE_RATE, 2, figures.frames) as BlobPart;
    answer({ kind: 'done', file: new Blob([header, ...parts], { type: 'audio/wav' }), figures });
  } catch (error) {
    answer({ kind: 'failed', message: (error as Error).message });
  }
};

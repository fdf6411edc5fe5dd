import type { PassageFigures } from '#core/listen/index.ts';
import type { ToneAnswer, ToneRequest } from './tone.worker.ts';

let worker: Worker | undefined;
let count = 0;
const waiting = new Map<
  number,
  { done: (figures: PassageFigures) => void; failed: (error: Error) => void }
>();

/** Figures of a passage, computed in a worker. @throws Error when it cannot be measured */
export function toneOf(left: Float32Array, right: Float32Array): Promise<PassageFigures> {
  if (!worker) {
    worker = new Worker(new URL('./tone.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<ToneAnswer>) => {
      const one = waiting.get(data.id);
      waiting.delete(data.id);
      if (data.figures) one?.done(data.figures);
      else one?.failed(new Error(data.message ?? 'This passage cannot be measured.'));
    };
    worker.onerror = (event) => {
      for (const one of waiting.values()) one.failed(new Error(event.message));
      waiting.clear();
      worker?.terminate();
      worker = undefined;
    };
  }
  const own = worker;
  const id = count++;
  return new Promise((done, failed) => {
    waiting.set(id, { done, failed });
    own.postMessage({ id, left, right } satisfies ToneRequest);
  });
}

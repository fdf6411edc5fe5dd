import { parentPort, workerData } from 'node:worker_threads';
import { FarloError } from '#core/errors/index.ts';
import type { WorkerMessage } from './jobs.ts';

const LEAST_MS_BETWEEN = 100;

/** Runs the body of a worker with what it was given: progress at most ten times a second, parts as they are done, then the result or the failure. */
export async function runWorker<Order, Result>(
  body: (
    order: Order,
    progress: (share: number, message: string) => void,
    part: (result: Result) => void,
  ) => Promise<Result>,
): Promise<void> {
  const send = (message: WorkerMessage<Result>) => parentPort?.postMessage(message);
  let last = 0;
  try {
    const result = await body(
      (workerData as { order: Order }).order,
      (share, message) => {
        const time = Date.now();
        if (time - last < LEAST_MS_BETWEEN) return;
        last = time;
        send({ kind: 'progress', share, message });
      },
      (result) => send({ kind: 'part', result }),
    );
    send({ kind: 'done', result });
  } catch (error) {
    if (error instanceof FarloError)
      send({ kind: 'failed', code: error.code, message: error.message, place: error.place });
    else throw error;
  }
}

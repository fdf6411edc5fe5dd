import type { MidiAnswer, MidiRequest } from './midi.worker.ts';

const LARGEST_FILE = 32 * 2 ** 20;

/** Reads a file in a worker, so that a long one does not hold up the page. `end` gives up. */
export function readMidiFile(file: File): { answer: Promise<MidiAnswer>; end(): void } {
  if (file.size > LARGEST_FILE) {
    const trouble = `${file.name}: larger than 32 MB, which no score needs.`;
    return { answer: Promise.resolve({ trouble }), end: () => undefined };
  }
  const worker = new Worker(new URL('./midi.worker.ts', import.meta.url), { type: 'module' });
  const answer = new Promise<MidiAnswer>((resolve) => {
    worker.onmessage = ({ data }: MessageEvent<MidiAnswer>) => {
      worker.terminate();
      resolve(data);
    };
    worker.onerror = ({ message }) => {
      worker.terminate();
      resolve({ trouble: `${file.name}: ${message}` });
    };
    file.arrayBuffer().then(
      (bytes) => worker.postMessage({ bytes, name: file.name } satisfies MidiRequest, [bytes]),
      (error: Error) => resolve({ trouble: `${file.name}: ${error.message}` }),
    );
  });
  return { answer, end: () => worker.terminate() };
}

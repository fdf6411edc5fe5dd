import { useDocuments } from '../../state/documents.ts';
import { vocabularyOf } from '../../state/keymaps.ts';
import type { SongAnswer, SongRequest } from './song.worker.ts';

const LARGEST_FILE = 32 * 2 ** 20;

/** Reads a file in a worker, so that a long one does not hold up the page. `end` gives up. */
export function readSongFile(file: File): { answer: Promise<SongAnswer>; end(): void } {
  if (file.size > LARGEST_FILE) {
    const trouble = `${file.name}: larger than 32 MB, which no score needs.`;
    return { answer: Promise.resolve({ trouble }), end: () => undefined };
  }
  const terms = vocabularyOf(useDocuments.getState().records).terms;
  const worker = new Worker(new URL('./song.worker.ts', import.meta.url), { type: 'module' });
  const answer = new Promise<SongAnswer>((resolve) => {
    worker.onmessage = ({ data }: MessageEvent<SongAnswer>) => {
      worker.terminate();
      resolve(data);
    };
    worker.onerror = ({ message }) => {
      worker.terminate();
      resolve({ trouble: `${file.name}: ${message}` });
    };
    file.arrayBuffer().then(
      (bytes) => worker.postMessage({ bytes, name: file.name, terms } satisfies SongRequest, [bytes]),
      (error: Error) => resolve({ trouble: `${file.name}: ${error.message}` }),
    );
  });
  return { answer, end: () => worker.terminate() };
}

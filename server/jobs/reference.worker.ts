import { takeReference } from '../samples/take-reference.ts';
import { runWorker } from './worker-port.ts';

/** What the worker that takes a reference in is given. */
export interface ReferenceOrder {
  path: string;
  name: string;
  id: string;
  dataFolder: string;
}

await runWorker(({ path, name, id, dataFolder }: ReferenceOrder, progress) =>
  takeReference(path, name, dataFolder, id, progress),
);

import { takeHallFile } from '../samples/take-hall.ts';
import { runWorker } from './worker-port.ts';

/** What the worker that takes a hall in is given. */
export interface HallFileOrder {
  path: string;
  name: string;
  id: string;
  dataFolder: string;
}

await runWorker(({ path, name, id, dataFolder }: HallFileOrder, progress) =>
  takeHallFile(path, name, dataFolder, id, progress),
);

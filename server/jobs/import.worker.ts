import { takeIn, type ImportFacts } from '../samples/take-in.ts';
import { openSource, type SourcePlace } from './source-of.ts';
import { runWorker } from './worker-port.ts';

/** What the import worker is given. */
export interface ImportOrder {
  from: SourcePlace;
  facts: ImportFacts;
  dataFolder: string;
  /** Ids of samples that are stored already. */
  known: ReadonlySet<string>;
}

await runWorker(async (order: ImportOrder, progress) => {
  const source = await openSource(order.from);
  try {
    return await takeIn(source, order.facts, order.dataFolder, order.known, progress);
  } finally {
    await source.close();
  }
});

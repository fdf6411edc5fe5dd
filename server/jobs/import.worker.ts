import { folderSource, zipSource } from '../samples/file-source.ts';
import { importLibrary, type ImportFacts } from '../samples/import-library.ts';
import { runWorker } from './worker-port.ts';

/** What the import worker is given: a folder, or a zip. */
export interface ImportOrder {
  from: { folder: string } | { zip: string; name: string };
  facts: ImportFacts;
  dataFolder: string;
}

await runWorker(async (order: ImportOrder, progress) => {
  const source =
    'folder' in order.from
      ? folderSource(order.from.folder)
      : await zipSource(order.from.zip, order.from.name);
  try {
    return await importLibrary(source, order.facts, order.dataFolder, progress);
  } finally {
    await source.close();
  }
});

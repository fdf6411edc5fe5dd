import type { JobQueue } from '../jobs/jobs.ts';
import type { Catalogue } from '../store/catalogue.ts';
import { packsOnDisk, removePacks } from './pack-writer.ts';

/** Work that writes packs before the catalogue knows of them. */
const WRITING = ['import', 'recording'] as const;

/**
 * Removes packs that no instrument knows, for example those that a cancelled import wrote. While other work may still write or find
 * some, all stay: then the next start removes them.
 */
export async function removeUnusedPacks(
  catalogue: Catalogue,
  jobs: JobQueue,
  dataFolder: string,
): Promise<void> {
  if (jobs.isBusyWith(WRITING)) return;
  const known = await catalogue.packIds();
  // Work may have begun while the catalogue answered; from here to the end nothing else runs.
  if (jobs.isBusyWith(WRITING)) return;
  removePacks(
    dataFolder,
    packsOnDisk(dataFolder).filter((id) => !known.has(id)),
  );
}

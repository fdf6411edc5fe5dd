import type { Instrument } from '#core/catalogue/index.ts';
import { exportInstrument } from '../samples/export-instrument.ts';
import { runWorker } from './worker-port.ts';

/** What the export worker is given. */
export interface ExportOrder {
  instrument: Instrument;
  dataFolder: string;
  path: string;
  /** Name of the library, for the file. */
  library: string;
}

await runWorker(async ({ instrument, dataFolder, path, library }: ExportOrder, progress) => {
  await exportInstrument(instrument, dataFolder, path, progress, library);
});

import type { Instrument } from '#core/catalogue/index.ts';
import { exportInstrument } from '../samples/export-instrument.ts';
import { runWorker } from './worker-port.ts';

/** What the export worker is given. */
export interface ExportOrder {
  instrument: Instrument;
  dataFolder: string;
  path: string;
}

await runWorker(async ({ instrument, dataFolder, path }: ExportOrder, progress) => {
  await exportInstrument(instrument, dataFolder, path, progress);
});

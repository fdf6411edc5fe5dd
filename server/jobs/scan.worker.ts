import { propose, type ProposalOrder } from '../samples/propose.ts';
import { openSource, type SourcePlace } from './source-of.ts';
import { runWorker } from './worker-port.ts';

/** What the scan worker is given. */
export interface ScanOrder extends ProposalOrder {
  from: SourcePlace;
}

await runWorker(async (order: ScanOrder, progress) => {
  const source = await openSource(order.from);
  try {
    return await propose(source, order, progress);
  } finally {
    await source.close();
  }
});

import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { writeWav } from '#core/formats/index.ts';
import { previewOrders, recordTake, takeFile, takeOrders } from '#core/recording/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { runWorker } from './worker-port.ts';

/** Which share of the takes to record, and where to put them. */
export interface RecordOrder {
  folder: string;
  part: number;
  parts: number;
  /** Only what a first instrument needs. */
  preview: boolean;
}

await runWorker(({ folder, part, parts, preview }: RecordOrder, progress) => {
  const orders = (preview ? previewOrders() : takeOrders()).filter((_, i) => i % parts === part);
  orders.forEach((order, i) => {
    for (const [position, { left, right }] of recordTake(order).positions) {
      const path = join(folder, takeFile(order, position));
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, writeWav({ rate: ENGINE_RATE, format: 'i16', channels: [left, right] }));
    }
    progress((i + 1) / orders.length, 'Recording');
  });
  return Promise.resolve(orders.length);
});

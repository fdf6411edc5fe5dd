import { randomUUID } from 'node:crypto';
import { createReadStream, existsSync, rmSync } from 'node:fs';
import type { Request } from 'express';
import { FarloError } from '#core/errors/index.ts';
import type { HallFileOrder } from '../jobs/hall.worker.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import { hallPath, type HallFacts } from '../samples/take-hall.ts';
import type { OwnHalls } from '../store/own-halls.ts';
import type { Route } from './access.ts';
import type { Uploads } from './uploads.ts';

/** Halls of a studio's own: taken in, listed, fetched, taken away. */
export function hallRoutes(halls: OwnHalls, jobs: JobQueue, uploads: Uploads, dataFolder: string): Route[] {
  const studioOf = async (request: Request) => (await halls.get(String(request.params.id)))?.studioId;
  return [
    {
      method: 'get',
      path: '/halls',
      access: 'viewer',
      handle: async (_request, response, member) => {
        response.json(await halls.list(member.studioId));
      },
    },
    {
      method: 'post',
      path: '/halls',
      access: 'editor',
      before: [uploads.receive],
      handle: (request, response, member) => {
        const { id: uploadId, path, name: file } = uploads.recording(request, member.studioId);
        const order: HallFileOrder = { path, name: file, id: randomUUID(), dataFolder };
        const job = jobs.add<HallFacts>({
          kind: 'hall',
          title: `Taking in ${file}`,
          studioId: member.studioId,
          worker: new URL('../jobs/hall.worker.ts', import.meta.url),
          data: order,
          finish: async (taken) => {
            const name = file.replace(/\.[a-z0-9]+$/i, '') || file;
            await halls.add(member.studioId, { id: order.id, name, ...taken });
            return order.id;
          },
          ended: (state) => {
            uploads.drop(uploadId);
            if (state !== 'done') rmSync(hallPath(dataFolder, order.id), { force: true });
          },
        });
        response.status(202).json(job);
      },
    },
    {
      method: 'get',
      path: '/halls/:id/response',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        const id = String(request.params.id);
        const known = await halls.get(id);
        const path = hallPath(dataFolder, id);
        if (!known || !existsSync(path))
          throw new FarloError('sample.missing', 'This hall is no longer on the disk. Take it in again.', {
            file: known?.name ?? id,
          });
        response.set({
          'Content-Type': 'application/octet-stream',
          'Content-Length': String(known.channels * known.frames * 4),
          'Cache-Control': 'private, max-age=31536000, immutable',
        });
        createReadStream(path)
          .on('error', () => response.destroy())
          .pipe(response);
      },
    },
    {
      method: 'delete',
      path: '/halls/:id',
      access: 'editor',
      studioOf,
      handle: async (request, response, member) => {
        const id = String(request.params.id);
        const users = await halls.usedIn(id, member.studioId);
        if (users.length > 0)
          throw new FarloError(
            'request.invalid',
            `${users.join(', ')} ${users.length === 1 ? 'sounds' : 'sound'} in this hall. Choose another one there first.`,
          );
        await halls.remove(id);
        rmSync(hallPath(dataFolder, id), { force: true });
        response.status(204).end();
      },
    },
  ];
}

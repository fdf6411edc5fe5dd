import { randomUUID } from 'node:crypto';
import { createReadStream, existsSync, rmSync } from 'node:fs';
import type { Request } from 'express';
import { FarloError } from '#core/errors/index.ts';
import { LONGEST_PASSAGE_SECONDS } from '#core/listen/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { ReferenceOrder } from '../jobs/reference.worker.ts';
import { referencePath } from '../samples/take-reference.ts';
import type { References } from '../store/references.ts';
import type { Route } from './access.ts';
import type { Uploads } from './uploads.ts';

/** Bytes of a frame: two channels of 16 bits. */
const FRAME = 4;

/** Recordings that sounds are held against: taken in, listed, read by passages, taken away. */
export function referenceRoutes(
  references: References,
  jobs: JobQueue,
  uploads: Uploads,
  dataFolder: string,
): Route[] {
  const studioOf = async (request: Request) => (await references.get(String(request.params.id)))?.studioId;
  return [
    {
      method: 'get',
      path: '/references',
      access: 'viewer',
      handle: async (_request, response, member) => {
        response.json(await references.list(member.studioId));
      },
    },
    {
      method: 'post',
      path: '/references',
      access: 'editor',
      before: [uploads.receive],
      handle: (request, response, member) => {
        const { id: uploadId, path, name } = uploads.recording(request, member.studioId);
        const order: ReferenceOrder = { path, name, id: randomUUID(), dataFolder };
        const job = jobs.add<{ frames: number; rate: number; outline: number[] }>({
          kind: 'reference',
          title: `Taking in ${name}`,
          studioId: member.studioId,
          worker: new URL('../jobs/reference.worker.ts', import.meta.url),
          data: order,
          finish: async (taken) => {
            await references.add(member.studioId, { id: order.id, name, ...taken });
            return order.id;
          },
          ended: (state) => {
            uploads.drop(uploadId);
            if (state !== 'done') rmSync(referencePath(dataFolder, order.id), { force: true });
          },
        });
        response.status(202).json(job);
      },
    },
    {
      method: 'get',
      path: '/references/:id/passage',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        const id = String(request.params.id);
        const known = await references.get(id);
        const [from, to] = [request.query.from, request.query.to].map(Number);
        if (
          !known ||
          !Number.isInteger(from) ||
          !Number.isInteger(to) ||
          from < 0 ||
          to <= from ||
          to > known.frames
        )
          throw new FarloError('request.invalid', 'This passage does not lie in the recording.');
        if (to - from > LONGEST_PASSAGE_SECONDS * ENGINE_RATE)
          throw new FarloError(
            'request.too-large',
            `A passage may last ${LONGEST_PASSAGE_SECONDS} seconds at most.`,
          );
        const path = referencePath(dataFolder, id);
        if (!existsSync(path))
          throw new FarloError(
            'sample.missing',
            'This recording is no longer on the disk. Take it in again.',
            {
              file: known.name,
            },
          );
        response.set({
          'Content-Type': 'application/octet-stream',
          'Content-Length': String((to - from) * FRAME),
          'Cache-Control': 'private, max-age=31536000, immutable',
        });
        createReadStream(path, { start: from * FRAME, end: to * FRAME - 1 })
          .on('error', () => response.destroy())
          .pipe(response);
      },
    },
    {
      method: 'delete',
      path: '/references/:id',
      access: 'editor',
      studioOf,
      handle: async (request, response) => {
        const id = String(request.params.id);
        await references.remove(id);
        rmSync(referencePath(dataFolder, id), { force: true });
        response.status(204).end();
      },
    },
  ];
}

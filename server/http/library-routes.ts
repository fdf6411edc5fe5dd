import { randomUUID } from 'node:crypto';
import { createReadStream, rmSync } from 'node:fs';
import { open as openFile, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { PackReadsShape, readsOf, type PackRead } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { ExportOrder } from '../jobs/export.worker.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { CheckedPacks } from '../samples/checked-packs.ts';
import { fileName } from '../samples/export-instrument.ts';
import { packPath, removePacks } from '../samples/pack-writer.ts';
import type { Catalogue } from '../store/catalogue.ts';
import type { Route } from './access.ts';
import { validBody } from './validate.ts';

/** Libraries, instruments, their audio, files to take along, and long work. */
export function libraryRoutes(
  catalogue: Catalogue,
  jobs: JobQueue,
  packs: CheckedPacks,
  dataFolder: string,
): Route[] {
  const exports = join(dataFolder, 'exports');
  // Written files wait here until the next start.
  rmSync(exports, { recursive: true, force: true });
  const ready = new Map<string, { studioId: string; name: string }>();
  return [
    {
      method: 'get',
      path: '/libraries',
      access: 'viewer',
      handle: async (_request, response, member) => {
        response.json(await catalogue.list(member.studioId, packs.trouble));
      },
    },
    {
      method: 'get',
      path: '/instruments/:id',
      access: 'viewer',
      studioOf: (request) => catalogue.studioOfInstrument(String(request.params.id)),
      handle: async (request, response) => {
        response.json(await catalogue.instrument(String(request.params.id)));
      },
    },
    {
      method: 'get',
      path: '/packs/:id',
      access: 'viewer',
      handle: async (request, response, member) => {
        const id = String(request.params.id);
        if (!/^[0-9a-f]{64}$/.test(id) || !(await catalogue.packBelongsTo(member.studioId, id)))
          throw new FarloError('not-found', 'There is no such pack here.');
        const size = await packs.require(id);
        const path = packPath(dataFolder, id);
        const range = /^bytes=(\d+)-(\d*)$/.exec(request.get('range') ?? '');
        const start = range ? Number(range[1]) : 0;
        const end = range && range[2] !== '' ? Math.min(size - 1, Number(range[2])) : size - 1;
        response.set({
          'Accept-Ranges': 'bytes',
          'Cache-Control': 'private, max-age=31536000, immutable',
          'Content-Type': 'application/octet-stream',
        });
        if (range && start > end) {
          response.status(416).set('Content-Range', `bytes */${size}`).end();
          return;
        }
        if (range) response.status(206).set('Content-Range', `bytes ${start}-${end}/${size}`);
        response.set('Content-Length', String(end - start + 1));
        if (size === 0) response.end();
        else
          createReadStream(path, { start, end, highWaterMark: 1 << 20 })
            .on('error', () => response.destroy())
            .pipe(response);
      },
    },
    {
      method: 'post',
      path: '/packs/read',
      access: 'viewer',
      bodyKb: READS_KB,
      handle: async (request, response, member) => {
        const shape = await validBody(PackReadsShape, request.body);
        const reads = readsOf(shape);
        if (!reads) throw new FarloError('request.invalid', 'The pieces do not fit the packs they speak of.');
        // Everything is checked before the first byte goes out: a stream cannot take back its status.
        for (const pack of shape.packs)
          if (!(await catalogue.packBelongsTo(member.studioId, pack)))
            throw new FarloError('not-found', 'There is no such pack here.');
        let length = 0;
        const sizes = new Map<string, number>();
        for (const pack of new Set(reads.map((read) => read.pack)))
          sizes.set(pack, await packs.require(pack));
        for (const { pack, start, end } of reads) {
          const size = sizes.get(pack) ?? 0;
          if (start >= end || end > size)
            throw new FarloError('request.invalid', `Bytes ${start} to ${end} are not in a pack of ${size}.`);
          length += end - start;
        }
        response.set({
          'Cache-Control': 'no-store',
          'Content-Type': 'application/octet-stream',
          'Content-Length': String(length),
        });
        // A page that goes away in the middle is no failure of ours.
        await pipeline(Readable.from(readPieces(dataFolder, reads), { objectMode: false }), response).catch(
          () => response.destroy(),
        );
      },
    },
    {
      method: 'delete',
      path: '/libraries/:id',
      access: 'editor',
      studioOf: (request) => catalogue.studioOfLibrary(String(request.params.id)),
      handle: async (request, response) => {
        await catalogue.remove(String(request.params.id));
        removePacks(dataFolder, await catalogue.sweep());
        response.status(204).end();
      },
    },
    {
      method: 'post',
      path: '/instruments/:id/export',
      access: 'viewer',
      studioOf: (request) => catalogue.studioOfInstrument(String(request.params.id)),
      handle: async (request, response, member) => {
        const instrument = await catalogue.instrument(String(request.params.id));
        if (!instrument) throw new FarloError('not-found', 'There is no such instrument here.');
        for (const pack of Object.keys(instrument.packs)) await packs.require(pack);
        const file = randomUUID();
        const library = (await catalogue.list(member.studioId)).find((one) =>
          one.instruments.some(({ id }) => id === instrument.id),
        );
        const order: ExportOrder = {
          instrument,
          dataFolder,
          path: join(exports, `${file}.zip`),
          library: library?.name ?? '',
        };
        const job = jobs.add<undefined>({
          kind: 'export',
          title: `Writing ${instrument.name} as SFZ`,
          studioId: member.studioId,
          worker: new URL('../jobs/export.worker.ts', import.meta.url),
          data: order,
          finish: () => {
            ready.set(file, { studioId: member.studioId, name: `${fileName(instrument.name)}.zip` });
            return Promise.resolve(file);
          },
        });
        response.status(202).json(job);
      },
    },
    {
      method: 'get',
      path: '/exports/:id',
      access: 'viewer',
      studioOf: (request) => Promise.resolve(ready.get(String(request.params.id))?.studioId),
      handle: (request, response) => {
        const id = String(request.params.id);
        // The data folder's own name may begin with a dot, which the sender takes for a secret unless told.
        response.download(`${id}.zip`, ready.get(id)?.name ?? 'instrument.zip', {
          root: exports,
          dotfiles: 'allow',
        });
      },
    },
    {
      method: 'get',
      path: '/jobs',
      access: 'viewer',
      handle: (_request, response, member) => {
        response.json(jobs.list(member.studioId));
      },
    },
    {
      method: 'get',
      path: '/jobs/:id',
      access: 'viewer',
      studioOf: (request) => Promise.resolve(jobs.get(String(request.params.id))?.studioId),
      handle: (request, response) => {
        response.json(jobs.get(String(request.params.id))?.info);
      },
    },
    {
      method: 'delete',
      path: '/jobs/:id',
      access: 'editor',
      studioOf: (request) => Promise.resolve(jobs.get(String(request.params.id))?.studioId),
      // What goes on is cancelled and stays on the list; what has ended leaves it.
      handle: (request, response) => {
        const id = String(request.params.id);
        const info = jobs.get(id)?.info;
        if (info?.state === 'waiting' || info?.state === 'running') jobs.cancel(id);
        else jobs.dismiss(id);
        response.json(info);
      },
    },
  ];
}

const PIECE_BYTES = 2 ** 20;
/** Ten thousand pieces in one request, with room. */
const READS_KB = 2048;

/** Pieces of packs one after the other. The next is read while one is sent: disk and network work side by side. */
async function* readPieces(dataFolder: string, reads: readonly PackRead[]): AsyncGenerator<Buffer> {
  let open: { pack: string; file: FileHandle } | undefined;
  let ahead: Promise<Buffer> | undefined;
  try {
    for (const { pack, start, end } of reads) {
      if (open?.pack !== pack) {
        if (ahead) yield await ahead;
        ahead = undefined;
        await open?.file.close();
        open = { pack, file: await openFile(packPath(dataFolder, pack)) };
      }
      for (let at = start; at < end; at += PIECE_BYTES) {
        const next = readPiece(open.file, at, Math.min(end, at + PIECE_BYTES));
        // Whether it failed is asked when its turn comes.
        next.catch(() => undefined);
        if (ahead) yield await ahead;
        ahead = next;
      }
    }
    if (ahead) yield await ahead;
  } finally {
    await ahead?.catch(() => undefined);
    await open?.file.close();
  }
}

/** @throws Error when the file ends before the piece does */
async function readPiece(file: FileHandle, start: number, end: number): Promise<Buffer> {
  const piece = Buffer.allocUnsafe(end - start);
  const { bytesRead } = await file.read(piece, 0, piece.length, start);
  if (bytesRead < piece.length) throw new Error('a pack became shorter while it was read');
  return piece;
}

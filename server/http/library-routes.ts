import { randomUUID } from 'node:crypto';
import { createReadStream, mkdirSync, rmSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import multer from 'multer';
import { FAMILIES, type Family, type InstrumentKind } from '#core/catalogue/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { confinePath } from '#core/formats/index.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { ImportOrder } from '../jobs/import.worker.ts';
import type { ImportFacts } from '../samples/import-library.ts';
import { packPath } from '../samples/pack-writer.ts';
import type { Catalogue, NewLibrary } from '../store/catalogue.ts';
import type { Route } from './access.ts';

const MOST_UPLOAD_BYTES = 4 * 2 ** 30;
const MOST_UPLOAD_FILES = 20_000;

/** Libraries, instruments, their audio, and taking in new ones. */
export function libraryRoutes(catalogue: Catalogue, jobs: JobQueue, dataFolder: string): Route[] {
  const uploads = join(dataFolder, 'uploads');
  const receive = multer({
    storage: multer.diskStorage({
      destination: (request, file, done) => {
        const own = request as typeof request & { uploadFolder?: string };
        own.uploadFolder ??= join(uploads, randomUUID());
        try {
          const path = join(
            own.uploadFolder,
            confinePath('', sentPath(file.originalname), { file: file.originalname }),
          );
          mkdirSync(dirname(path), { recursive: true });
          done(null, dirname(path));
        } catch (error) {
          done(error as Error, '');
        }
      },
      filename: (_request, file, done) =>
        done(null, sentPath(file.originalname).split(/[\\/]/).at(-1) ?? 'file'),
    }),
    limits: { fileSize: MOST_UPLOAD_BYTES, files: MOST_UPLOAD_FILES },
    preservePath: true,
  });
  return [
    {
      method: 'get',
      path: '/libraries',
      access: 'viewer',
      handle: async (_request, response, member) => {
        response.json(await catalogue.list(member.studioId));
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
        const path = packPath(dataFolder, id);
        const size = statSync(path, { throwIfNoEntry: false })?.size;
        if (size === undefined)
          throw new FarloError(
            'sample.missing',
            'The audio of this articulation is no longer on the disk. Take the library in again.',
            { file: id },
          );
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
      path: '/libraries/import',
      access: 'editor',
      before: [receive.array('files', MOST_UPLOAD_FILES)],
      handle: (request, response, member) => {
        const { uploadFolder } = request as typeof request & { uploadFolder?: string };
        const files = (request.files ?? []) as Express.Multer.File[];
        const cleanUp = () => uploadFolder && rmSync(uploadFolder, { recursive: true, force: true });
        try {
          if (!uploadFolder || files.length === 0)
            throw new FarloError(
              'import.no-instrument',
              'No files arrived. Choose a folder or a zip with an .sfz and its WAV files.',
            );
          const zip = files.length === 1 && /\.zip$/i.test(files[0].originalname) ? files[0] : undefined;
          const facts = importFacts(
            request.body as Record<string, unknown>,
            zip?.originalname ?? files[0].originalname,
          );
          const order: ImportOrder = {
            from: zip ? { zip: zip.path, name: zip.originalname } : { folder: uploadFolder },
            facts,
            dataFolder,
          };
          const job = jobs.add<NewLibrary>({
            kind: 'import',
            title: `Taking in ${facts.library}`,
            studioId: member.studioId,
            worker: new URL('../jobs/import.worker.ts', import.meta.url),
            data: order,
            finish: (library) => catalogue.save(member.studioId, library),
            cleanUp,
          });
          response.status(202).json(job);
        } catch (error) {
          cleanUp();
          throw error;
        }
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
      handle: (request, response) => {
        jobs.cancel(String(request.params.id));
        response.json(jobs.get(String(request.params.id))?.info);
      },
    },
  ];
}

/** File names arrive as Latin-1 although browsers send UTF-8. */
function sentPath(name: string): string {
  return Buffer.from(name, 'latin1').toString('utf8');
}

function importFacts(body: Record<string, unknown>, firstName: string): ImportFacts {
  const text = (name: string, otherwise: string) => {
    const value = body[name];
    return typeof value === 'string' && value.trim() !== '' ? value.trim().slice(0, 120) : otherwise;
  };
  const first = firstName.split(/[\\/]/)[0].replace(/\.(zip|sfz)$/i, '');
  const family = text('family', 'other');
  const kind = text('kind', 'solo');
  if (!FAMILIES.includes(family as Family))
    throw new FarloError('request.invalid', `“${family}” is no family.`);
  if (!['section', 'solo', 'ensemble'].includes(kind))
    throw new FarloError('request.invalid', `“${kind}” is no kind of instrument.`);
  return {
    library: text('library', first),
    maker: text('maker', 'own'),
    room: text('room', 'unknown'),
    recipe: 'import',
    family: family as Family,
    kind: kind as InstrumentKind,
    players: Math.min(200, Math.max(1, Math.round(Number(text('players', '1')) || 1))),
  };
}

import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Request, RequestHandler } from 'express';
import multer from 'multer';
import type { ImportProposal } from '#api/index.ts';
import { confinePath } from '#core/formats/index.ts';
import type { SourcePlace } from '../jobs/source-of.ts';

const MOST_UPLOAD_BYTES = 4 * 2 ** 30;
const MOST_UPLOAD_FILES = 20_000;
const MOST_WAITING = 20;

/** Files that arrived and wait for the user's word on them. */
export interface PendingImport {
  id: string;
  studioId: string;
  folder: string;
  from: SourcePlace;
  proposal?: ImportProposal;
}

type Uploading = Request & { uploadFolder?: string };

/** Uploads on the disk, each in a folder of its own, until they are taken in or given up. */
export class Uploads {
  private readonly root: string;
  private readonly pending = new Map<string, PendingImport>();

  constructor(dataFolder: string) {
    this.root = join(dataFolder, 'uploads');
    // What an earlier run left nobody can take in any more.
    if (existsSync(this.root))
      for (const name of readdirSync(this.root))
        rmSync(join(this.root, name), { recursive: true, force: true });
  }

  /** Takes in the files of a form under the paths they were sent with. */
  get receive(): RequestHandler {
    return multer({
      storage: multer.diskStorage({
        destination: (request, file, done) => {
          const own = request as Uploading;
          own.uploadFolder ??= join(this.root, randomUUID());
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
    }).array('files', MOST_UPLOAD_FILES);
  }

  /** What a request brought, as something to be looked at; undefined when it brought nothing. */
  add(request: Request, studioId: string): PendingImport | undefined {
    const { uploadFolder: folder } = request as Uploading;
    const files = (request.files ?? []) as Express.Multer.File[];
    if (!folder || files.length === 0) return undefined;
    const zip = files.length === 1 && /\.zip$/i.test(files[0].originalname) ? files[0] : undefined;
    const from: SourcePlace = zip ? { zip: zip.path, name: sentPath(zip.originalname) } : { folder };
    const one = { id: randomUUID(), studioId, folder, from };
    this.pending.set(one.id, one);
    const oldest = [...this.pending.values()].slice(0, -MOST_WAITING);
    for (const { id } of oldest) this.drop(id);
    return one;
  }

  get(id: string): PendingImport | undefined {
    return this.pending.get(id);
  }

  /** Removes an upload with its files. */
  drop(id: string): void {
    const one = this.pending.get(id);
    this.pending.delete(id);
    if (one) rmSync(one.folder, { recursive: true, force: true });
  }

  /** Removes what a refused request left. */
  dropRequest(request: Request): void {
    const { uploadFolder } = request as Uploading;
    if (uploadFolder) rmSync(uploadFolder, { recursive: true, force: true });
  }
}

/** File names arrive as Latin-1 although browsers send UTF-8. */
export function sentPath(name: string): string {
  return Buffer.from(name, 'latin1').toString('utf8');
}

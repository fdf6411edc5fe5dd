import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import type { Request, RequestHandler } from 'express';
import multer from 'multer';
import type { ImportProposal } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { confinePath } from '#core/formats/index.ts';
import type { SourcePlace } from '../jobs/source-of.ts';

const MOST_UPLOAD_BYTES = 4 * 2 ** 30;
const MOST_UPLOAD_FILES = 20_000;
/** Uploads of one studio that may wait for a word at once. */
const MOST_WAITING = 5;
const LONGEST_NAME_BYTES = 200;
const LONGEST_PATH_BYTES = 1000;

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

  /** Takes in the files of a form under the paths they were sent with; a refused one leaves nothing behind. */
  get receive(): RequestHandler {
    const read = multer({
      storage: multer.diskStorage({
        destination: (request, file, done) => {
          const own = request as Uploading;
          own.uploadFolder ??= join(this.root, randomUUID());
          try {
            const path = join(own.uploadFolder, uploadPath(file.originalname));
            mkdirSync(dirname(path), { recursive: true });
            done(null, dirname(path));
          } catch (error) {
            done(error as Error, '');
          }
        },
        filename: (_request, file, done) => done(null, basename(uploadPath(file.originalname))),
      }),
      limits: { fileSize: MOST_UPLOAD_BYTES, files: MOST_UPLOAD_FILES, fields: 100, fieldSize: 10_000 },
      preservePath: true,
    }).array('files', MOST_UPLOAD_FILES);
    return (request, response, next) => {
      const failed = (error: unknown) => {
        this.dropRequest(request);
        next(uploadTrouble(error));
      };
      try {
        // It throws at once when the form has no boundary.
        read(request, response, (error: unknown) => (error ? failed(error) : next()));
      } catch (error) {
        failed(error);
      }
    };
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
    const own = [...this.pending.values()].filter((other) => other.studioId === studioId);
    const oldest = own.slice(0, -MOST_WAITING);
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

  /**
   * The one recording a request brought: its upload, where it lies, and its name without folders.
   * @throws FarloError when it brought none, or several; nothing of them stays
   */
  recording(request: Request, studioId: string): { id: string; path: string; name: string } {
    const files = (request.files ?? []) as Express.Multer.File[];
    const pending = files.length === 1 ? this.add(request, studioId) : undefined;
    if (!pending) {
      this.dropRequest(request);
      throw new FarloError('request.invalid', 'Choose one WAV or FLAC file.');
    }
    const name = sentPath(files[0].originalname).split(/[\\/]/).at(-1) ?? 'recording';
    return { id: pending.id, path: files[0].path, name };
  }
}

/**
 * Path of a sent file below its folder.
 * @throws FarloError for names that no file can have, or that lead out of the folder
 */
export function uploadPath(originalName: string): string {
  const path = sentPath(originalName);
  const refuse = (sentence: string): never => {
    throw new FarloError('request.invalid', sentence, { file: path.replaceAll('\0', '').slice(0, 80) });
  };
  const names = path.split(/[\\/]/);
  if (/\p{Cc}/u.test(path))
    refuse('A file name holds signs that no name can have. Rename it, then send it again.');
  if (names.at(-1) === '' || ['.', '..'].includes(names.at(-1) ?? ''))
    refuse('This is the name of a folder, not of a file.');
  if (
    Buffer.byteLength(path) > LONGEST_PATH_BYTES ||
    names.some((name) => Buffer.byteLength(name) > LONGEST_NAME_BYTES)
  )
    refuse('This file name is too long. Shorten it, then send it again.');
  return confinePath('', path, { file: path });
}

/** A failed upload in words: broken forms and colliding names are the sender's, a full disk is ours. */
function uploadTrouble(error: unknown): unknown {
  if (error instanceof FarloError) return error;
  const { code, name } = error as { code?: string; name?: string };
  if (['EEXIST', 'ENOTDIR', 'EISDIR', 'ENAMETOOLONG', 'ELOOP'].includes(code ?? ''))
    return new FarloError(
      'request.invalid',
      'Two of the files cannot lie beside each other: one has the name of a folder of the other.',
    );
  if (code !== undefined || name === 'MulterError') return error;
  return new FarloError('request.invalid', 'The upload was cut off or is damaged. Send it again.');
}

/** File names arrive as Latin-1 although browsers send UTF-8. */
export function sentPath(name: string): string {
  return Buffer.from(name, 'latin1').toString('utf8');
}

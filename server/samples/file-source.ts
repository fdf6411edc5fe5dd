import { BlobReader, Uint8ArrayWriter, ZipReader, type Entry, type FileEntry } from '@zip.js/zip.js';
import { openAsBlob, readFileSync, readdirSync, statSync } from 'node:fs';
import { join, relative, sep } from 'node:path';
import { FarloError } from '#core/errors/index.ts';
import { confinePath } from '#core/formats/index.ts';

/** Files of an import, wherever they lie. Paths use forward slashes and stay inside. */
export interface FileSource {
  paths: readonly string[];
  read(path: string): Promise<Uint8Array>;
  /** Bytes of a file, known without reading it; 0 of one that is not there. */
  size(path: string): number;
  close(): Promise<void>;
}

const MOST_FILES = 60_000;
const MOST_BYTES = 8 * 2 ** 30;
const MOST_BYTES_A_FILE = 2 ** 30;
/** Audio packs down to a third at best; a hundredfold is an attack. */
const MOST_RATIO = 200;

/** Files below a folder. */
export function folderSource(folder: string): FileSource {
  const paths: string[] = [];
  const visit = (at: string) => {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      // Links could point outside the folder.
      if (entry.isDirectory()) visit(path);
      else if (entry.isFile()) paths.push(relative(folder, path).split(sep).join('/'));
      if (paths.length > MOST_FILES) throw new FarloError('file.too-large', `More than ${MOST_FILES} files.`);
    }
  };
  visit(folder);
  return {
    paths,
    read: async (path) => {
      const full = join(folder, confinePath('', path, { file: path }));
      if (statSync(full).size > MOST_BYTES_A_FILE)
        throw new FarloError('file.too-large', 'The file is larger than 1 GB.', { file: path });
      return readFileSync(full);
    },
    size: (path) =>
      statSync(join(folder, confinePath('', path, { file: path })), { throwIfNoEntry: false })?.size ?? 0,
    close: async () => undefined,
  };
}

/** Files made in memory, for what was recorded here. */
export function memorySource(files: ReadonlyMap<string, Uint8Array>): FileSource {
  return {
    paths: [...files.keys()],
    read: (path) => {
      const bytes = files.get(path);
      return bytes
        ? Promise.resolve(bytes)
        : Promise.reject(new FarloError('sfz.sample-missing', `“${path}” is not there.`));
    },
    size: (path) => files.get(path)?.length ?? 0,
    close: () => Promise.resolve(),
  };
}

/** Files inside a zip. @throws FarloError for damaged archives, paths that leave it, and sizes beyond reason */
export async function zipSource(file: string, name: string): Promise<FileSource> {
  const reader = new ZipReader(new BlobReader(await openAsBlob(file)), {
    checkSignature: true,
    useWebWorkers: false,
  });
  let entries: Entry[];
  try {
    entries = await reader.getEntries();
  } catch (error) {
    throw new FarloError(
      'file.damaged',
      `The zip cannot be opened (${messageOf(error)}). Make it again or copy it again.`,
      { file: name },
    );
  }
  if (entries.length > MOST_FILES)
    throw new FarloError('file.too-large', `The zip holds more than ${MOST_FILES} files.`, { file: name });
  const byPath = new Map<string, FileEntry>();
  let total = 0;
  for (const entry of entries) {
    const path = confinePath('', entry.filename, { file: `${name}/${entry.filename}` });
    if (entry.directory) continue;
    total += entry.uncompressedSize;
    if (entry.uncompressedSize > MOST_BYTES_A_FILE || total > MOST_BYTES)
      throw new FarloError(
        'file.too-large',
        'The zip unpacks to more than Farlo takes (1 GB a file, 8 GB in all).',
        { file: `${name}/${path}` },
      );
    if (
      entry.uncompressedSize > 1e6 &&
      entry.uncompressedSize > MOST_RATIO * Math.max(1, entry.compressedSize)
    )
      throw new FarloError(
        'file.too-large',
        'This entry unpacks to more than 200 times its size, which no recording does.',
        { file: `${name}/${path}` },
      );
    byPath.set(path, entry);
  }
  return {
    paths: [...byPath.keys()],
    read: async (path) => {
      const entry = byPath.get(path);
      if (!entry) throw new FarloError('sfz.sample-missing', `“${path}” is not in the zip.`, { file: name });
      try {
        return await entry.getData(new Uint8ArrayWriter());
      } catch (error) {
        throw new FarloError('file.damaged', `This entry of the zip is damaged (${messageOf(error)}).`, {
          file: `${name}/${path}`,
        });
      }
    },
    size: (path) => byPath.get(path)?.uncompressedSize ?? 0,
    close: () => reader.close(),
  };
}

function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

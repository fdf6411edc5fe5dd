import {
  BlobReader,
  TextWriter,
  Uint8ArrayWriter,
  ZipReader,
  type Entry,
  type FileEntry,
} from '@zip.js/zip.js';
import { FarloError } from '#core/errors/index.ts';
import { quoted } from '#core/formats/index.ts';

const MOST_ENTRIES = 1000;
const MOST_BYTES = 100 * 2 ** 20;
/** Text is never packed more tightly. */
const MOST_RATIO = 200;

/** The text of a score, as it is or packed (.mxl). @throws FarloError */
export async function scoreText(bytes: Uint8Array, file: string): Promise<string> {
  return isZip(bytes) ? unpacked(bytes, file) : decoded(bytes);
}

const isZip = ([p, k]: Uint8Array) => p === 0x50 && k === 0x4b;

/** XML says in its first bytes how it is written: UTF-16 with its mark, else UTF-8. */
function decoded(bytes: Uint8Array): string {
  const [a, b] = bytes;
  const encoding = a === 0xff && b === 0xfe ? 'utf-16le' : a === 0xfe && b === 0xff ? 'utf-16be' : 'utf-8';
  return new TextDecoder(encoding).decode(bytes);
}

/** The score of a packed file: the one its container names, else the first XML in it. */
async function unpacked(bytes: Uint8Array, file: string): Promise<string> {
  const damaged = (why: string) =>
    new FarloError('file.damaged', `The packed score cannot be opened: ${quoted(why)}.`, { file });
  const reader = new ZipReader(new BlobReader(new Blob([bytes as BlobPart])), { checkSignature: true });
  try {
    const entries = (await reader.getEntries()).filter(isFile);
    if (entries.length > MOST_ENTRIES)
      throw new FarloError('file.too-large', `More than ${MOST_ENTRIES} files are packed into it.`, { file });
    const named = (name: string) => entries.find(({ filename }) => filename === name);
    const container = named('META-INF/container.xml');
    const path =
      container && /full-path\s*=\s*["']([^"']+)["']/.exec(await text(bounded(container, file)))?.[1];
    const score =
      (path === undefined ? undefined : named(path)) ??
      entries.find(
        ({ filename }) => /\.(xml|musicxml)$/i.test(filename) && !filename.startsWith('META-INF/'),
      );
    if (!score)
      throw new FarloError('file.not-this-format', 'There is no score in this packed file.', { file });
    return decoded(await bounded(score, file).getData(new Uint8ArrayWriter()));
  } catch (error) {
    throw error instanceof FarloError ? error : damaged((error as Error).message);
  } finally {
    await reader.close();
  }
}

const isFile = (entry: Entry): entry is FileEntry => !entry.directory;

/** A file of the archive that is no larger than a score may be. @throws FarloError */
function bounded(entry: FileEntry, file: string): FileEntry {
  const { uncompressedSize, compressedSize } = entry;
  if (uncompressedSize > MOST_BYTES || uncompressedSize > MOST_RATIO * Math.max(1024, compressedSize))
    throw new FarloError('file.too-large', 'Unpacked, the score would be larger than any is.', { file });
  return entry;
}

const text = (entry: FileEntry) => entry.getData(new TextWriter());

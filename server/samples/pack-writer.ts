import { createHash } from 'node:crypto';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { frameBytes, type PackInfo, type SampleInfo } from '#core/catalogue/index.ts';

/** Heads are this long: enough to begin at once while the rest is on its way. */
export const HEAD_SECONDS = 0.25;

/** Audio of one sample ready to be kept: interleaved little-endian bytes. */
export interface StoredAudio {
  id: string;
  bytes: Uint8Array;
  frames: number;
  channels: 1 | 2;
  rate: number;
  format: 'i16' | 'f32';
}

/** A pack as it lay on the disk when it had just been written. */
export interface WrittenPack {
  id: string;
  bytes: number;
  stamp: string;
}

/** What tells that a file was not touched. */
export const stampFor = ({ size, mtimeMs }: { size: number; mtimeMs: number }): string =>
  `${size} ${mtimeMs}`;

/** Where a pack lies below the data folder. */
export function packPath(dataFolder: string, id: string): string {
  return join(dataFolder, 'packs', id.slice(0, 2), `${id}.pack`);
}

/** SHA-256 of audio and format, hex. */
export function sampleId(bytes: Uint8Array, format: string, channels: number, rate: number): string {
  return createHash('sha256').update(`${format} ${channels} ${rate}\n`).update(bytes).digest('hex');
}

/**
 * Writes samples into one pack: all heads, then all rests. The file appears under its content's name only when
 * it is complete; a pack that is there already is not written again.
 * @returns `written` where it was
 */
export function writePack(
  dataFolder: string,
  articulation: string,
  position: string,
  audio: readonly StoredAudio[],
): { pack: PackInfo; samples: SampleInfo[]; written?: WrittenPack } {
  const headFrames = (a: StoredAudio) => Math.min(a.frames, Math.round(HEAD_SECONDS * a.rate));
  const heads = audio.map((a) => a.bytes.subarray(0, headFrames(a) * frameBytes(a)));
  const tails = audio.map((a, i) => a.bytes.subarray(heads[i].length));
  const hash = createHash('sha256');
  for (const part of [...heads, ...tails]) hash.update(part);
  const id = hash.digest('hex');
  const headBytes = heads.reduce((sum, head) => sum + head.length, 0);
  const bytes = tails.reduce((sum, tail) => sum + tail.length, headBytes);
  let headOffset = 0;
  let tailOffset = headBytes;
  const samples = audio.map((a, i): SampleInfo => {
    const info = {
      id: a.id,
      frames: a.frames,
      channels: a.channels,
      rate: a.rate,
      format: a.format,
      pack: id,
      headOffset,
      headFrames: headFrames(a),
      tailOffset,
    };
    headOffset += heads[i].length;
    tailOffset += tails[i].length;
    return info;
  });
  const pack = { id, articulation, position, headBytes, bytes };
  const path = packPath(dataFolder, id);
  if (existsSync(path)) return { pack, samples };
  mkdirSync(dirname(path), { recursive: true });
  const draft = `${path}.${process.pid}.part`;
  const file = openSync(draft, 'w');
  try {
    for (const part of [...heads, ...tails]) writeSync(file, part);
  } catch (error) {
    closeSync(file);
    rmSync(draft, { force: true });
    throw error;
  }
  closeSync(file);
  renameSync(draft, path);
  return { pack, samples, written: { id, bytes, stamp: stampFor(statSync(path)) } };
}

/** Removes packs that nothing refers to any more. */
export function removePacks(dataFolder: string, ids: readonly string[]): void {
  for (const id of ids) rmSync(packPath(dataFolder, id), { force: true });
}

/** Ids of all packs on the disk; drafts that a killed import left are removed. */
export function packsOnDisk(dataFolder: string): string[] {
  const root = join(dataFolder, 'packs');
  if (!existsSync(root)) return [];
  return readdirSync(root).flatMap((folder) =>
    readdirSync(join(root, folder)).flatMap((name) => {
      if (name.endsWith('.pack')) return [name.slice(0, -'.pack'.length)];
      rmSync(join(root, folder, name), { force: true });
      return [];
    }),
  );
}

import {
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { CheckedPacks } from './checked-packs.ts';
import { packPath, stampFor, writePack } from './pack-writer.ts';

const folder = mkdtempSync(join(tmpdir(), '.farlo-packs-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

let id: string;
let bytes: number;
let packs: CheckedPacks;
beforeEach(() => {
  const sound = Uint8Array.from({ length: 4000 }, (_, i) => (i * 37) % 251);
  const { pack } = writePack(folder, 'long', 'close', [
    { id: 'a'.repeat(64), bytes: sound, frames: 1000, channels: 2, rate: 48_000, format: 'i16' },
  ]);
  ({ id, bytes } = pack);
  packs = new CheckedPacks(folder, (wanted) =>
    Promise.resolve(wanted === id ? { bytes, libraries: ['Mooring Sounds', 'Twin'] } : undefined),
  );
});
const trouble = () =>
  packs.require(id).then(
    () => undefined,
    (error: { code: string; message: string }) => [error.code, error.message],
  );
const REMEDY = 'They are not played. Put the file back from a backup, or take the library in again.';

describe('a pack', () => {
  it('that is what was stored is read', async () => {
    expect(await packs.require(id)).toBe(4000);
    expect(packs.trouble.size).toBe(0);
  });
  it('that was whole and lies untouched is read again without asking the database; touched, it is looked at anew', async () => {
    let asked = 0;
    const counted = new CheckedPacks(folder, () => {
      asked++;
      return Promise.resolve({ bytes, libraries: [] });
    });
    for (let i = 0; i < 5; i++) expect(await counted.require(id)).toBe(4000);
    expect(asked).toBe(1);
    utimesSync(packPath(folder, id), new Date(), new Date(Date.now() + 9000));
    expect(await counted.require(id)).toBe(4000);
    expect(asked).toBe(2);
    rmSync(packPath(folder, id));
    await expect(counted.require(id)).rejects.toMatchObject({ code: 'sample.missing' });
    expect(asked).toBe(3);
  });
  it('that was written just now is not looked at until somebody touches it', async () => {
    const sound = Uint8Array.from({ length: 4000 }, (_, i) => (i * 31) % 241);
    const audio = [
      { id: 'b'.repeat(64), bytes: sound, frames: 1000, channels: 2, rate: 48_000, format: 'i16' },
    ] as const;
    const { pack, written } = writePack(folder, 'long', 'close', audio);
    if (!written) throw new Error('it was there before');
    // What lies there already is nobody's to vouch for.
    expect(writePack(folder, 'long', 'close', audio).written).toBeUndefined();
    const path = packPath(folder, pack.id);
    const own = new CheckedPacks(folder, () => Promise.resolve({ bytes: 4000, libraries: [] }));
    expect(written).toEqual({ id: pack.id, bytes: 4000, stamp: stampFor(statSync(path)) });
    const time = new Date(1_700_000_000_000);
    utimesSync(path, time, time);
    own.trust([{ ...written, stamp: stampFor(statSync(path)) }]);
    // One bit flips under the same time and size: nobody has looked.
    sound[7] ^= 1;
    writeFileSync(path, sound);
    utimesSync(path, time, time);
    expect(await own.require(pack.id)).toBe(4000);
    utimesSync(path, time, new Date(1_700_000_001_000));
    await expect(own.require(pack.id)).rejects.toMatchObject({ code: 'sample.damaged' });
    rmSync(path);
  });
  it('in which one bit flipped is not played, and the libraries are named', async () => {
    const path = packPath(folder, id);
    const data = readFileSync(path);
    data[2345] ^= 1;
    writeFileSync(path, data);
    expect(await trouble()).toEqual([
      'sample.damaged',
      `Recordings of “Mooring Sounds” and “Twin” are not what was stored: the disk or somebody changed them. ${REMEDY}`,
    ]);
    expect(packs.trouble.get(id)).toContain('Mooring Sounds');
    data[2345] ^= 1;
    writeFileSync(path, data);
    utimesSync(path, new Date(), new Date(Date.now() + 5000));
    expect(await packs.require(id)).toBe(4000);
    expect(packs.trouble.size).toBe(0);
  });
  it('that was cut off is told so', async () => {
    const whole = readFileSync(packPath(folder, id));
    truncateSync(packPath(folder, id), 3999);
    expect(await trouble()).toEqual([
      'sample.damaged',
      `A file with recordings of “Mooring Sounds” and “Twin” was cut off. ${REMEDY}`,
    ]);
    writeFileSync(packPath(folder, id), whole);
  });
  it('that became longer is not what was stored', async () => {
    const whole = readFileSync(packPath(folder, id));
    writeFileSync(packPath(folder, id), Buffer.concat([whole, Buffer.from([0])]));
    expect((await trouble())?.[0]).toBe('sample.damaged');
    writeFileSync(packPath(folder, id), whole);
  });
  it('that is gone is told so', async () => {
    rmSync(packPath(folder, id));
    expect(await trouble()).toEqual([
      'sample.missing',
      `Recordings of “Mooring Sounds” and “Twin” are no longer on the disk. ${REMEDY}`,
    ]);
  });
  it('is looked at as a whole only once while its file stays as it is', async () => {
    await packs.require(id);
    const path = packPath(folder, id);
    const stamp = new Date(1_700_000_000_000);
    utimesSync(path, stamp, stamp);
    await packs.require(id);
    const data = readFileSync(path);
    data[0] ^= 1;
    writeFileSync(path, data);
    utimesSync(path, stamp, stamp);
    // Same size and time: not looked at again, as said.
    expect(await trouble()).toBeUndefined();
    utimesSync(path, stamp, new Date(1_700_000_001_000));
    expect((await trouble())?.[0]).toBe('sample.damaged');
    data[0] ^= 1;
    writeFileSync(path, data);
  });
  it('nobody knows is told without a name', async () => {
    await expect(packs.require('f'.repeat(64))).rejects.toMatchObject({
      message: `Recordings of a library are no longer on the disk. ${REMEDY}`,
    });
  });
});

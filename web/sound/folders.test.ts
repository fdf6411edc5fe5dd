import { beforeEach, describe, expect, it, vi } from 'vitest';
import { readWav } from '#core/formats/index.ts';
import { TAB } from '../state/tab.ts';
import { TestDisk, type TestFolder } from '../testing/disk.ts';
import { FileWriter } from './file-writer.ts';
import { makeFolder, openOnDisk, removeFolder, writeWhole, type Folder } from './folders.ts';
import { forgetFile, keepFile, useMadeFiles } from './made-files.ts';
import { eventually } from '#core/testing/eventually.ts';

let disk: TestDisk;
beforeEach(() => {
  disk = new TestDisk();
  const held = { held: [{ name: `farlo-tab-${TAB}` }, { name: 'farlo-tab-other' }] };
  const locks = {
    request: (_: string, hold: () => unknown) => Promise.resolve(hold()),
    query: () => Promise.resolve(held),
  };
  vi.stubGlobal('navigator', { storage: disk.storage, locks });
  useMadeFiles.setState([], true);
});
const folderOf = ({ tab, name }: Folder): TestFolder | undefined =>
  disk.top.folders.get('bounces')?.folders.get(tab)?.folders.get(name);
const made = async () => {
  const folder = await makeFolder();
  if (!folder) throw new Error('no folder');
  return folder;
};

describe('folders of the page on the disk of the browser', () => {
  it('are made for this tab, each by itself, and taken away one by one', async () => {
    const [one, other] = [await made(), await made()];
    expect(one.tab).toBe(TAB);
    expect(folderOf(one)).not.toBe(folderOf(other));
    await removeFolder(one);
    expect(folderOf(one)).toBeUndefined();
    expect(folderOf(other)).toBeDefined();
    // Gone already: no trouble.
    await removeFolder(one);
  });
  it('of tabs that are gone are taken away, those of tabs that live are not', async () => {
    const all = await disk.top.getDirectoryHandle('bounces', { create: true });
    for (const tab of ['gone', 'other', 'still-written'])
      await (
        await all.getDirectoryHandle(tab, { create: true })
      ).getDirectoryHandle('a', {
        create: true,
      });
    const written = all.folders.get('still-written')?.folders.get('a');
    await (await written?.getFileHandle('x'))?.createSyncAccessHandle();
    await made();
    expect([...all.folders.keys()].sort()).toEqual([TAB, 'other', 'still-written'].sort());
  });
  it('are not there where the browser has no disk', async () => {
    vi.stubGlobal('navigator', {});
    expect(await makeFolder()).toBeUndefined();
    vi.stubGlobal('navigator', { storage: { getDirectory: () => Promise.reject(new Error('private')) } });
    expect(await makeFolder()).toBeUndefined();
  });
});

describe('a file on that disk', () => {
  const wave = Float32Array.from({ length: 5000 }, (_, i) => Math.sin(i / 9) / 2);
  it.each(['i24', 'f32'] as const)(
    '%s: is what it would be in memory, cut where it is to end',
    async (format) => {
      for (const frames of [undefined, 7001, 0]) {
        const [onDisk, inMemory] = [
          await FileWriter.open(format, await made()),
          await FileWriter.open(format, undefined),
        ];
        for (const writer of [onDisk, inMemory])
          for (let i = 0; i < 3; i++) writer.write(wave, wave.slice().reverse());
        const files = [await onDisk.finish(frames), await inMemory.finish(frames)];
        const [one, other] = await Promise.all(
          files.map(async (file) => new Uint8Array(await file.arrayBuffer())),
        );
        expect(one).toEqual(other);
        expect(files[0].type).toBe('audio/wav');
        expect(readWav(one, 'x').channels[0].length).toBe(frames ?? 15_000);
      }
    },
  );
  it('that does not fit says so', async () => {
    const folder = await made();
    disk.room = 100;
    const writer = await FileWriter.open('i24', folder);
    expect(() => writer.write(wave, wave)).toThrow('make room');
    const { access } = await openOnDisk(folder);
    disk.room = 10;
    expect(writeWhole(access, new Uint8Array(10), 0)).toBe(10);
    expect(() => writeWhole(access, new Uint8Array(1), 10)).toThrow('make room');
  });
});

describe('files of this visit', () => {
  it('are listed latest first, and leave the disk with the last of their folder', async () => {
    const folder = await made();
    keepFile('a.wav', new Blob(['12345']), 'first', folder);
    keepFile('b.wav', new Blob(['1']), 'second', folder);
    keepFile('c.mid', new Blob(['123']), 'third');
    const [c, b, a] = useMadeFiles.getState();
    expect([c, b, a].map(({ name, bytes }) => [name, bytes])).toEqual([
      ['c.mid', 3],
      ['b.wav', 1],
      ['a.wav', 5],
    ]);
    const revoke = vi.spyOn(URL, 'revokeObjectURL');
    forgetFile(a);
    expect(revoke).toHaveBeenCalledWith(a.url);
    forgetFile(c);
    expect(useMadeFiles.getState()).toEqual([b]);
    await Promise.resolve();
    expect(folderOf(folder)).toBeDefined();
    forgetFile(b);
    await eventually(() => expect(folderOf(folder)).toBeUndefined());
    expect(useMadeFiles.getState()).toEqual([]);
  });
});

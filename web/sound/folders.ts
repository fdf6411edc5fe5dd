import { aliveTabs, TAB } from '../state/tab.ts';

/** A folder on the browser's own disk: the tab that made it, and its name. */
export interface Folder {
  tab: string;
  name: string;
}

/** What the browser offers to threads for writing into a file at once. */
export interface DiskAccess {
  write(bytes: Uint8Array, options: { at: number }): number;
  truncate(bytes: number): void;
  close(): void;
}
interface DiskFile extends FileSystemFileHandle {
  createSyncAccessHandle(): Promise<DiskAccess>;
}

/** A file that is being written. */
export interface OpenFile {
  handle: FileSystemFileHandle;
  access: DiskAccess;
}

const ROOT = 'bounces';

async function root(): Promise<FileSystemDirectoryHandle> {
  return (await navigator.storage.getDirectory()).getDirectoryHandle(ROOT, { create: true });
}

async function handleOf({ tab, name }: Folder, create = false): Promise<FileSystemDirectoryHandle> {
  const own = await (await root()).getDirectoryHandle(tab, { create });
  return own.getDirectoryHandle(name, { create });
}

/**
 * Makes a folder for files of this tab, and takes away what tabs that are gone left behind.
 * @returns undefined where the browser has no disk for us: a private window, or an old one
 */
export async function makeFolder(): Promise<Folder | undefined> {
  const folder = { tab: TAB, name: crypto.randomUUID() };
  try {
    await handleOf(folder, true);
    await sweep();
    return folder;
  } catch {
    return undefined;
  }
}

/** Takes away folders of tabs that are gone. */
async function sweep(): Promise<void> {
  const [all, alive] = [await root(), await aliveTabs()];
  const names: string[] = [];
  for await (const name of (all as unknown as { keys(): AsyncIterable<string> }).keys()) names.push(name);
  // One that a thread still writes into goes the next time.
  for (const name of names)
    if (!alive.has(name)) await all.removeEntry(name, { recursive: true }).catch(() => undefined);
}

/** Takes a folder away with all that is in it; what is gone already is no trouble. */
export async function removeFolder({ tab, name }: Folder): Promise<void> {
  try {
    const own = await (await root()).getDirectoryHandle(tab);
    await own.removeEntry(name, { recursive: true });
  } catch {
    // It goes when the tab is gone.
  }
}

/** Makes a file in a folder and opens it for writing; for threads. */
export async function openOnDisk(folder: Folder): Promise<OpenFile> {
  const own = await handleOf(folder);
  const handle = await own.getFileHandle(crypto.randomUUID(), { create: true });
  return { handle, access: await (handle as DiskFile).createSyncAccessHandle() };
}

/** Writes all of some bytes. @returns how many; @throws Error when the disk is full */
export function writeWhole(access: DiskAccess, bytes: Uint8Array, at: number): number {
  if (access.write(bytes, { at }) !== bytes.length)
    throw new Error('the disk took only a part of a file; make room on it');
  return bytes.length;
}

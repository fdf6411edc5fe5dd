import { create } from 'zustand';
import { removeFolder, type Folder } from './folders.ts';

/** A file made in this visit. */
export interface MadeFile {
  name: string;
  url: string;
  bytes: number;
  about: string;
  /** Of the browser's disk, in which it lies; in its memory unless given. */
  folder?: Folder;
}

/** Files made since the page was opened, the latest first; they are gone with the page. */
export const useMadeFiles = create<readonly MadeFile[]>(() => []);

/** Offers a file for saving. */
export function keepFile(name: string, file: Blob, about: string, folder?: Folder): void {
  const made = { name, url: URL.createObjectURL(file), bytes: file.size, about, folder };
  useMadeFiles.setState((list) => [made, ...list], true);
}

/** Takes a file off the list, and off the disk with the last one of its folder. */
export function forgetFile({ url, folder }: MadeFile): void {
  URL.revokeObjectURL(url);
  const rest = useMadeFiles.getState().filter((file) => file.url !== url);
  useMadeFiles.setState(rest, true);
  if (folder && !rest.some((file) => file.folder?.name === folder.name)) void removeFolder(folder);
}

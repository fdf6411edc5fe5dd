import { FarloError, type Place } from '../errors/index.ts';
import { quoted } from './quoted.ts';

/**
 * A path inside a folder in one spelling: forward slashes, no `.` or `..`.
 * @throws FarloError when it is absolute, empty or leaves the folder
 */
export function confinePath(base: string, path: string, place: Place): string {
  const spelled = path.replaceAll('\\', '/');
  const refuse = () => {
    throw new FarloError(
      'sfz.path-leaves-folder',
      `The path “${quoted(path)}” leaves the folder that was given; only files inside it are read.`,
      place,
    );
  };
  if (spelled.startsWith('/') || /^[A-Za-z]:/.test(spelled) || spelled.includes('\0')) refuse();
  const parts: string[] = [];
  for (const part of `${base}/${spelled}`.split('/')) {
    if (part === '' || part === '.') continue;
    if (part === '..') {
      if (parts.length === 0) refuse();
      parts.pop();
    } else parts.push(part);
  }
  if (parts.length === 0) refuse();
  return parts.join('/');
}

/** Folder part of a confined path, '' for the top. */
export function folderOf(path: string): string {
  const cut = path.lastIndexOf('/');
  return cut < 0 ? '' : path.slice(0, cut);
}

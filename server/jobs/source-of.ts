import { folderSource, zipSource, type FileSource } from '../samples/file-source.ts';

/** Where files to be brought in lie. */
export type SourcePlace = { folder: string } | { zip: string; name: string };

/** Opens what was uploaded. */
export function openSource(place: SourcePlace): Promise<FileSource> {
  return 'folder' in place ? Promise.resolve(folderSource(place.folder)) : zipSource(place.zip, place.name);
}

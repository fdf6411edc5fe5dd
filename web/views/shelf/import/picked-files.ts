/** A file with the path it is sent under. */
export interface Picked {
  path: string;
  file: File;
}

/** Files of an input; those of a folder carry their paths in it. */
export function filesOf(list: FileList | null): Picked[] {
  return [...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
}

/** Files of a drop, folders walked through. */
export async function readDropped(transfer: DataTransfer): Promise<Picked[]> {
  const entries = [...transfer.items]
    .map((item) => item.webkitGetAsEntry())
    .filter((entry) => entry !== null);
  const picked: Picked[] = [];
  const visit = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) =>
        (entry as FileSystemFileEntry).file(resolve, reject),
      );
      picked.push({ path: entry.fullPath.replace(/^\//, ''), file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    // A reader gives a hundred entries at a time.
    for (let batch = await readBatch(reader); batch.length > 0; batch = await readBatch(reader))
      for (const child of batch) await visit(child);
  };
  for (const entry of entries) await visit(entry);
  return picked;
}

function readBatch(reader: FileSystemDirectoryReader): Promise<FileSystemEntry[]> {
  return new Promise((resolve, reject) => reader.readEntries(resolve, reject));
}

/** A stand-in for the disk that a browser gives a page, in memory. */
export class TestDisk {
  /** Bytes that still fit. */
  room = Infinity;
  readonly top = new TestFolder(this);
  readonly storage = { getDirectory: () => Promise.resolve(this.top) };
}

export class TestFolder {
  readonly folders = new Map<string, TestFolder>();
  readonly files = new Map<string, TestFile>();

  constructor(private readonly disk: TestDisk) {}

  getDirectoryHandle(name: string, options?: { create?: boolean }): Promise<TestFolder> {
    const found = this.folders.get(name) ?? (options?.create ? new TestFolder(this.disk) : undefined);
    if (!found) return Promise.reject(new Error(`no folder ${name}`));
    this.folders.set(name, found);
    return Promise.resolve(found);
  }

  getFileHandle(name: string): Promise<TestFile> {
    const file = new TestFile(this.disk);
    this.files.set(name, file);
    return Promise.resolve(file);
  }

  removeEntry(name: string): Promise<void> {
    const entry = this.folders.get(name);
    const isWritten = entry?.isWritten ?? false;
    if (!entry || isWritten)
      return Promise.reject(new Error(entry ? 'it is written into' : `no folder ${name}`));
    this.folders.delete(name);
    return Promise.resolve();
  }

  get isWritten(): boolean {
    return (
      [...this.files.values()].some(({ isOpen }) => isOpen) ||
      [...this.folders.values()].some((folder) => folder.isWritten)
    );
  }

  keys(): AsyncIterable<string> {
    const names = [...this.folders.keys(), ...this.files.keys()];
    // eslint-disable-next-line @typescript-eslint/require-await -- a list that comes one by one
    return (async function* () {
      yield* names;
    })();
  }
}

class TestFile {
  isOpen = false;
  private bytes = new Uint8Array();

  constructor(private readonly disk: TestDisk) {}

  createSyncAccessHandle() {
    this.isOpen = true;
    return Promise.resolve({
      write: (bytes: Uint8Array, { at }: { at: number }) => {
        const count = Math.min(bytes.length, this.disk.room);
        this.disk.room -= count;
        this.grow(at + count);
        this.bytes.set(bytes.subarray(0, count), at);
        return count;
      },
      truncate: (length: number) => {
        this.grow(length);
        this.bytes = this.bytes.slice(0, length);
      },
      close: () => (this.isOpen = false),
    });
  }

  getFile(): Promise<Blob> {
    if (this.isOpen) throw new Error('it is still written');
    return Promise.resolve(new Blob([this.bytes]));
  }

  private grow(length: number): void {
    if (length <= this.bytes.length) return;
    const grown = new Uint8Array(length);
    grown.set(this.bytes);
    this.bytes = grown;
  }
}

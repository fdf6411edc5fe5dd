import { encodeFrames, wavHeader, type WavFormat } from '#core/formats/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { openOnDisk, writeWhole, type Folder, type OpenFile } from './folders.ts';

/** Formats a bounce is written in. */
export type BounceFormat = Extract<WavFormat, 'i24' | 'f32'>;

/** Where the browser has no disk of its own for us, it is handed pieces of this size: large ones it keeps out of memory. */
const PIECE_BYTES = 4 * 2 ** 20;
const HEADER_BYTES = 44;
const TYPE = 'audio/wav';

/** Takes the audio of a file piece by piece. */
interface Sink {
  add(bytes: Uint8Array): void;
  /** The file: a header and so many bytes of what was added. */
  finish(header: Uint8Array, bytes: number): Promise<Blob>;
}

/** On the browser's own disk: what is written does not pass through its memory. */
class DiskSink implements Sink {
  private at = HEADER_BYTES;

  constructor(private readonly file: OpenFile) {}

  add(bytes: Uint8Array): void {
    this.at += writeWhole(this.file.access, bytes, this.at);
  }

  async finish(header: Uint8Array, bytes: number): Promise<Blob> {
    const { access, handle } = this.file;
    access.truncate(HEADER_BYTES + bytes);
    writeWhole(access, header, 0);
    access.close();
    const file = await handle.getFile();
    return file.slice(0, file.size, TYPE);
  }
}

/** In the browser's memory. */
class MemorySink implements Sink {
  private readonly pieces: Blob[] = [];
  private pending: BlobPart[] = [];
  private pendingBytes = 0;

  add(bytes: Uint8Array): void {
    this.pending.push(bytes.slice() as BlobPart);
    this.pendingBytes += bytes.length;
    if (this.pendingBytes < PIECE_BYTES) return;
    this.pieces.push(new Blob(this.pending));
    this.pending = [];
    this.pendingBytes = 0;
  }

  finish(header: Uint8Array, bytes: number): Promise<Blob> {
    const audio = new Blob([...this.pieces, ...this.pending]).slice(0, bytes);
    return Promise.resolve(new Blob([header as BlobPart, audio], { type: TYPE }));
  }
}

/** A WAV file that is written stretch by stretch. */
export class FileWriter {
  private frames = 0;

  private constructor(
    private readonly format: BounceFormat,
    private readonly sink: Sink,
  ) {}

  /** @param folder of the browser's disk; in its memory unless given */
  static async open(format: BounceFormat, folder: Folder | undefined): Promise<FileWriter> {
    return new FileWriter(format, folder ? new DiskSink(await openOnDisk(folder)) : new MemorySink());
  }

  /** Adds frames. */
  write(left: Float32Array, right: Float32Array): void {
    this.add(encodeFrames([left, right], this.format, 0, left.length), left.length);
  }

  /** Adds frames that are coded already. @param bytes read at once; they may be overwritten afterwards */
  add(bytes: Uint8Array, frames: number): void {
    this.frames += frames;
    this.sink.add(bytes);
  }

  /** The file, with what is written so far but no more than `frames`. */
  finish(frames = this.frames): Promise<Blob> {
    const kept = Math.min(frames, this.frames);
    return this.sink.finish(
      wavHeader(this.format, ENGINE_RATE, 2, kept),
      kept * (this.format === 'i24' ? 6 : 8),
    );
  }
}

import { encodeFrames, wavHeader, type WavFormat } from '#core/formats/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';

/** Formats a bounce is written in. */
export type BounceFormat = Extract<WavFormat, 'i24' | 'f32'>;

/** What is written is handed to the browser in pieces of this size: it keeps large files on the disk, not in memory. */
const PIECE_BYTES = 4 * 2 ** 20;

/** A WAV file that is written stretch by stretch. */
export class FileWriter {
  private readonly pieces: Blob[] = [];
  private pending: BlobPart[] = [];
  private pendingBytes = 0;
  private frames = 0;

  constructor(private readonly format: BounceFormat) {}

  /** Adds frames. */
  write(left: Float32Array, right: Float32Array): void {
    this.add(encodeFrames([left, right], this.format, 0, left.length), left.length);
  }

  /** Adds frames that are coded already. */
  add(bytes: Uint8Array, frames: number): void {
    this.frames += frames;
    this.pending.push(bytes as BlobPart);
    this.pendingBytes += bytes.length;
    if (this.pendingBytes < PIECE_BYTES) return;
    this.pieces.push(new Blob(this.pending));
    this.pending = [];
    this.pendingBytes = 0;
  }

  /** The file, with what is written so far but no more than `frames`. */
  finish(frames = this.frames): Blob {
    const header = wavHeader(this.format, ENGINE_RATE, 2, frames);
    const width = this.format === 'i24' ? 6 : 8;
    const audio = new Blob([...this.pieces, ...this.pending]).slice(0, frames * width);
    return new Blob([header as BlobPart, audio], { type: 'audio/wav' });
  }
}

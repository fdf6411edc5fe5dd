import { FarloError } from '../errors/index.ts';

/** Little- and big-endian reads that can fail only with a place. */
export class ByteReader {
  readonly view: DataView;
  at = 0;
  constructor(
    readonly bytes: Uint8Array,
    readonly file: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  get left(): number {
    return this.bytes.length - this.at;
  }
  /** Fails unless `count` more bytes are there. */
  need(count: number, what: string): void {
    if (!(count >= 0) || count > this.left)
      throw new FarloError(
        'file.truncated',
        `${what} needs ${count} bytes, only ${this.left} are left. The file ends too early; copy it again from its source.`,
        { file: this.file, byte: this.at },
      );
  }
  u8(what: string): number {
    this.need(1, what);
    return this.view.getUint8(this.at++);
  }
  u16le(what: string): number {
    this.need(2, what);
    this.at += 2;
    return this.view.getUint16(this.at - 2, true);
  }
  u32le(what: string): number {
    this.need(4, what);
    this.at += 4;
    return this.view.getUint32(this.at - 4, true);
  }
  u16be(what: string): number {
    this.need(2, what);
    this.at += 2;
    return this.view.getUint16(this.at - 2, false);
  }
  u32be(what: string): number {
    this.need(4, what);
    this.at += 4;
    return this.view.getUint32(this.at - 4, false);
  }
  /** Four characters of a chunk id; bytes outside printable ASCII become dots. */
  tag(what: string): string {
    this.need(4, what);
    let text = '';
    for (let i = 0; i < 4; i++) {
      const code = this.bytes[this.at + i];
      text += code >= 32 && code < 127 ? String.fromCharCode(code) : '.';
    }
    this.at += 4;
    return text;
  }
}

import { BlobWriter, TextReader, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import { describe, expect, it } from 'vitest';
import { FarloError } from '#core/errors/index.ts';
import { scoreText } from './score-text.ts';

const XML = '<score-partwise>Ellö</score-partwise>';

async function packed(files: Record<string, string | Uint8Array>): Promise<Uint8Array> {
  const writer = new ZipWriter(new BlobWriter(), { useWebWorkers: false });
  for (const [name, data] of Object.entries(files))
    await writer.add(name, typeof data === 'string' ? new TextReader(data) : new Uint8ArrayReader(data));
  return new Uint8Array(await (await writer.close()).arrayBuffer());
}
const container = (path: string) =>
  `<container><rootfiles><rootfile full-path="${path}"/></rootfiles></container>`;
const failure = (bytes: Uint8Array) =>
  scoreText(bytes, 'a.mxl').then(
    () => 'read',
    (error: unknown) => (error instanceof FarloError ? error.code : String(error)),
  );

describe('the text of a score', () => {
  it('is read as it is written: UTF-8, or UTF-16 by its mark', async () => {
    const wide = (little: boolean) => {
      const text = `\ufeff${XML}`;
      const view = new DataView(new ArrayBuffer(2 * text.length));
      [...text].forEach((letter, i) => view.setUint16(2 * i, letter.charCodeAt(0), little));
      return new Uint8Array(view.buffer);
    };
    for (const bytes of [new TextEncoder().encode(XML), wide(true), wide(false)])
      expect(await scoreText(bytes, 'a.musicxml')).toBe(XML);
  });
  it('is taken from where a packed file says, else the first score in it', async () => {
    const files = { 'other.xml': '<x/>', 'in/score.xml': XML };
    expect(
      await scoreText(
        await packed({ 'META-INF/container.xml': container('in/score.xml'), ...files }),
        'a.mxl',
      ),
    ).toBe(XML);
    expect(await scoreText(await packed({ 'cover.png': 'x', 'b.musicxml': XML }), 'a.mxl')).toBe(XML);
    expect(
      await scoreText(
        await packed({ 'META-INF/container.xml': container('gone.xml'), 'b.xml': XML }),
        'a.mxl',
      ),
    ).toBe(XML);
  });
});

describe('a packed file that is no score', () => {
  it('is refused with what is wrong', async () => {
    expect(await failure(await packed({ 'a.txt': 'x' }))).toBe('file.not-this-format');
    const whole = await packed({ 'a.xml': XML });
    expect(await failure(whole.subarray(0, whole.length - 30))).toBe('file.damaged');
    const bad = whole.slice();
    // Its contents begin behind a head of 30 bytes, its name and what follows that.
    const head = new DataView(bad.buffer);
    bad[30 + head.getUint16(26, true) + head.getUint16(28, true) + 3] ^= 0xff;
    expect(await failure(bad)).toBe('file.damaged');
  });
  it('is not unpacked where that would fill the memory', async () => {
    expect(await failure(await packed({ 'a.xml': new Uint8Array(5 * 2 ** 20) }))).toBe('file.too-large');
    const many = Object.fromEntries(Array.from({ length: 1001 }, (_, i) => [`${i}.txt`, 'x']));
    expect(await failure(await packed(many))).toBe('file.too-large');
  });
});

import { BlobWriter, TextReader, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { JobInfo, LibrarySummary } from '#api/index.ts';
import type { Instrument } from '#core/catalogue/index.ts';
import { writeWav } from '#core/formats/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';
import { folderSource, zipSource } from './file-source.ts';
import { importLibrary, type ImportFacts } from './import-library.ts';

const FACTS: ImportFacts = {
  library: 'Gull Whistles',
  maker: 'own',
  room: 'attic',
  recipe: 'import',
  family: 'winds',
  kind: 'solo',
  players: 1,
};
const tone = (hz: number) =>
  writeWav({
    rate: 44100,
    format: 'i24',
    channels: [Float32Array.from({ length: 44100 }, (_, i) => 0.5 * Math.sin((6.2831853 * hz * i) / 44100))],
  });
const SFZ =
  '<global>volume=-3 eq1_gain=2\n<region>sample=sounds/a 1.wav key=69\n<region>sample=sounds/b.wav key=81 trigger=release\n<region>sample=sounds/a 1.wav key=70 pitch_keycenter=69';

let folder: string;
let test: TestApp;
let editor: Caller;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farlo-import-'));
  test = await startApp();
  editor = await test.as('editor');
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await test.close();
});

async function zip(files: Record<string, string | Uint8Array>): Promise<string> {
  const writer = new ZipWriter(new BlobWriter());
  for (const [name, data] of Object.entries(files))
    await writer.add(name, typeof data === 'string' ? new TextReader(data) : new Uint8ArrayReader(data));
  const path = join(folder, `${Math.random().toString(36).slice(2)}.zip`);
  writeFileSync(path, Buffer.from(await (await writer.close()).arrayBuffer()));
  return path;
}

const good = () => ({
  'whistle/Whistle.sfz': SFZ,
  'whistle/sounds/a 1.wav': tone(440),
  'whistle/sounds/b.wav': tone(880),
});

async function importZip(path: string, name = 'w.zip') {
  const source = await zipSource(path, name);
  try {
    return await importLibrary(source, FACTS, join(folder, 'data'), () => undefined);
  } finally {
    await source.close();
  }
}

describe('importing', () => {
  it('reads a folder: articulations, samples once, packs with heads first', async () => {
    const at = join(folder, 'plain');
    mkdirSync(join(at, 'sounds'), { recursive: true });
    writeFileSync(join(at, 'Whistle.sfz'), SFZ);
    writeFileSync(join(at, 'sounds', 'a 1.wav'), tone(440));
    writeFileSync(join(at, 'sounds', 'b.wav'), tone(880));
    const shares: number[] = [];
    const library = await importLibrary(folderSource(at), FACTS, join(folder, 'data'), (share) =>
      shares.push(share),
    );
    const [instrument] = library.instruments;
    expect(instrument.name).toBe('Whistle');
    expect(Object.keys(instrument.samples)).toHaveLength(2);
    expect(shares.every((share, i) => i === 0 || share >= shares[i - 1])).toBe(true);
    const [pack] = Object.values(instrument.packs);
    const sample = Object.values(instrument.samples)[0];
    expect(pack.headBytes).toBe(2 * Math.round(44100 / 4) * 4);
    const bytes = readFileSync(join(folder, 'data', 'packs', pack.id.slice(0, 2), `${pack.id}.pack`));
    expect(bytes.length).toBe(2 * 44100 * 4);
    expect(bytes.readFloatLE(sample.headOffset + 400)).toBeCloseTo(
      0.5 * Math.sin((6.2831853 * 440 * 100) / 44100),
      3,
    );
    expect(library.unsupported.map((u) => [u.opcode, u.count])).toEqual([['eq1_gain', 3]]);
  });
  it.each<[string, () => Record<string, string | Uint8Array>, RegExp]>([
    ['a missing sample', () => ({ 'w.sfz': '<region>sample=gone.wav' }), /w\.sfz.*|gone\.wav/],
    [
      'a truncated sample',
      () => ({ 'w.sfz': '<region>sample=a.wav', 'a.wav': tone(440).slice(0, 5000) }),
      /ends too early/,
    ],
    [
      'a sample of another kind',
      () => ({ 'w.sfz': '<region>sample=a.wav', 'a.wav': 'ID3 not a wave file' }),
      /no WAV file/,
    ],
    [
      'an absurd length',
      () => ({ 'w.sfz': '<region>sample=a.wav', 'a.wav': absurd() }),
      /needs|ends too early/,
    ],
    [
      'a path that leaves the folder',
      () => ({ 'w.sfz': '<region>sample=../../../etc/hostname' }),
      /leaves the folder/,
    ],
    ['no SFZ at all', () => ({ 'a.wav': tone(440) }), /no \.sfz/],
  ])('refuses %s with a sentence and a place', async (_name, files, sentence) => {
    await expect(importZip(await zip(files()))).rejects.toThrow(sentence);
  });
  it('refuses zip bombs, entries that leave the archive, and damage', async () => {
    await expect(
      importZip(await zip({ 'w.sfz': SFZ, 'big.wav': new Uint8Array(40_000_000) })),
    ).rejects.toThrow(/200 times/);
    const path = await zip(good());
    const bytes = readFileSync(path);
    writeFileSync(path, bytes.subarray(0, bytes.length - 30));
    await expect(importZip(path)).rejects.toThrow(/zip/);
    const evil = await zip({ 'aa/aa/evil.sfz': SFZ });
    writeFileSync(
      evil,
      Buffer.from(readFileSync(evil).toString('latin1').replaceAll('aa/aa/evil', '../../evil'), 'latin1'),
    );
    await expect(importZip(evil)).rejects.toThrow(/leaves|zip/);
  });
});

function absurd(): Uint8Array {
  const bytes = tone(440).slice();
  new DataView(bytes.buffer).setUint32(40, 0xfffffff0, true);
  return bytes;
}

describe('importing over the wire', () => {
  const wait = async (id: string): Promise<JobInfo> => {
    for (;;) {
      const job = (await editor.get(`/jobs/${id}`)).body as JobInfo;
      if (job.state !== 'waiting' && job.state !== 'running') return job;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  };
  const send = (path: string) =>
    editor
      .post('/libraries/import')
      .field('library', 'Gull Whistles')
      .field('family', 'winds')
      .attach('files', path, 'w.zip');

  it('makes a library that can be listed, described and loaded by range', async () => {
    const job = await wait(((await send(await zip(good()))).body as JobInfo).id);
    expect(job).toMatchObject({ state: 'done', progress: 1 });
    const libraries = (await editor.get('/libraries')).body as LibrarySummary[];
    const library = libraries.find((candidate) => candidate.id === job.libraryId);
    expect(library?.instruments[0]).toMatchObject({ name: 'Whistle', family: 'winds' });
    const instrument = (await editor.get(`/instruments/${library?.instruments[0].id}`)).body as Instrument;
    const [pack] = Object.values(instrument.packs);
    const head = await editor
      .get(`/packs/${pack.id}`)
      .set('range', 'bytes=8-15')
      .buffer(true)
      .parse((response, done) => {
        const chunks: Buffer[] = [];
        response
          .on('data', (chunk: Buffer) => chunks.push(chunk))
          .on('end', () => done(null, Buffer.concat(chunks)));
      });
    expect([head.status, head.headers['content-range'], (head.body as Buffer).length]).toEqual([
      206,
      `bytes 8-15/${pack.bytes}`,
      8,
    ]);
    const outsider = await test.as('outsider');
    expect((await outsider.get(`/packs/${pack.id}`)).status).toBe(404);
  });
  it('takes a folder as well, file by file with its paths', async () => {
    const call = editor.post('/libraries/import').field('library', 'Gull Folder');
    for (const [filepath, data] of Object.entries(good()))
      call.attach('files', Buffer.from(data), { filepath } as never);
    const job = await wait(((await call).body as JobInfo).id);
    expect(job.message).toBe('Done');
    const libraries = (await editor.get('/libraries')).body as LibrarySummary[];
    expect(libraries.find((library) => library.name === 'Gull Folder')?.instruments[0].name).toBe('Whistle');
  });
  it('refuses uploaded paths that leave the folder', async () => {
    const call = editor.post('/libraries/import').field('library', 'Escape');
    const answer = await call.attach('files', Buffer.from(SFZ), { filepath: '../../escape.sfz' } as never);
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([422, 'sfz.path-leaves-folder']);
  });
  it('fails with a sentence, keeps nothing, and cleans up', async () => {
    const before = ((await editor.get('/libraries')).body as LibrarySummary[]).length;
    const job = await wait(
      ((await send(await zip({ 'w.sfz': '<region>\nsample=gone.wav' }))).body as JobInfo).id,
    );
    expect(job.state).toBe('failed');
    expect(job.message).toMatch(/w\.sfz, line 2: .*gone\.wav/);
    expect(((await editor.get('/libraries')).body as LibrarySummary[]).length).toBe(before);
    const uploads = join(test.dataFolder, 'uploads');
    expect(existsSync(uploads) ? readdirSync(uploads) : []).toEqual([]);
  });
  it('can be cancelled', async () => {
    const started = (await send(await zip(good()))).body as JobInfo;
    const cancelled = (await editor.delete(`/jobs/${started.id}`)).body as JobInfo;
    expect(['cancelled', 'done']).toContain(cancelled.state);
  });
});

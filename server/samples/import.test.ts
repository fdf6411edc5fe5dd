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
import type request from 'supertest';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import {
  packReads,
  type ImportProposal,
  type JobInfo,
  type LibrarySummary,
  type TakeInShape,
} from '#api/index.ts';
import { NO_FACTS, type Instrument } from '#core/catalogue/index.ts';
import { writeWav } from '#core/formats/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';
import { folderSource, zipSource } from './file-source.ts';
import { takeIn, type ImportFacts } from './take-in.ts';
import { eventually } from '#core/testing/eventually.ts';

const FACTS: ImportFacts = {
  library: 'Gull Whistles',
  maker: 'own',
  room: 'attic',
  recipe: 'import',
  facts: NO_FACTS,
  instruments: { Whistle: { family: 'winds', kind: 'solo', players: 1 } },
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
    return await takeIn(source, FACTS, join(folder, 'data'), new Set(), () => undefined);
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
    const library = await takeIn(folderSource(at), FACTS, join(folder, 'data'), new Set(), (share) =>
      shares.push(share),
    );
    const [instrument] = library.instruments;
    expect(instrument.name).toBe('Whistle');
    expect(Object.keys(instrument.samples)).toHaveLength(2);
    expect(shares.every((share, i) => i === 0 || share >= shares[i - 1])).toBe(true);
    const [pack] = Object.values(instrument.packs);
    const sample = Object.values(instrument.samples)[0];
    // Converted from 44.1 to 48 kHz, 24 bits kept as floats.
    expect(pack.headBytes).toBe(2 * 12_000 * 4);
    const bytes = readFileSync(join(folder, 'data', 'packs', pack.id.slice(0, 2), `${pack.id}.pack`));
    expect(bytes.length).toBe(2 * 48_000 * 4);
    expect(bytes.readFloatLE(sample.headOffset + 4000)).toBeCloseTo(
      0.5 * Math.sin((6.2831853 * 440 * 1000) / 48_000),
      3,
    );
    expect(library.report.converted).toEqual([
      {
        reason: expect.stringMatching(
          /^from 44,100 Hz to 48,000 Hz; 2 of them turned back differ by at most −1\d\d dB below 20 kHz$/,
        ) as string,
        count: 2,
      },
      { reason: '24 bits kept as 32-bit floats', count: 2 },
    ]);
    expect(library.report.unsupported.map((u) => [u.opcode, u.count])).toEqual([['eq1_gain', 3]]);
  });
  it('joins files that are positions of one instrument, each with its own recordings and level', async () => {
    const of = (position: string, volume: number) =>
      [60, 64, 67]
        .map((key) => `<region>sample=${position}/a.wav key=${key} pitch_keycenter=60 volume=${volume}`)
        .join('\n');
    const path = await zip({
      'Pipes close.sfz': of('one', 0),
      'Pipes far.sfz': of('two', -6),
      'Bell.sfz': '<region>sample=one/a.wav key=60',
      'one/a.wav': tone(261.63),
      'two/a.wav': tone(261.63),
    });
    const joins = [
      {
        name: 'Pipes',
        files: [
          { file: 'Pipes close', position: 'close' },
          { file: 'Pipes far', position: 'far' },
        ],
      },
    ];
    const take = async (more: Partial<ImportFacts>) => {
      const source = await zipSource(path, 'p.zip');
      try {
        return await takeIn(
          source,
          { ...FACTS, ...more },
          join(folder, 'joined'),
          new Set(),
          () => undefined,
        );
      } finally {
        await source.close();
      }
    };
    const { instruments } = await take({ joins });
    expect(instruments.map(({ name }) => name)).toEqual(['Pipes', 'Bell']);
    const [pipes] = instruments;
    expect(pipes.positions.map(({ id }) => id)).toEqual(['close', 'far']);
    const [{ zones }] = pipes.articulations;
    expect(zones).toHaveLength(3);
    for (const { samples } of zones)
      expect(((samples.close.levelDb ?? 0) - (samples.far.levelDb ?? 0)).toFixed(1)).toBe('6.0');
    expect((await take({})).instruments.map(({ name }) => name)).toEqual([
      'Bell',
      'Pipes close',
      'Pipes far',
    ]);
    const wrong = [{ ...joins[0], files: [joins[0].files[0], { file: 'Bell', position: 'far' }] }];
    await expect(take({ joins: wrong })).rejects.toThrow(/other keys, layers or takes/);
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
    ['nothing Farlo reads', () => ({ 'a.txt': 'hello' }), /no \.sfz, no \.sf2/],
    ['names without a pattern', () => ({ 'a.wav': tone(440) }), /needs a \{note\}/],
    ['a damaged SoundFont', () => ({ 'a.sf2': 'RIFFxxxxsfbk' }), /pdta|ends too early/],
    [
      'a damaged FLAC',
      () => ({ 'w.sfz': '<region>sample=a.flac', 'a.flac': 'fLaC' + 'x'.repeat(60) }),
      /FLAC|sample rate|channels/,
    ],
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

describe('importing several instruments', () => {
  it('is all or nothing for each: a broken one is left out and told, the others are taken in', async () => {
    const library = await importZip(
      await zip({ ...good(), 'whistle/Broken.sfz': '<region>sample=gone.wav', 'whistle/Second.sfz': SFZ }),
    );
    expect(library.instruments.map((one) => one.name)).toEqual(['Second', 'Whistle']);
    expect(library.report.failed).toEqual([
      { name: 'Broken', sentence: expect.stringMatching(/Broken\.sfz, line 1: .*gone\.wav/) as string },
    ]);
    // Both play the same recordings: they are stored once, and both know where.
    const [first, second] = library.instruments;
    expect(Object.keys(second.samples).sort()).toEqual(Object.keys(first.samples).sort());
    expect(Object.keys(second.packs)).toEqual([]);
  });
  it.each([22_050, 24_000, 44_100, 96_000])(
    'converts %s Hz, also half of its own rate, and states what that costs',
    async (rate) => {
      let seed = rate;
      const noise = Float32Array.from({ length: 2 * rate }, () => {
        seed = (seed * 1_664_525 + 1_013_904_223) >>> 0;
        return seed / 2 ** 33 - 0.25;
      });
      const path = await zip({
        'a.sfz': '<region>sample=a.wav key=60',
        'a.wav': writeWav({ rate, format: 'f32', channels: [noise] }),
      });
      const { report, instruments } = await importZip(path);
      expect(Object.values(instruments[0].samples).map((sample) => sample.rate)).toEqual([48_000]);
      const [{ reason, count }] = report.converted;
      expect(count).toBe(1);
      const told =
        /^from [\d,]+ Hz to 48,000 Hz; 1 of them turned back differ by at most −(\d+) dB below/.exec(reason);
      expect(Number(told?.[1])).toBeGreaterThan(60);
    },
  );
  it('knows how large files are before it reads them, in folders and zips', async () => {
    const path = await zip({ 'a/b.txt': 'twelve signs', 'c.txt': '' });
    const packed = await zipSource(path, 'x.zip');
    const open = join(folder, 'sizes');
    mkdirSync(join(open, 'a'), { recursive: true });
    writeFileSync(join(open, 'a/b.txt'), 'twelve signs');
    for (const source of [packed, folderSource(open)])
      expect([source.size('a/b.txt'), source.size('gone')]).toEqual([12, 0]);
    await packed.close();
  });
  it('does not store again what is stored already', async () => {
    const path = await zip(good());
    const first = await importZip(path);
    const known = new Set(Object.keys(first.instruments[0].samples));
    const source = await zipSource(path, 'again.zip');
    const again = await takeIn(source, FACTS, join(folder, 'data'), known, () => undefined);
    await source.close();
    expect(again.report.bytes).toBe(0);
    expect(again.instruments[0].packs).toEqual({});
    expect(again.instruments[0].articulations).toEqual(first.instruments[0].articulations);
  });
});

describe('importing over the wire', () => {
  const wait = async (id: string): Promise<JobInfo> => {
    for (;;) {
      const job = (await editor.get(`/jobs/${id}`)).body as JobInfo;
      if (job.state !== 'waiting' && job.state !== 'running') return job;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  };
  const sendZip = (path: string, name = 'w.zip') => editor.post('/imports').attach('files', path, name);
  const scan = async (path: string) => {
    const job = await wait(((await sendZip(path)).body as JobInfo).id);
    expect(job.message).toBe('Done');
    return (await editor.get(`/imports/${job.resultId}`)).body as ImportProposal;
  };
  const decide = (proposal: ImportProposal, more: Partial<TakeInShape> = {}): TakeInShape => ({
    library: 'Gull Whistles',
    maker: 'Gull & Co',
    room: 'attic',
    roomSound: 'dry',
    price: 12,
    players: '1',
    edition: '',
    text: '',
    words: proposal.words.map(({ kind, text, articulation, position, layer, take, instrument }) => ({
      kind,
      text,
      articulation,
      position,
      layer,
      take,
      instrument,
    })),
    instruments: proposal.instruments.map(({ name, family, kind, players }) => ({
      name,
      family,
      kind,
      players,
    })),
    ...more,
  });
  const takeIt = async (proposal: ImportProposal, more: Partial<TakeInShape> = {}) =>
    wait(((await editor.post(`/imports/${proposal.id}/take-in`, decide(proposal, more))).body as JobInfo).id);
  const libraries = async () => (await editor.get('/libraries')).body as LibrarySummary[];
  const waiting = () => {
    const uploads = join(test.dataFolder, 'uploads');
    return existsSync(uploads) ? readdirSync(uploads) : [];
  };

  it('looks first, takes in what was decided, and can then be loaded by range', async () => {
    const proposal = await scan(await zip(good()));
    expect(proposal).toMatchObject({
      kind: 'sfz',
      name: 'Whistle',
      instruments: [{ name: 'Whistle', family: 'winds', reason: '“whistle” is in its name' }],
    });
    const job = await takeIt(proposal);
    expect(job).toMatchObject({ state: 'done', progress: 1 });
    const library = (await libraries()).find((candidate) => candidate.id === job.resultId);
    expect(library).toMatchObject({
      facts: { price: 12, roomSound: 'dry' },
      report: { instruments: 1, recordings: 2 },
    });
    expect(library?.instruments[0]).toMatchObject({ name: 'Whistle', family: 'winds' });
    expect(waiting()).toEqual([]);
    const instrument = (await editor.get(`/instruments/${library?.instruments[0].id}`)).body as Instrument;
    const [pack] = Object.values(instrument.packs);
    const head = await editor.get(`/packs/${pack.id}`).set('range', 'bytes=8-15').buffer(true).parse(binary);
    expect([head.status, head.headers['content-range'], (head.body as Buffer).length]).toEqual([
      206,
      `bytes 8-15/${pack.bytes}`,
      8,
    ]);
    const read = (start: number, end: number) =>
      packReads([
        { pack: pack.id, start, end },
        { pack: pack.id, start: 0, end: 4 },
      ]);
    const pieces = await editor.post('/packs/read', read(8, 16)).buffer(true).parse(binary);
    const whole = await editor.get(`/packs/${pack.id}`).buffer(true).parse(binary);
    expect(
      Buffer.compare(
        pieces.body as Buffer,
        Buffer.concat([(whole.body as Buffer).subarray(8, 16), (whole.body as Buffer).subarray(0, 4)]),
      ),
    ).toBe(0);
    expect((await editor.post('/packs/read', read(8, pack.bytes + 1))).status).toBe(400);
    const stray = { packs: [pack.id], spans: [1, 0, 4] };
    expect((await editor.post('/packs/read', stray)).status).toBe(400);
    // Audio goes out as it is: packing it costs far more than sending it.
    expect(whole.headers['content-encoding']).toBeUndefined();
    const outsider = await test.as('outsider');
    expect((await outsider.get(`/packs/${pack.id}`)).status).toBe(404);
    expect((await outsider.post('/packs/read', read(8, 16))).status).toBe(404);
    expect((await outsider.get(`/imports/${proposal.id}`)).status).toBe(404);
  });
  it('remembers what words of a maker were said to mean', async () => {
    const files = { 'Bow.sfz': '<region>sample=a.wav group_label=Zings', 'a.wav': tone(300) };
    const first = await scan(await zip(files));
    expect(first.words[0]).toMatchObject({ text: 'Zings', articulation: null });
    const corrected = decide(first).words.map((word) => ({ ...word, articulation: 'tremolo' }));
    await takeIt(first, { library: 'Zing 1', words: corrected });
    const made = (await libraries()).find((one) => one.name === 'Zing 1');
    expect(made?.instruments[0].articulations[0]).toMatchObject({ id: 'tremolo', name: 'Zings' });
    const second = await scan(await zip(files));
    expect(second.remembered['gull & co']).toEqual({
      'group label: zings': expect.objectContaining({ articulation: 'tremolo' }) as object,
    });
  });
  it('takes a folder as well, file by file with its paths', async () => {
    const before = waiting();
    const call = editor.post('/imports');
    for (const [filepath, data] of Object.entries(good()))
      call.attach('files', Buffer.from(data), { filepath } as never);
    const job = await wait(((await call).body as JobInfo).id);
    const proposal = (await editor.get(`/imports/${job.resultId}`)).body as ImportProposal;
    expect(proposal.instruments.map((one) => one.name)).toEqual(['Whistle']);
    expect(waiting()).toHaveLength(before.length + 1);
    expect((await editor.delete(`/imports/${proposal.id}`)).status).toBe(204);
    expect(waiting()).toEqual(before);
  });
  it('makes an instrument of named recordings, at other rates and as FLAC', async () => {
    const proposal = await scan(
      await zip({
        'Bell_Hit_C4_rr1.wav': tone(261.6),
        'Bell_Hit_C4_rr2.wav': tone(262),
        'Bell_Hit_G4_rr1.wav': tone(392),
        'Bell_Hit_G4_rr2.wav': tone(393),
      }),
    );
    expect(proposal).toMatchObject({
      kind: 'recordings',
      pattern: '{instrument}_{articulation}_{note}_{take}',
    });
    const job = await takeIt(proposal, {
      library: 'Named bells',
      pattern: proposal.pattern ?? '',
      middleC: 4,
      words: [
        {
          kind: 'name part',
          text: 'Hit',
          articulation: 'hit',
          position: null,
          layer: null,
          take: null,
          instrument: null,
        },
        ...['rr1', 'rr2'].map((text, take) => ({
          kind: 'name part' as const,
          text,
          articulation: null,
          position: null,
          layer: null,
          take,
          instrument: null,
        })),
      ],
    });
    expect(job.message).toBe('Done');
    // The next of this maker comes with the pattern.
    const next = await scan(
      await zip({ 'Bell_Hit_C4_rr1.wav': tone(261.6), 'Bell_Hit_D4_rr1.wav': tone(300) }),
    );
    expect(next.names).toEqual({ 'gull & co': { pattern: proposal.pattern, middleC: 4 } });
    expect((await (await test.as('editor')).delete(`/imports/${next.id}`)).status).toBe(204);
    const made = (await libraries()).find((one) => one.name === 'Named bells');
    expect(made?.instruments[0]).toMatchObject({
      name: 'Bell',
      articulations: [{ id: 'hit', low: 57, high: 70, layers: 1, takes: 2 }],
    });
  });
  it('makes a playable instrument of one recording: root, range and loop', async () => {
    const proposal = await scan(await zip({ 'Foghorn.wav': tone(220) }));
    expect(proposal.recording).toMatchObject({ path: 'Foghorn', key: 57 });
    expect(proposal.recording?.loop?.likeness).toBeGreaterThan(0.99);
    const found = proposal.recording?.loop;
    const loop = found ? { start: found.start, end: found.end } : null;
    const job = await takeIt(proposal, {
      library: 'Foghorn',
      recording: { rootKey: 57, cents: 3, keyLow: 45, keyHigh: 69, loop, articulation: 'long' },
    });
    expect(job.message).toBe('Done');
    const made = (await libraries()).find((one) => one.name === 'Foghorn');
    const instrument = (await editor.get(`/instruments/${made?.instruments[0].id}`)).body as Instrument;
    const [zone] = instrument.articulations[0].zones;
    expect(zone).toMatchObject({ rootKey: 57, keyLow: 45, keyHigh: 69, tuneCents: -3 });
    // The loop moved along with the conversion to 48 kHz.
    expect(zone.loop?.start).toBe(Math.round(((loop?.start ?? 0) * 48_000) / 44_100));
  });
  it('exports an instrument that reads back as the same model', async () => {
    const [{ instruments }] = (await libraries()).filter((one) => one.name === 'Named bells');
    const id = instruments[0].id;
    const started = (await editor.post(`/instruments/${id}/export`)).body as JobInfo;
    const done = await wait(started.id);
    const answer = await editor.get(`/exports/${done.resultId}`).buffer(true).parse(binary);
    expect(answer.headers['content-disposition']).toContain('Bell.zip');
    const outsider = await test.as('outsider');
    expect((await outsider.get(`/exports/${done.resultId}`)).status).toBe(404);
    const path = join(folder, 'exported.zip');
    writeFileSync(path, answer.body as Buffer);
    const proposal = await scan(path);
    await takeIt(proposal, { library: 'Back again' });
    const original = (await editor.get(`/instruments/${id}`)).body as Instrument;
    const back = (await libraries()).find((one) => one.name === 'Back again');
    const copy = (await editor.get(`/instruments/${back?.instruments[0].id}`)).body as Instrument;
    expect(copy.articulations).toEqual(original.articulations);
    expect(copy.positions).toEqual(original.positions);
    // The very same recordings: nothing new was stored.
    expect(Object.keys(copy.samples).sort()).toEqual(Object.keys(original.samples).sort());
    expect(back?.report.bytes).toBe(0);
  });
  it('takes a library off the shelf with its recordings, for editors', async () => {
    const made = (await libraries()).find((one) => one.name === 'Foghorn');
    const instrument = (await editor.get(`/instruments/${made?.instruments[0].id}`)).body as Instrument;
    const [pack] = Object.keys(instrument.packs);
    const file = join(test.dataFolder, 'packs', pack.slice(0, 2), `${pack}.pack`);
    expect(existsSync(file)).toBe(true);
    expect((await (await test.as('viewer')).delete(`/libraries/${made?.id}`)).status).toBe(403);
    expect((await editor.delete(`/libraries/${made?.id}`)).status).toBe(204);
    expect(existsSync(file)).toBe(false);
  });
  it('refuses uploaded paths that leave the folder', async () => {
    const call = editor.post('/imports');
    const answer = await call.attach('files', Buffer.from(SFZ), { filepath: '../../escape.sfz' } as never);
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([422, 'sfz.path-leaves-folder']);
  });
  it('fails with a sentence, keeps nothing, and cleans up', async () => {
    const before = (await libraries()).length;
    const uploads = waiting();
    const job = await wait(
      ((await sendZip(await zip({ 'w.sfz': '<region>\nsample=gone.wav' }))).body as JobInfo).id,
    );
    expect(job.state).toBe('failed');
    expect(job.message).toMatch(/w\.sfz, line 2: .*gone\.wav/);
    expect((await libraries()).length).toBe(before);
    expect(waiting()).toEqual(uploads);
  });
  it('refuses a decision that makes no sense, and can be cancelled', async () => {
    const proposal = await scan(await zip(good()));
    const nonsense = await editor.post(`/imports/${proposal.id}/take-in`, {
      ...decide(proposal),
      library: '',
    });
    expect(nonsense.status).toBe(400);
    const started = (
      await editor.post(`/imports/${proposal.id}/take-in`, decide(proposal, { library: 'Never' }))
    ).body as JobInfo;
    const cancelled = (await editor.delete(`/jobs/${started.id}`)).body as JobInfo;
    expect(['cancelled', 'done']).toContain(cancelled.state);
  });
  it('keeps what stands on the shelf, unless it is said to give way', async () => {
    const files = { 'Reed.sfz': '<region>sample=a.wav key=60', 'a.wav': tone(262) };
    const of = async () => (await libraries()).filter(({ name }) => name === 'Reeds');
    await takeIt(await scan(await zip(files)), { library: 'Reeds' });
    const [first] = await of();
    const again = await scan(await zip({ ...files, 'a.wav': tone(300) }));
    for (const library of ['Reeds', 'reeds']) {
      const refused = await editor.post(`/imports/${again.id}/take-in`, decide(again, { library }));
      expect([refused.status, (refused.body as { code: string }).code]).toEqual([409, 'import.name-taken']);
      expect((refused.body as { title: string }).title).toContain('another name');
    }
    expect(await of()).toEqual([first]);
    // Said so, it takes the place of the other, and tracks play on with it.
    await takeIt(again, { library: 'Reeds', replaces: true });
    const [second, ...more] = await of();
    expect(more).toEqual([]);
    expect([second.id, second.instruments[0].id]).toEqual([first.id, first.instruments[0].id]);
    const packsOf = async (id: string) =>
      Object.keys(((await editor.get(`/instruments/${id}`)).body as Instrument).packs);
    expect(await packsOf(second.instruments[0].id)).toHaveLength(1);
  });
  it('of two that come at once under one name takes one, and says so of the other', async () => {
    const files = { 'Reed.sfz': '<region>sample=a.wav key=60', 'a.wav': tone(262) };
    const [a, b] = [await scan(await zip(files)), await scan(await zip({ ...files, 'a.wav': tone(400) }))];
    const ended = await Promise.all([takeIt(a, { library: 'Twice' }), takeIt(b, { library: 'Twice' })]);
    expect(ended.map(({ state }) => state).sort()).toEqual(['done', 'failed']);
    expect(ended.find(({ state }) => state === 'failed')?.message).toContain('“Twice” stands on the shelf');
    expect((await libraries()).filter(({ name }) => name === 'Twice')).toHaveLength(1);
  });
  it('cancelled half-way leaves no recordings, no files and, once dismissed, no note', async () => {
    const packs = () =>
      readdirSync(join(test.dataFolder, 'packs'), { recursive: true })
        .map(String)
        .filter((name) => /\.(pack|part)$/.test(name))
        .sort();
    const before = [packs(), waiting()];
    const long = (hz: number) =>
      writeWav({
        rate: 44100,
        format: 'i24',
        channels: [
          Float32Array.from({ length: 44100 * 15 }, (_, i) => 0.5 * Math.sin((6.28 * hz * i) / 44100)),
        ],
      });
    const files = Object.fromEntries(
      [0, 1, 2, 3, 4, 5].flatMap((i): [string, string | Uint8Array][] => [
        [`Reed ${i}.sfz`, `<region>sample=${i}.wav key=60`],
        [`${i}.wav`, i === 0 ? tone(250) : long(260 + i)],
      ]),
    );
    const proposal = await scan(await zip(files));
    const { id } = (
      await editor.post(`/imports/${proposal.id}/take-in`, decide(proposal, { library: 'Given up' }))
    ).body as JobInfo;
    while (packs().length === before[0].length) await new Promise((resolve) => setTimeout(resolve, 20));
    expect(((await editor.delete(`/jobs/${id}`)).body as JobInfo).state).toBe('cancelled');
    await eventually(() => expect([packs(), waiting()]).toEqual(before));
    const listed = async () => ((await editor.get('/jobs')).body as JobInfo[]).some((job) => job.id === id);
    expect(await listed()).toBe(true);
    expect((await editor.delete(`/jobs/${id}`)).status).toBe(200);
    expect(await listed()).toBe(false);
  });
});

function binary(response: request.Response, done: (error: Error | null, body: Buffer) => void): void {
  const chunks: Buffer[] = [];
  const stream = response as unknown as NodeJS.ReadableStream;
  stream.on('data', (chunk: Buffer) => chunks.push(chunk)).on('end', () => done(null, Buffer.concat(chunks)));
}

import { existsSync, mkdirSync, mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type supertest from 'supertest';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { InstrumentReport, JobInfo, ReferenceInfo } from '#api/index.ts';
import { NO_FACTS } from '#core/catalogue/index.ts';
import { writeWav } from '#core/formats/index.ts';
import { folderSource } from '../samples/file-source.ts';
import { packPath } from '../samples/pack-writer.ts';
import { takeIn } from '../samples/take-in.ts';
import { Catalogue } from '../store/catalogue.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
let folder: string;
let viewer: Caller;
let editor: Caller;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farlo-listening-'));
  test = await startApp();
  viewer = await test.as('viewer');
  editor = await test.as('editor');
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await test.close();
});

const wav = (hz: number, seconds: number, rate = 48_000, channels = 1) =>
  writeWav({
    rate,
    format: 'i16',
    channels: Array.from({ length: channels }, (_c, c) =>
      Float32Array.from({ length: Math.round(seconds * rate) }, (_, i) => {
        const t = i / rate;
        const rise = Math.min(1, t / 0.01) * Math.min(1, Math.max(0, (seconds - t) / 0.05));
        return 0.4 * rise * Math.sin(6.2831853 * hz * (1 + c * 0.001) * t);
      }),
    ),
  });

const PIPE = '11111111-2222-4333-8444-555555555555';

/** An instrument of two short techniques, taken in and kept. @returns its id */
async function instrumentOf(library: string, cents: number): Promise<string> {
  const at = join(folder, `${library} ${cents}`);
  mkdirSync(at, { recursive: true });
  let sfz = '';
  for (const label of ['staccato', 'pizzicato']) {
    sfz += `<group>sw_label=${label} sw_last=${label === 'staccato' ? 24 : 25} sw_lokey=24 sw_hikey=25 sw_default=24\n`;
    for (const key of [60, 64, 67, 71, 74]) {
      const off = label === 'staccato' && key === 67 ? cents : 0;
      const name = `${label}-${key}.wav`;
      writeFileSync(
        join(at, name),
        wav(440 * 2 ** ((key - 69 + off / 100) / 12), label === 'staccato' ? 0.4 : 0.6),
      );
      sfz += `<region>sample=${name} key=${key}\n`;
    }
  }
  writeFileSync(join(at, 'Pipe.sfz'), sfz);
  const taken = await takeIn(
    folderSource(at),
    {
      library,
      maker: 'own',
      room: 'attic',
      recipe: `import ${cents}`,
      facts: NO_FACTS,
      instruments: { Pipe: { family: 'winds', kind: 'solo', players: 1 } },
    },
    test.dataFolder,
    new Set(),
    () => undefined,
  );
  const catalogue = new Catalogue(test.store);
  const [instrument] = taken.instruments;
  await catalogue.put(test.studioId, taken, { ...instrument, id: PIPE, recipe: `import ${cents}` });
  return PIPE;
}

async function reportOf(id: string): Promise<InstrumentReport> {
  await viewer.post(`/instruments/${id}/report`);
  for (;;) {
    const { body } = await viewer.get(`/instruments/${id}/report`);
    const report = body as InstrumentReport;
    if (!report.job) return report;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

describe('measured reports', () => {
  let id: string;
  it('are measured once, in the background, and kept', async () => {
    id = await instrumentOf('Attic Pipes', 21);
    const before = (await viewer.get(`/instruments/${id}/report`)).body as InstrumentReport;
    expect([before.reports.length, before.missing.sort(), before.job]).toEqual([
      0,
      ['pizzicato', 'staccato'],
      null,
    ]);
    const started = (await viewer.post(`/instruments/${id}/report`)).body as InstrumentReport;
    expect(started.job).toMatchObject({ kind: 'measure', title: 'Measuring Pipe' });
    // Asking again while it goes on starts nothing new.
    const again = (await viewer.post(`/instruments/${id}/report`)).body as InstrumentReport;
    expect(again.job?.id).toBe(started.job?.id);
    const done = await reportOf(id);
    expect(done.missing).toEqual([]);
    const tuning = done.reports.find((one) => one.articulation === 'staccato')?.tuning ?? [];
    expect(Math.abs((tuning.find((one) => one.key === 67)?.cents ?? 0) - 21)).toBeLessThan(1);
    const third = (await viewer.post(`/instruments/${id}/report`)).body as InstrumentReport;
    expect(third.job).toBeNull();
    expect(third.reports).toEqual(done.reports);
  });
  it('are dropped when their samples change, and only those', async () => {
    await instrumentOf('Attic Pipes', 0);
    const { body } = await viewer.get(`/instruments/${id}/report`);
    const stale = body as InstrumentReport;
    expect(stale.missing).toEqual(['staccato']);
    expect(stale.reports.map((one) => one.articulation)).toEqual(['pizzicato']);
    const fresh = await reportOf(id);
    const tuning = fresh.reports.find((one) => one.articulation === 'staccato')?.tuning ?? [];
    for (const { cents } of tuning) expect(Math.abs(cents)).toBeLessThan(1);
  });
  it('say which recordings are missing on the disk, and are measured anew when they are back', async () => {
    await instrumentOf('Attic Pipes', -30);
    const instrument = await new Catalogue(test.store).instrument(id);
    const used = new Set(
      instrument?.articulations
        .find((one) => one.id === 'staccato')
        ?.zones.flatMap((zone) =>
          Object.values(zone.samples).map(({ sample }) => instrument.samples[sample].pack),
        ),
    );
    const paths = [...used].map((pack) => packPath(test.dataFolder, pack)).filter((path) => existsSync(path));
    for (const path of paths) renameSync(path, `${path}.away`);
    const report = await reportOf(id);
    const told = report.reports.find((one) => one.articulation === 'staccato');
    expect(told?.troubled.map((one) => one.trouble)).toContain('missing');
    for (const path of paths) renameSync(`${path}.away`, path);
    const whole = await reportOf(id);
    expect(whole.reports.find((one) => one.articulation === 'staccato')?.troubled).toEqual([]);
  });
  it('are nobody else’s', async () => {
    const outsider = await test.as('outsider');
    expect((await outsider.get(`/instruments/${id}/report`)).status).toBe(404);
    expect((await outsider.post(`/instruments/${id}/report`)).status).toBe(404);
  });
});

describe('references', () => {
  async function send(name: string, bytes: Uint8Array): Promise<JobInfo> {
    const call: supertest.Test = editor.post('/references').attach('files', Buffer.from(bytes), name);
    const { body } = await call;
    const started = body as JobInfo;
    for (;;) {
      const jobs = (await editor.get('/jobs')).body as JobInfo[];
      const job = jobs.find((one) => one.id === started.id);
      if (job && job.state !== 'waiting' && job.state !== 'running') return job;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  }
  const passage = (id: string, from: number, to: number, caller = viewer) =>
    caller
      .get(`/references/${id}/passage?from=${from}&to=${to}`)
      .buffer(true)
      .parse((response, done) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () => done(null, Buffer.concat(parts)));
      });

  it.each([
    [8000, 1],
    [44_100, 2],
    [96_000, 2],
  ])('of %s Hz and %s channels are taken in at 48 kHz and read by passages', async (rate, channels) => {
    const job = await send(`evening ${rate}.wav`, wav(440, 2, rate, channels));
    expect(job.state).toBe('done');
    const list = (await viewer.get('/references')).body as ReferenceInfo[];
    const taken = list.find((one) => one.id === job.resultId);
    expect(taken).toMatchObject({ name: `evening ${rate}.wav`, rate });
    expect(Math.abs((taken?.frames ?? 0) - 96_000)).toBeLessThan(4);
    const answer = await passage(job.resultId ?? '', 24_000, 48_000);
    const sound = new Int16Array(new Uint8Array(answer.body as Buffer).buffer);
    expect(sound.length).toBe(48_000);
    let crossings = 0;
    for (let i = 2; i < sound.length; i += 2) if (sound[i - 2] < 0 && sound[i] >= 0) crossings++;
    expect(Math.abs(crossings / 0.5 - 440)).toBeLessThan(5);
    expect(Math.abs(Math.max(...sound) / 32767 - 0.4)).toBeLessThan(0.02);
  });
  it('that are damaged, too long or no recording are refused with the reason, and nothing stays', async () => {
    const before = ((await viewer.get('/references')).body as ReferenceInfo[]).length;
    const cut = await send('cut.wav', wav(440, 2).slice(0, 60_000));
    expect([cut.state, cut.message]).toEqual(['failed', expect.stringMatching(/ends too early/)]);
    const long = await send(
      'long.wav',
      writeWav({ rate: 8000, format: 'i16', channels: [new Float32Array(8000 * 3601)] }),
    );
    expect([long.state, long.message]).toEqual(['failed', expect.stringMatching(/an hour is the most/)]);
    const text = await send('notes.txt', Buffer.from('no sound'));
    expect([text.state, text.message]).toEqual(['failed', expect.stringMatching(/WAV or FLAC/)]);
    expect(((await viewer.get('/references')).body as ReferenceInfo[]).length).toBe(before);
  });
  it('give no passage outside them, to nobody else, and none when they are gone', async () => {
    const job = await send('short.wav', wav(440, 1));
    const id = job.resultId ?? '';
    const outsider = await test.as('outsider');
    expect((await passage(id, 0, 100, outsider)).status).toBe(404);
    for (const [from, to] of [
      [0, 48_001],
      [-1, 5],
      [9, 9],
      [0.5, 3],
    ])
      expect((await passage(id, from, to)).status).toBe(400);
    expect((await viewer.delete(`/references/${id}`)).status).toBe(403);
    expect((await editor.delete(`/references/${id}`)).status).toBe(204);
    expect((await passage(id, 0, 100)).status).toBe(404);
  });
});

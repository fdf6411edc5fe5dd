import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { JobInfo, OwnHallInfo } from '#api/index.ts';
import { writeWav } from '#core/formats/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';
import { beforeAll } from '../testing/hooks.ts';

let test: TestApp;
let viewer: Caller;
let editor: Caller;
beforeAll(async () => {
  test = await startApp();
  viewer = await test.as('viewer');
  editor = await test.as('editor');
});
afterAll(() => test.close());

/** An impulse response that falls by 60 dB in 0.8 s, as WAV. */
const hall = (channels: number, rate = 48_000, seconds = 1.5) =>
  Buffer.from(
    writeWav({
      rate,
      format: 'f32',
      channels: Array.from({ length: channels }, (_c, c) => {
        let seed = 7 + c;
        return Float32Array.from({ length: Math.round(seconds * rate) }, (_, i) => {
          seed = (seed * 16_807) % 2_147_483_647;
          return 0.5 * 10 ** ((-3 * i) / rate / 0.8) * (seed / 1_073_741_823 - 1);
        });
      }),
    }),
  );

async function send(file: Buffer, name: string): Promise<JobInfo> {
  const job = (await editor.post('/halls').attach('files', file, name)).body as JobInfo;
  for (;;) {
    const now = ((await editor.get('/jobs')).body as JobInfo[]).find(({ id }) => id === job.id);
    if (now && now.state !== 'waiting' && now.state !== 'running') return now;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
const list = async () => (await viewer.get('/halls')).body as OwnHallInfo[];
const files = () => {
  try {
    return readdirSync(join(test.dataFolder, 'halls'));
  } catch {
    return [];
  }
};

describe('halls of one’s own', () => {
  it('are taken in at any rate, listed, fetched whole, and taken away', async () => {
    const done = await send(hall(4, 44_100), 'Grain store.wav');
    expect(done).toMatchObject({ state: 'done' });
    const [known] = await list();
    expect(known).toMatchObject({ id: done.resultId, name: 'Grain store', channels: 4 });
    expect(known.remarks[0]).toContain('44100 Hz');
    expect(Math.abs(known.decaySeconds - 0.8)).toBeLessThan(0.08);
    const sent = await viewer.get(`/halls/${known.id}/response`).buffer(true);
    expect((sent.body as Buffer).length).toBe(4 * known.frames * 4);
    const first = new Float32Array(new Uint8Array(sent.body as Buffer).buffer, 0, known.frames);
    expect(Math.max(...first.slice(0, 2000).map(Math.abs))).toBeGreaterThan(0.3);
    expect((await editor.delete(`/halls/${known.id}`)).status).toBe(204);
    expect(await list()).toEqual([]);
    expect(files()).toEqual([]);
    expect((await viewer.get(`/halls/${known.id}/response`)).status).toBe(404);
  });

  it('stay while a template sounds in them', async () => {
    const { resultId } = await send(hall(1), 'Loft.wav');
    const template = test.store.models.records.template;
    await template.update({ hall: resultId }, { where: { id: test.templateId } });
    const refused = await editor.delete(`/halls/${resultId}`);
    expect(refused.status).toBe(400);
    expect((refused.body as { title: string }).title).toContain('Choose another one there first');
    expect(await list()).toHaveLength(1);
    await template.update({ hall: 'harbour' }, { where: { id: test.templateId } });
    expect((await editor.delete(`/halls/${resultId}`)).status).toBe(204);
  });

  it.each([
    ['silence', writeSilence(), 'Quiet.wav', 'It is silent'],
    ['three channels', hall(3), 'Three.wav', 'A hall has one, two, or four'],
    ['six channels', hall(6), 'Six.wav', '4 at most'],
    ['two minutes', hall(1, 8000, 120), 'Long.wav', 'rings 10 s at most'],
    ['no recording', Buffer.from('RIFF....'), 'Broken.wav', 'Broken.wav'],
    ['a text', Buffer.from('hello'), 'notes.txt', 'WAV or FLAC'],
  ])('are refused with the reason, and nothing stays: %s', async (_what, file, name, why) => {
    const failed = await send(file, name);
    expect(failed.state).toBe('failed');
    expect(failed.message).toContain(why);
    expect(await list()).toEqual([]);
    expect(files()).toEqual([]);
  });

  it('are nobody else’s: a viewer takes none in, another studio sees none', async () => {
    const { resultId } = await send(hall(2), 'Ours.wav');
    expect((await viewer.post('/halls').attach('files', hall(1), 'x.wav')).status).toBe(403);
    expect((await viewer.delete(`/halls/${resultId}`)).status).toBe(403);
    const outsider = await test.as('outsider');
    expect((await outsider.get('/halls')).body).toEqual([]);
    expect((await outsider.get(`/halls/${resultId}/response`)).status).toBe(404);
    expect((await outsider.delete(`/halls/${resultId}`)).status).toBe(404);
    expect(await list()).toHaveLength(1);
  });
});

function writeSilence(): Buffer {
  return Buffer.from(writeWav({ rate: 48_000, format: 'i16', channels: [new Float32Array(48_000)] }));
}

import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { JobInfo } from '#api/index.ts';
import { ThreadQueue, type JobOrder } from './jobs.ts';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farlo-jobs-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A worker made of a few lines; `send` posts a message, `order` is what it was given. */
function worker(name: string, body: string): URL {
  const path = join(folder, `${name}.mjs`);
  writeFileSync(
    path,
    `import { parentPort, workerData } from 'node:worker_threads';\nconst send = (m) => parentPort.postMessage(m);\nconst { order } = workerData;\n${body}`,
  );
  return pathToFileURL(path);
}

function run(queue: ThreadQueue, order: Partial<JobOrder<number>> & { worker: URL }): Promise<JobInfo> {
  return new Promise((resolve) => {
    const info: JobInfo = queue.add<number>({
      kind: 'import',
      title: 'A job',
      studioId: 's',
      data: {},
      finish: (result) => Promise.resolve(String(result)),
      ended: () => resolve(info),
      ...order,
    });
  });
}

describe('long work', () => {
  it('hands over its parts one after the other, then its result', async () => {
    const queue = new ThreadQueue(1);
    const seen: string[] = [];
    const info = await run(queue, {
      worker: worker(
        'parts',
        `for (const result of [1, 2, 3]) send({ kind: 'part', result }); send({ kind: 'done', result: 4 });`,
      ),
      part: async (result) => {
        // The first takes longest; the others must wait for it.
        await new Promise((resolve) => setTimeout(resolve, 30 / result));
        seen.push(`part ${result}`);
      },
      finish: (result) => {
        seen.push(`done ${result}`);
        return Promise.resolve('made');
      },
    });
    expect(seen).toEqual(['part 1', 'part 2', 'part 3', 'done 4']);
    expect(info).toMatchObject({ state: 'done', progress: 1, parts: 3, resultId: 'made' });
    await queue.close();
  });
  it('fails with the worker’s sentence and place, or with a plain one when the worker breaks', async () => {
    const queue = new ThreadQueue(2);
    const refused = await run(queue, {
      worker: worker(
        'refused',
        `send({ kind: 'failed', code: 'file.damaged', message: 'It is torn.', place: { file: 'a.wav', byte: 12 } });`,
      ),
    });
    expect([refused.state, refused.message]).toEqual(['failed', 'a.wav, byte 12: It is torn.']);
    const broken = await run(queue, { worker: worker('broken', `throw new Error('secret detail');`) });
    expect(broken.state).toBe('failed');
    expect(broken.message).not.toContain('secret');
    const unkept = await run(queue, {
      worker: worker('quick', `send({ kind: 'part', result: 1 }); send({ kind: 'done', result: 1 });`),
      part: () => Promise.reject(new Error('the disk is full')),
    });
    expect(unkept.state).toBe('failed');
    await queue.close();
  });
  it('runs as many at once as it may, and the next when one ends', async () => {
    const queue = new ThreadQueue(2);
    const slow = worker('slow', `setTimeout(() => send({ kind: 'done', result: 1 }), 120);`);
    const jobs = [1, 2, 3].map(() => run(queue, { worker: slow }));
    expect(queue.list('s').map((info) => info.state)).toEqual(['running', 'running', 'waiting']);
    expect(queue.list('another studio')).toEqual([]);
    expect((await Promise.all(jobs)).map((info) => info.state)).toEqual(['done', 'done', 'done']);
    await queue.close();
  });
  it('is cancelled while it waits and while it runs; nothing is kept, and what it left is cleaned up', async () => {
    const queue = new ThreadQueue(1);
    const endless = worker('endless', `setInterval(() => undefined, 1000);`);
    let finished = 0;
    let cleaned = 0;
    const order = {
      worker: endless,
      finish: () => {
        finished++;
        return Promise.resolve(undefined);
      },
      cleanUp: () => cleaned++,
    };
    const running = run(queue, order);
    void run(queue, order);
    const [first, second] = queue.list('s');
    queue.cancel(second.id);
    queue.cancel(first.id);
    await running;
    expect(queue.list('s').map((info) => info.state)).toEqual(['cancelled', 'cancelled']);
    expect([finished, cleaned]).toEqual([0, 2]);
    // What was given up may be taken off the list; what goes on may not.
    const third = queue.add<number>({ kind: 'import', title: 'x', studioId: 's', data: {}, ...order });
    expect([queue.isBusyWith(['import']), queue.isBusyWith(['scan', 'export'])]).toEqual([true, false]);
    for (const { id } of [first, third]) queue.dismiss(id);
    expect(queue.list('s').map(({ id }) => id)).toEqual([second.id, third.id]);
    queue.cancel(third.id);
    expect(queue.isBusyWith(['import'])).toBe(false);
    await queue.close();
  });
  it('of one studio never waits for another’s', async () => {
    const queue = new ThreadQueue(1);
    const slow = worker('slow', 'setTimeout(() => {}, 60_000);');
    const quick = worker('quick', "send({ kind: 'done', result: 1 });");
    const waiting = queue.add<number>({
      kind: 'import',
      title: 'x',
      studioId: 'busy',
      worker: slow,
      data: {},
      finish: () => Promise.resolve(undefined),
    });
    const behind = queue.add<number>({
      kind: 'import',
      title: 'x',
      studioId: 'busy',
      worker: quick,
      data: {},
      finish: () => Promise.resolve(undefined),
    });
    const others = await Promise.all(
      ['b', 'c', 'd'].map((studioId) => run(queue, { worker: quick, studioId })),
    );
    expect(others.map((info) => info.state)).toEqual(['done', 'done', 'done']);
    expect([waiting.state, behind.state]).toEqual(['running', 'waiting']);
    expect(queue.list('b')).toHaveLength(1);
    await queue.close();
  });
  it('that has ended is listed up to fifty per studio', async () => {
    const queue = new ThreadQueue(4);
    const quick = worker('quick', "send({ kind: 'done', result: 1 });");
    const first = await run(queue, { worker: quick });
    for (let i = 0; i < 51; i++) await run(queue, { worker: quick });
    await run(queue, { worker: quick, studioId: 'another' });
    expect([queue.list('s').length <= 51, queue.get(first.id), queue.list('another').length]).toEqual([
      true,
      undefined,
      1,
    ]);
    await queue.close();
  });
});

import { randomUUID } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { request as httpRequest, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { Problem } from '#api/index.ts';
import { writeWav } from '#core/formats/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
let editor: Caller;
let server: Server;
let cookie: string;
let guard: string;
beforeAll(async () => {
  test = await startApp();
  editor = await test.as('editor');
  const answer = await editor.get('/session');
  guard = (answer.body as { guard: string }).guard;
  cookie = String(answer.headers['set-cookie']).split(';')[0];
  server = await new Promise<Server>((resolve) => {
    const listening = test.app.express.listen(0, '127.0.0.1', () => resolve(listening));
  });
});
afterAll(async () => {
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await test.close();
});

interface Answer {
  status: number;
  body: Problem;
}

/** Sends bytes as they are. */
function send(
  method: string,
  path: string,
  headers: Record<string, string>,
  body?: Buffer | string,
): Promise<Answer> {
  const { port } = server.address() as AddressInfo;
  return new Promise((resolve, reject) => {
    const call = httpRequest({ port, method, path, headers }, (response) => {
      let text = '';
      response.on('data', (chunk: Buffer) => (text += chunk.toString()));
      response.on('end', () => {
        let body = {} as Problem;
        try {
          body = JSON.parse(text) as Problem;
        } catch {
          // Not every answer is a problem.
        }
        resolve({ status: response.statusCode ?? 0, body });
      });
    });
    call.on('error', reject);
    call.end(body);
  });
}

const signedIn = () => ({ cookie, 'x-farlo-guard': guard });
const json = (path: string, body: string | Buffer, more: Record<string, string> = {}) =>
  send('POST', path, { ...signedIn(), 'content-type': 'application/json', ...more }, body);
/** In words: a sentence that ends, without anything from inside. */
const inWords = ({ body }: Answer) => {
  // The name of the file may stand before the sentence.
  expect(body.title).toMatch(/(^|: )[A-Z“].{8,300}[.”]$/u);
  expect(body.title).not.toMatch(/Error|at \/|node_modules|undefined|\bnull\b/);
};

describe('addresses', () => {
  it.each([
    '/api/documents/cue/%00',
    '/api/documents/cue/%E0%A4%A',
    '/api/documents/cue/%',
    '/api/documents/constructor/x',
    '/api/documents/__proto__/x',
    `/api/documents/cue/${'x'.repeat(5000)}`,
    "/api/documents/cue/'%20OR%201=1",
    '/api/packs/..%2f..%2fsecrets.json',
    '/api/packs/%2e%2e%2fsecrets.json',
    '/api/exports/..%2f..%2fsecrets',
    '/api/references/..%2fx/passage?from=0&to=1',
    '/api/instruments/[object%20Object]',
    '/api/imports/null',
    '/api/nothing/here',
    '/api/invitations/%00',
    `/api/documents/cue/${randomUUID()}/history?before=1e400`,
    '/api/documents/cue?id[]=1',
  ])('%s is answered in words, not with a failure', async (path) => {
    const answer = await send('GET', path, signedIn());
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    inWords(answer);
  });
});

describe('bodies', () => {
  const path = () => `/api/documents/cue/${test.cueId}/patches`;
  it.each<[string, string, Record<string, string>, number]>([
    ['nested a hundred thousand deep', '['.repeat(100_000), {}, 400],
    ['of objects nested deep', '{"a":'.repeat(50_000) + '1', {}, 400],
    ['cut in the middle', '{"id":"x', {}, 400],
    ['in an unknown charset', '{}', { 'content-type': 'application/json; charset=klingon' }, 415],
    ['in UTF-16 that is none', '{}', { 'content-type': 'application/json; charset=utf-16le' }, 400],
    ['packed in an unknown way', '{}', { 'content-encoding': 'x-unheard' }, 415],
    ['that say they are packed and are not', '{}', { 'content-encoding': 'gzip' }, 400],
    ['of another kind', 'a=b', { 'content-type': 'application/x-www-form-urlencoded' }, 400],
    ['that are a list', '[]', {}, 400],
    ['that are a word', '"hello"', {}, 400],
    ['with a prototype inside', '{"__proto__":{"x":1},"constructor":1}', {}, 400],
    ['that are empty', '', {}, 400],
  ])('%s are refused in words', async (_name, body, headers, status) => {
    const answer = await json(path(), body, headers);
    expect(answer.status).toBe(status);
    inWords(answer);
  });
  it('larger than a route takes are refused', async () => {
    const small = await json('/api/documents', JSON.stringify({ kind: 'cue', name: 'x'.repeat(70_000) }));
    expect([small.status, small.body.code]).toEqual([413, 'request.too-large']);
    const changes = Array.from({ length: 2000 }, (_, i) => ({
      kind: 'marker',
      id: randomUUID(),
      op: 'add',
      fields: { tick: i, text: 'x'.repeat(390) },
    }));
    const large = await json(path(), JSON.stringify({ id: randomUUID(), label: 'x', changes }));
    expect(large.status).toBe(200);
  });
  it('of somebody who is not signed in are not read', async () => {
    const { port } = server.address() as AddressInfo;
    // The answer comes although the announced fifty megabytes never do.
    const answer = await new Promise<string>((resolve) => {
      const socket = connect(port, '127.0.0.1', () =>
        socket.write(
          `POST ${path()} HTTP/1.1\r\nhost: x\r\nx-farlo-guard: none\r\ncontent-type: application/json\r\ncontent-length: 50000000\r\n\r\n[`,
        ),
      );
      socket.on('data', (data) => {
        resolve(data.toString());
        socket.destroy();
      });
    });
    expect(answer).toMatch(/^HTTP\/1\.1 401 /);
  });
});

describe('odd uploads', () => {
  const BOUNDARY = 'farlo-test-boundary';
  const part = (filename: string, content = 'RIFF') =>
    `--${BOUNDARY}\r\ncontent-disposition: form-data; name="files"; filename="${filename}"\r\ncontent-type: audio/wav\r\n\r\n${content}\r\n`;
  const end = `--${BOUNDARY}--\r\n`;
  const form = { 'content-type': `multipart/form-data; boundary=${BOUNDARY}` };
  const left = () => {
    const folder = join(test.dataFolder, 'uploads');
    return existsSync(folder) ? readdirSync(folder) : [];
  };
  it.each<[string, string, Record<string, string>]>([
    ['a folder’s name', part('a/') + end, form],
    ['two dots', part('..') + end, form],
    ['one dot', part('x/.') + end, form],
    ['a way out of the folder', part('../../secrets.json') + end, form],
    ['a way out with the other slash', part('..\\..\\secrets.json') + end, form],
    ['an absolute path', part('/etc/passwd') + end, form],
    ['a drive', part('C:\\x.wav') + end, form],
    ['NUL in a name', part('a\0b.wav') + end, form],
    ['a line break in a name', part('a%0ab.wav\x01') + end, form],
    ['a name that is too long', part(`${'n'.repeat(300)}.wav`) + end, form],
    ['a path that is too long', part(`${'folder/'.repeat(200)}x.wav`) + end, form],
    ['a file and a folder of one name', part('a') + part('a/b.wav') + end, form],
    ['no file at all', end, form],
    [
      'a field in the place of a file',
      `--${BOUNDARY}\r\ncontent-disposition: form-data; name="files"\r\n\r\nx\r\n${end}`,
      form,
    ],
    ['another field’s file', part('a.wav').replace('name="files"', 'name="other"') + end, form],
    ['a cut form', part('a.wav').slice(0, -3), form],
    ['a cut head', `--${BOUNDARY}\r\ncontent-disposition: form-`, form],
    ['no boundary', part('a.wav') + end, { 'content-type': 'multipart/form-data' }],
    ['another boundary', part('a.wav') + end, { 'content-type': 'multipart/form-data; boundary=another' }],
    ['an empty name', part('') + end, form],
  ])('%s: refused in words, and nothing stays', async (_name, body, headers) => {
    for (const path of ['/api/imports', '/api/references']) {
      const answer = await send('POST', path, { ...signedIn(), ...headers }, body);
      expect(answer.status).toBeGreaterThanOrEqual(400);
      expect(answer.status).toBeLessThan(500);
      inWords(answer);
      expect(left()).toEqual([]);
    }
  });
  it('that break off leave nothing', async () => {
    const { port } = server.address() as AddressInfo;
    await new Promise<void>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => {
        socket.write(
          `POST /api/imports HTTP/1.1\r\nhost: x\r\ncookie: ${cookie}\r\nx-farlo-guard: ${guard}\r\ncontent-type: ${form['content-type']}\r\ncontent-length: 100000\r\n\r\n${part('a.wav', 'x'.repeat(5000)).slice(0, -10)}`,
        );
        setTimeout(() => socket.destroy(), 100);
      });
      socket.on('close', () => resolve());
    });
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(left()).toEqual([]);
  });
  const wav = Buffer.from(
    writeWav({
      rate: 8000,
      format: 'i16',
      channels: [Float32Array.from({ length: 800 }, (_, i) => Math.sin(i / 5))],
    }),
  );
  it('of one studio are counted apart from those of another', async () => {
    const outsider = await test.as('outsider');
    const upload = async (caller: Caller) => {
      const answer = await caller.post('/imports').attach('files', wav, 'x C4.wav');
      const job = answer.body as { id: string };
      for (;;) {
        const { state, resultId } = (await caller.get(`/jobs/${job.id}`)).body as {
          state: string;
          resultId: string;
        };
        if (state === 'done') return resultId;
        if (state !== 'waiting' && state !== 'running') throw new Error(`the job is ${state}`);
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    };
    const first = await upload(outsider);
    const own: string[] = [];
    for (let i = 0; i < 6; i++) own.push(await upload(editor));
    expect((await outsider.get(`/imports/${first}`)).status).toBe(200);
    // The sixth of one’s own takes the place of the first.
    expect((await editor.get(`/imports/${own[0]}`)).status).toBe(404);
    expect((await editor.get(`/imports/${own[5]}`)).status).toBe(200);
  });
});

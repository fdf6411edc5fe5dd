import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { fetchBytes, fetchPieces, request, RequestFailure, setGuard, whenSignedOut } from './api-client.ts';

const calls: { path: string; init: RequestInit }[] = [];
let answers: (Response | Error)[] = [];
const before = globalThis.fetch;
const session = { over: vi.fn(), renew: vi.fn(() => Promise.resolve(true)) };
beforeEach(() => {
  calls.length = 0;
  answers = [];
  session.over.mockClear();
  session.renew.mockReset().mockResolvedValue(true);
  whenSignedOut(session);
  setGuard('g1');
  globalThis.fetch = ((path: string, init: RequestInit) => {
    calls.push({ path, init });
    const answer = answers.shift() ?? new Response('{"ok":true}');
    return answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer);
  }) as typeof fetch;
});
afterEach(() => {
  globalThis.fetch = before;
});
const problem = (status: number, code: string) =>
  new Response(JSON.stringify({ title: `It is ${code}.`, status, code }), { status });
const failure = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (error: RequestFailure) => [error.status, error.code, error.message],
  );

describe('a request', () => {
  it('carries the guard and its body as JSON', async () => {
    expect(await request('POST', '/x', { a: 1 })).toEqual({ ok: true });
    expect(calls[0]).toEqual({
      path: '/api/x',
      init: {
        method: 'POST',
        headers: { 'x-farlo-guard': 'g1', 'content-type': 'application/json' },
        body: '{"a":1}',
      },
    });
    await request('GET', '/x');
    expect(calls[1].init).toEqual({ method: 'GET', headers: { 'x-farlo-guard': 'g1' }, body: undefined });
    const form = new FormData();
    await request('POST', '/x', form);
    expect([calls[2].init.body, calls[2].init.headers]).toEqual([form, { 'x-farlo-guard': 'g1' }]);
  });
  it('says that there is no guard yet, in a header that other sites cannot send', async () => {
    setGuard('');
    await request('POST', '/x');
    expect(calls[0].init.headers).toEqual({ 'x-farlo-guard': 'none' });
  });
  it('gives nothing for an answer without content', async () => {
    answers = [new Response(null, { status: 204 })];
    expect(await request('DELETE', '/x')).toBeUndefined();
  });
  it('fails with the server’s sentence and code', async () => {
    answers = [problem(422, 'patch.invalid')];
    expect(await failure(request('POST', '/x'))).toEqual([422, 'patch.invalid', 'It is patch.invalid.']);
    expect(session.over).not.toHaveBeenCalled();
  });
  it('counts as no answer what is none of the server’s', async () => {
    answers = [
      new TypeError('refused'),
      new Response('<html>bad gateway</html>', { status: 502 }),
      new Response('{"cut', { status: 200 }),
    ];
    expect(await failure(request('GET', '/x'))).toEqual([
      0,
      undefined,
      'The server does not answer. Your edits are kept here and sent when it is back.',
    ]);
    expect(await failure(request('GET', '/x'))).toEqual([0, undefined, 'The server answered 502.']);
    expect(await failure(request('GET', '/x'))).toEqual([
      0,
      undefined,
      'The answer of the server was cut off.',
    ]);
  });
  it('tells when the session is over, once for each answer that says so', async () => {
    answers = [problem(401, 'access.sign-in'), problem(401, 'access.wrong-password')];
    expect((await failure(request('GET', '/x')))?.[0]).toBe(401);
    expect(session.over).toHaveBeenCalledTimes(1);
    await failure(request('POST', '/session'));
    expect(session.over).toHaveBeenCalledTimes(1);
  });
  it('goes on with a new guard when the same person signed in elsewhere', async () => {
    session.renew.mockImplementation(() => {
      setGuard('g2');
      return Promise.resolve(true);
    });
    answers = [problem(403, 'access.guard')];
    expect(await request('POST', '/x', { a: 1 })).toEqual({ ok: true });
    expect(calls.map(({ init }) => (init.headers as Record<string, string>)['x-farlo-guard'])).toEqual([
      'g1',
      'g2',
    ]);
    expect(calls[1].init.body).toBe('{"a":1}');
  });
  it('is not sent again for somebody else, nor for another refusal', async () => {
    session.renew.mockResolvedValue(false);
    answers = [problem(403, 'access.guard'), problem(403, 'access.refused')];
    expect(await failure(request('POST', '/x'))).toEqual([403, 'access.guard', 'It is access.guard.']);
    expect(await failure(request('POST', '/x'))).toEqual([403, 'access.refused', 'It is access.refused.']);
    expect([calls.length, session.renew.mock.calls.length]).toEqual([2, 1]);
  });
  it('is sent again only once', async () => {
    answers = [problem(403, 'access.guard'), problem(403, 'access.guard')];
    expect((await failure(request('POST', '/x')))?.[1]).toBe('access.guard');
    expect(calls).toHaveLength(2);
  });
});

describe('sound', () => {
  it('comes as bytes', async () => {
    answers = [new Response(new Uint8Array([1, 2, 3]))];
    expect(new Uint8Array(await fetchBytes('/x'))).toEqual(new Uint8Array([1, 2, 3]));
    expect(calls[0]).toEqual({ path: '/api/x', init: { headers: { 'x-farlo-guard': 'g1' } } });
  });
  it('that does not come is told', async () => {
    answers = [new TypeError('x'), problem(500, 'sample.damaged'), new Response('no', { status: 503 })];
    expect(await failure(fetchBytes('/x'))).toEqual([
      0,
      undefined,
      'The server does not answer; the sound could not be loaded.',
    ]);
    expect(await failure(fetchBytes('/x'))).toEqual([500, 'sample.damaged', 'It is sample.damaged.']);
    expect(await failure(fetchBytes('/x'))).toEqual([0, undefined, 'The sound could not be loaded (503).']);
  });
  const reads = [
    { pack: 'a'.repeat(64), start: 0, end: 2 },
    { pack: 'b'.repeat(64), start: 5, end: 8 },
  ];
  /** What comes, each piece by how many bytes came before it and how many it has. */
  const taken = async () => {
    const list: [number, number][] = [];
    await fetchPieces(reads, (bytes, at) => list.push([at, bytes.length]));
    return list;
  };
  it('comes in pieces, all in one answer', async () => {
    answers = [new Response(new Uint8Array(5))];
    expect((await taken()).reduce((sum, [, length]) => sum + length, 0)).toBe(5);
    expect(calls[0].path).toBe('/api/packs/read');
    expect(JSON.parse(String(calls[0].init.body))).toMatchObject({ packs: ['a'.repeat(64), 'b'.repeat(64)] });
  });
  it('of which less came than announced is not taken', async () => {
    answers = [new Response(new Uint8Array(4)), problem(500, 'sample.missing'), new TypeError('x')];
    expect(await failure(taken())).toEqual([
      0,
      undefined,
      'Less sound arrived than announced. Load it again.',
    ]);
    expect((await failure(taken()))?.[1]).toBe('sample.missing');
    expect((await failure(taken()))?.[0]).toBe(0);
  });
  it('is asked for again with a new guard', async () => {
    answers = [problem(403, 'access.guard'), new Response(new Uint8Array(5))];
    expect((await taken()).reduce((sum, [, length]) => sum + length, 0)).toBe(5);
    session.renew.mockResolvedValue(false);
    answers = [problem(403, 'access.guard')];
    expect((await failure(taken()))?.[1]).toBe('access.guard');
  });
});

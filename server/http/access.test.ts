import { randomUUID } from 'node:crypto';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ROLES } from '#api/index.ts';
import { startApp, type TestApp } from '../testing/app.ts';

let test: TestApp;
beforeAll(async () => {
  test = await startApp();
});
afterAll(() => test.close());

const WHO = ['nobody', 'outsider', 'viewer', 'editor', 'owner'] as const;

/** Every route with parameters that stand for something of the studio where there is something. */
function addresses(): { method: string; path: string; access: string; ofStudio: boolean }[] {
  return test.app.routes.flatMap(({ method, path, access, studioOf }) => {
    const kinds = path.includes(':kind')
      ? ([
          ['template', test.templateId],
          ['cue', test.cueId],
        ] as const)
      : [['', randomUUID()] as const];
    return kinds.map(([kind, id]) => ({
      method,
      path: path.replace(':kind', kind).replace(':id', id),
      access,
      ofStudio: studioOf !== undefined,
    }));
  });
}

describe('every route × every role', () => {
  it('gives each only what the role may', async () => {
    const wrong: string[] = [];
    for (const who of WHO) {
      const caller = await test.as(who);
      for (const { method, path, access, ofStudio } of addresses()) {
        // Signing out would end this caller, and a stream would never end.
        if ((method === 'delete' && path === '/session') || path.endsWith('/events')) continue;
        const answer = await caller[method as 'get' | 'post' | 'delete'](path);
        const { status } = answer;
        const rank = (ROLES as readonly string[]).indexOf(who === 'outsider' ? 'owner' : who);
        const may =
          access === 'public' || (who !== 'nobody' && rank >= (ROLES as readonly string[]).indexOf(access));
        const refused = status === 401 || status === 403;
        const expected =
          who === 'nobody' && access !== 'public'
            ? status === 401
            : who === 'outsider' && ofStudio
              ? status === 404
              : may
                ? !refused || path === '/session'
                : refused || status === 404;
        if (!expected || status >= 500) wrong.push(`${who} ${method} ${path} → ${status}`);
      }
    }
    expect(wrong).toEqual([]);
  });
  it('checks event streams like everything else', async () => {
    const path = `/documents/cue/${test.cueId}/events`;
    expect((await (await test.as('nobody')).get(path)).status).toBe(401);
    expect((await (await test.as('outsider')).get(path)).status).toBe(404);
  });
  it('refuses changes without the guard, even with the cookie', async () => {
    const agent = request.agent(test.app.express);
    const { guard } = (await agent.get('/api/session')).body as { guard: string };
    await agent
      .post('/api/session')
      .set('x-farlo-guard', guard)
      .send({ email: 'ilse@saltglass.example', password: 'lantern-and-tide' });
    const answer = await agent.post('/api/cues').send({ name: 'x', templateId: test.templateId });
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([403, 'access.guard']);
  });
});

describe('sign-in', () => {
  it('refuses a wrong password and an unknown address alike', async () => {
    const caller = await test.as('nobody');
    const wrong = await caller.post('/session', { email: 'ilse@saltglass.example', password: 'nope' });
    const unknown = await caller.post('/session', { email: 'who@nowhere.example', password: 'nope' });
    expect(wrong.status).toBe(401);
    expect(unknown.body).toEqual(wrong.body);
    expect(wrong.headers['content-type']).toContain('application/problem+json');
  });
  it('gives a cookie that scripts cannot read and other sites do not send', async () => {
    const answer = await request(test.app.express).get('/api/session');
    const cookie = String(answer.headers['set-cookie']);
    expect(cookie).toContain('HttpOnly');
    expect(cookie).toContain('SameSite=Strict');
  });
  it('ends with signing out', async () => {
    const caller = await test.as('editor');
    expect((await caller.get('/studio')).status).toBe(200);
    expect((await caller.delete('/session')).status).toBe(204);
    expect((await caller.get('/studio')).status).toBe(401);
  });
  it('slows down guessing', async () => {
    const caller = await test.as('nobody');
    const statuses: number[] = [];
    for (let i = 0; i < 24; i++)
      statuses.push(
        (await caller.post('/session', { email: 'ilse@saltglass.example', password: `guess ${i}` })).status,
      );
    expect(statuses.at(-1)).toBe(429);
  });
});

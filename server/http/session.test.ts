import request from 'supertest';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { InvitationInfo, MemberInfo, SessionInfo } from '#api/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
beforeAll(async () => {
  test = await startApp();
});
afterAll(() => test.close());

const PASSWORD = 'herring gull over slate';
const info = async (caller: Caller) => (await caller.get('/session')).body as SessionInfo;
const code = (answer: { status: number; body: unknown }) => [
  answer.status,
  (answer.body as { code: string }).code,
];
const sessions = () => test.store.models.sessions.count();

describe('signing in', () => {
  it('says who one is, where, and what one may', async () => {
    const owner = await test.as('owner');
    expect(await info(owner)).toMatchObject({
      user: { name: 'Ilse Marrow', email: 'ilse@saltglass.example' },
      studio: { name: 'Saltglass Music', role: 'owner' },
      studios: [{ name: 'Saltglass Music', role: 'owner' }],
      founding: null,
    });
    expect((await info(owner)).guard).toMatch(/^[\w-]{32}$/);
  });
  it('refuses a wrong password and an unknown address alike', async () => {
    const nobody = await test.as('nobody');
    const wrong = await nobody.post('/session', { email: 'ilse@saltglass.example', password: 'nope' });
    const unknown = await nobody.post('/session', { email: 'who@nowhere.example', password: 'nope' });
    expect(code(wrong)).toEqual([401, 'access.wrong-password']);
    expect(unknown.body).toEqual(wrong.body);
    expect(wrong.headers['content-type']).toContain('application/problem+json');
  });
  it('gives a cookie that scripts cannot read and other sites do not send, for half an hour', async () => {
    const answer = await request(test.app.express)
      .post('/api/session')
      .set('x-farlo-guard', 'none')
      .send({ email: 'ilse@saltglass.example', password: 'lantern-and-tide' });
    const cookie = String(answer.headers['set-cookie']);
    expect(cookie).toMatch(/^farlo=/);
    expect(cookie).toContain('HttpOnly');
    expect(cookie).toContain('SameSite=Strict');
    expect(cookie).toContain('Path=/');
    expect(cookie).not.toContain('Secure');
    const expires = Date.parse(/Expires=([^;]+)/.exec(cookie)?.[1] ?? '');
    expect(Math.abs(expires - Date.now() - 30 * 60_000)).toBeLessThan(60_000);
  });
  it('begins a new session each time, so that one fixed before is worth nothing', async () => {
    const caller = await test.as('viewer');
    const before = (await info(caller)).guard;
    await caller.post('/session', { email: 'tomas@saltglass.example', password: 'ferry-at-nine' });
    const after = await info(caller);
    expect([after.user?.name, after.guard === before]).toEqual(['Tomas Oake', false]);
  });
  it('leaves nothing behind for those who only look', async () => {
    const before = await sessions();
    const nobody = await test.as('nobody');
    for (let i = 0; i < 5; i++) {
      const answer = await nobody.get('/session');
      expect(answer.headers['set-cookie']).toBeUndefined();
      await nobody.post('/session', { email: 'x@y.example', password: 'z' });
      await nobody.get('/studio');
    }
    expect(await sessions()).toBe(before);
    expect(await info(nobody)).toMatchObject({ user: null, studio: null, studios: [], guard: '' });
  });
  it('ends with signing out', async () => {
    const caller = await test.as('editor');
    expect((await caller.get('/studio')).status).toBe(200);
    expect((await caller.delete('/session')).status).toBe(204);
    expect((await caller.get('/studio')).status).toBe(401);
  });
  it('ends after half an hour without a word, and after twelve hours whatever happens', async () => {
    const [idle, long] = [await test.as('editor'), await test.as('owner')];
    const { sessions: table } = test.store.models;
    const idOf = async (caller: Caller) => (await info(caller)).user?.id ?? '';
    await table.update({ expires: new Date(Date.now() - 1000) }, { where: { userId: await idOf(idle) } });
    expect((await idle.get('/studio')).status).toBe(401);
    const [row] = (await table.findAll({
      where: { userId: await idOf(long) },
      order: [['createdAt', 'DESC']],
      raw: true,
    })) as unknown as { sid: string; data: string }[];
    const data = JSON.parse(row.data) as { startedAt: number };
    const old = { ...data, startedAt: Date.now() - 12 * 3_600_000 - 1000 };
    await table.update({ data: JSON.stringify(old) }, { where: { userId: await idOf(long) } });
    expect((await long.get('/studio')).status).toBe(401);
  });
});

describe('an invitation', () => {
  let owner: Caller;
  const invite = async (role = 'editor') =>
    ((await owner.post('/invitations', { role, days: 7 })).body as InvitationInfo).path?.replace(
      '/join/',
      '',
    ) ?? '';
  beforeAll(async () => {
    owner = await test.as('owner');
  });
  it('is made by owners for a role and some days', async () => {
    const made = await owner.post('/invitations', { role: 'viewer', days: 30 });
    expect(made.status).toBe(201);
    const { path, role, expires } = made.body as InvitationInfo;
    expect([path, role]).toEqual([expect.stringMatching(/^\/join\/[\w-]{32}$/), 'viewer']);
    expect(Math.abs(Date.parse(expires) - Date.now() - 30 * 86_400_000)).toBeLessThan(60_000);
    for (const bad of [
      { role: 'king', days: 7 },
      { role: 'viewer', days: 31 },
      { role: 'viewer', days: 0 },
    ])
      expect((await owner.post('/invitations', bad)).status).toBe(400);
  });
  it('tells who holds its link what it offers, signed in or not', async () => {
    const answer = await (await test.as('nobody')).get(`/invitations/${await invite()}`);
    expect(answer.body).toMatchObject({ studio: 'Saltglass Music', role: 'editor' });
    expect(code(await (await test.as('nobody')).get('/invitations/unknown'))).toEqual([
      404,
      'access.invitation',
    ]);
  });
  it('makes somebody new a member, signed in at once', async () => {
    const guest = await test.as('nobody');
    const token = await invite();
    const joined = await guest.post('/join', {
      token,
      name: 'Pim Gull',
      email: 'pim@gull.example',
      password: PASSWORD,
    });
    expect(joined.body).toMatchObject({
      user: { name: 'Pim Gull' },
      studio: { name: 'Saltglass Music', role: 'editor' },
    });
    expect((await guest.get('/studio')).status).toBe(200);
    const members = (await owner.get('/members')).body as MemberInfo[];
    expect(members.find(({ email }) => email === 'pim@gull.example')?.role).toBe('editor');
    expect(
      code(
        await (
          await test.as('nobody')
        ).post('/join', { token, name: 'X', email: 'x@gull.example', password: PASSWORD }),
      ),
    ).toEqual([404, 'access.invitation']);
  });
  it('asks for a name, an address and a password that is not guessed soon', async () => {
    const guest = await test.as('nobody');
    const token = await invite();
    const join = (more: object) =>
      guest.post('/join', { token, name: 'Pim', email: 'pim2@gull.example', password: PASSWORD, ...more });
    expect((await join({ name: '  ' })).status).toBe(400);
    expect((await join({ email: 'no address' })).status).toBe(400);
    expect((await join({ password: 'short' })).status).toBe(400);
    expect((await join({ password: undefined })).status).toBe(400);
    for (const password of ['password1234', 'qwertyuiop12', 'aaaaaaaaaaaaaa', 'pim2@gull.example'])
      expect(code(await join({ password })), password).toEqual([422, 'access.weak-password']);
    expect((await join({ password: PASSWORD })).status).toBe(200);
  });
  it('brings somebody known into a second studio, where they then work', async () => {
    const outsider = await test.as('outsider');
    const joined = await outsider.post('/join', { token: await invite('viewer') });
    expect(joined.body).toMatchObject({
      user: { name: 'Out Sider' },
      studio: { name: 'Saltglass Music', role: 'viewer' },
    });
    await outsider.renew();
    const { studios } = await info(outsider);
    expect(studios.map(({ name, role }) => `${name} ${role}`)).toEqual([
      'Another studio owner',
      'Saltglass Music viewer',
    ]);
    expect((await outsider.get(`/documents/cue/${test.cueId}`)).status).toBe(200);
    expect((await outsider.get(`/documents/cue/${test.elsewhere.cueId}`)).status).toBe(404);
    expect(
      (await outsider.post('/session/studio', { studioId: test.elsewhere.studioId })).body,
    ).toMatchObject({ studio: { name: 'Another studio' } });
    expect((await outsider.get(`/documents/cue/${test.elsewhere.cueId}`)).status).toBe(200);
    const strange = (await startOther()).id;
    expect((await outsider.post('/session/studio', { studioId: strange })).status).toBe(404);
    expect((await outsider.post('/members/leave')).status).toBe(409);
    await outsider.post('/session/studio', { studioId: test.studioId });
    expect((await outsider.post('/members/leave')).status).toBe(204);
    expect((await info(outsider)).studios).toHaveLength(1);
  });
  it('can be withdrawn', async () => {
    const token = await invite();
    const open = (await owner.get('/invitations')).body as InvitationInfo[];
    for (const { id } of open) await owner.delete(`/invitations/${id}`);
    expect((await (await test.as('nobody')).get(`/invitations/${token}`)).status).toBe(404);
    expect((await owner.get('/invitations')).body).toEqual([]);
  });
});

const startOther = async () => ({ id: await test.people.addStudio('Nobody is here') });

describe('a person', () => {
  const email = 'mo@pier.example';
  beforeAll(async () => {
    await test.people.addMember(test.studioId, {
      name: 'Mo Pier',
      email,
      password: PASSWORD,
      role: 'editor',
    });
  });
  it('changes their name, which colleagues see', async () => {
    const mo = await test.signIn(email, PASSWORD);
    expect((await mo.post('/me/name', { name: '  Mo Landing ' })).body).toMatchObject({
      user: { name: 'Mo Landing' },
    });
    const members = (await mo.get('/members')).body as MemberInfo[];
    expect(members.find((member) => member.email === email)?.name).toBe('Mo Landing');
    expect((await mo.post('/me/name', { name: ' ' })).status).toBe(400);
  });
  it('changes their password with the present one, and their other sessions end', async () => {
    const [here, there] = [await test.signIn(email, PASSWORD), await test.signIn(email, PASSWORD)];
    const next = 'three ropes and a bell';
    expect(code(await here.post('/me/password', { current: 'wrong', next }))).toEqual([
      401,
      'access.wrong-password',
    ]);
    expect(code(await here.post('/me/password', { current: PASSWORD, next: 'passwordpassword' }))).toEqual([
      422,
      'access.weak-password',
    ]);
    expect((await here.post('/me/password', { current: PASSWORD, next: 'short' })).status).toBe(400);
    expect((await there.get('/studio')).status).toBe(200);
    expect((await here.post('/me/password', { current: PASSWORD, next })).status).toBe(204);
    expect([(await here.get('/studio')).status, (await there.get('/studio')).status]).toEqual([200, 401]);
    expect((await info(await test.signIn(email, next))).user?.email).toBe(email);
    expect((await (await test.signIn(email, PASSWORD)).get('/studio')).status).toBe(401);
    await test.people.resetPassword(email, PASSWORD);
  });
  it('ends their other sessions', async () => {
    const [here, there, other] = [
      await test.signIn(email, PASSWORD),
      await test.signIn(email, PASSWORD),
      await test.as('owner'),
    ];
    expect((await here.post('/me/end-other-sessions')).status).toBe(204);
    expect([
      (await here.get('/studio')).status,
      (await there.get('/studio')).status,
      (await other.get('/studio')).status,
    ]).toEqual([200, 401, 200]);
  });
  it('who is taken out is refused from then on, and what they wrote stays', async () => {
    const [mo, owner] = [await test.signIn(email, PASSWORD), await test.as('owner')];
    const { id } = (await info(mo)).user ?? { id: '' };
    const { body } = await owner.delete(`/members/${id}`);
    expect((body as MemberInfo[]).some(({ userId }) => userId === id)).toBe(false);
    expect(code(await mo.get('/studio'))).toEqual([403, 'access.refused']);
    expect(await info(mo)).toMatchObject({ user: { email }, studio: null, studios: [] });
  });
});

describe('roles', () => {
  it('are changed and the studio handed over by its owner', async () => {
    const owner = await test.as('owner');
    const members = (await owner.get('/members')).body as MemberInfo[];
    const idOf = (name: string) => members.find((member) => member.name === name)?.userId ?? '';
    const [wren, ilse] = [idOf('Wren Calder'), idOf('Ilse Marrow')];
    const viewer = await test.as('viewer');
    expect((await owner.post(`/members/${wren}/role`, { role: 'editor' })).status).toBe(200);
    expect((await viewer.post('/documents', { kind: 'template', name: 'Now I may' })).status).toBe(201);
    expect((await owner.post(`/members/${wren}/role`, { role: 'king' })).status).toBe(400);
    expect(code(await owner.post(`/members/${ilse}/role`, { role: 'viewer' }))).toEqual([
      409,
      'access.last-owner',
    ]);
    expect((await owner.post(`/members/${wren}/hand-over`)).status).toBe(200);
    expect((await info(owner)).studio?.role).toBe('editor');
    expect((await viewer.post(`/members/${ilse}/hand-over`)).status).toBe(200);
    expect((await owner.post(`/members/${wren}/role`, { role: 'viewer' })).status).toBe(200);
  });
});

describe('an empty server', () => {
  const founder = { studio: 'Lamp House', name: 'Ada Wick', email: 'ada@wick.example', password: PASSWORD };
  it('asks for its first studio and its owner, once', async () => {
    const empty = await startApp({ demo: false });
    try {
      const nobody = await empty.as('nobody');
      expect(await info(nobody)).toMatchObject({ user: null, founding: { code: false }, demo: [] });
      expect((await nobody.post('/found', { ...founder, studio: ' ' })).status).toBe(400);
      expect(code(await nobody.post('/found', { ...founder, password: 'lamphouse1234' }))).toEqual([
        422,
        'access.weak-password',
      ]);
      const founded = await nobody.post('/found', founder);
      expect([founded.status, founded.body]).toMatchObject([
        201,
        { user: { name: 'Ada Wick' }, studio: { name: 'Lamp House', role: 'owner' }, founding: null },
      ]);
      expect((await nobody.get('/studio')).body).toMatchObject({ templates: [], cues: [] });
      const later = await empty.as('nobody');
      expect((await info(later)).founding).toBeNull();
      expect(code(await later.post('/found', { ...founder, email: 'b@wick.example' }))).toEqual([
        409,
        'access.founded',
      ]);
    } finally {
      await empty.close();
    }
  });
  it('asks for the code where others can reach it', async () => {
    const empty = await startApp({ demo: false, foundingCode: 'tide-42' });
    try {
      const nobody = await empty.as('nobody');
      expect((await info(nobody)).founding).toEqual({ code: true });
      for (const wrong of [undefined, '', 'tide-43'])
        expect((await nobody.post('/found', { ...founder, code: wrong })).status).toBe(400);
      expect((await nobody.post('/found', { ...founder, code: ' tide-42 ' })).status).toBe(201);
    } finally {
      await empty.close();
    }
  });
  it('with the demo is not founded by anybody', async () => {
    expect(code(await (await test.as('nobody')).post('/found', founder))).toEqual([409, 'access.founded']);
    expect((await info(await test.as('nobody'))).demo.map(({ name }) => name)).toEqual([
      'Ilse Marrow',
      'Tomas Oake',
      'Wren Calder',
    ]);
  });
});

describe('behind a proxy with TLS', () => {
  it('cookies are for TLS alone, and browsers are told to stay with it', async () => {
    const secure = await startApp({ config: { secure: true, proxies: 1 } });
    try {
      const answer = await request(secure.app.express)
        .post('/api/session')
        .set('x-farlo-guard', 'none')
        .set('x-forwarded-proto', 'https')
        .send({ email: 'ilse@saltglass.example', password: 'lantern-and-tide' });
      const cookie = String(answer.headers['set-cookie']);
      expect(cookie).toMatch(/^__Host-farlo=/);
      expect(cookie).toContain('Secure');
      expect(answer.headers['strict-transport-security']).toContain('max-age=31536000');
      expect(answer.headers['content-security-policy']).toContain('upgrade-insecure-requests');
    } finally {
      await secure.close();
    }
  });
  it('and without, pages still get memory that threads share', async () => {
    const { headers } = await request(test.app.express).get('/api/health');
    expect(headers['cross-origin-opener-policy']).toBe('same-origin');
    expect(headers['cross-origin-embedder-policy']).toBe('require-corp');
    expect(headers['strict-transport-security']).toBeUndefined();
    expect(headers['content-security-policy']).not.toContain('upgrade-insecure-requests');
    expect(headers['x-powered-by']).toBeUndefined();
  });
});

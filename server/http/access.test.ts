import { randomUUID } from 'node:crypto';
import request from 'supertest';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { InvitationInfo } from '#api/index.ts';
import { Catalogue, NO_REPORT } from '../store/catalogue.ts';
import { References } from '../store/references.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

/** A passage lasts 120 seconds at most, as the page says. */
const LONGEST_PASSAGE_SECONDS = 120;

/**
 * Who may what, written by hand: the least role, `person` for anybody signed in, `public` for everybody. A route that
 * is not here fails the test, and so does a line without a route.
 */
const MAY: Record<string, 'public' | 'person' | 'viewer' | 'editor' | 'owner'> = {
  'get /session': 'public',
  'post /session': 'public',
  'delete /session': 'public',
  'post /found': 'public',
  'get /invitations/:token': 'public',
  'post /join': 'public',
  'post /session/studio': 'person',
  'post /me/name': 'person',
  'post /me/password': 'person',
  'post /me/end-other-sessions': 'person',
  'get /members': 'viewer',
  'post /members/leave': 'viewer',
  'post /members/:id/role': 'owner',
  'delete /members/:id': 'owner',
  'post /members/:id/hand-over': 'owner',
  'get /invitations': 'owner',
  'post /invitations': 'owner',
  'delete /invitations/:id': 'owner',
  'get /studio': 'viewer',
  'get /events': 'viewer',
  'post /documents': 'editor',
  'get /documents/:kind/:id': 'viewer',
  'delete /documents/:kind/:id': 'editor',
  'post /documents/:kind/:id/patches': 'editor',
  'post /documents/:kind/:id/pointing': 'viewer',
  'get /documents/:kind/:id/history': 'viewer',
  'post /documents/:kind/:id/back': 'editor',
  'get /libraries': 'viewer',
  'delete /libraries/:id': 'editor',
  'get /instruments/:id': 'viewer',
  'post /instruments/:id/export': 'viewer',
  'get /instruments/:id/report': 'viewer',
  'post /instruments/:id/report': 'viewer',
  'get /packs/:id': 'viewer',
  'post /packs/read': 'viewer',
  'get /exports/:id': 'viewer',
  'get /jobs': 'viewer',
  'get /jobs/:id': 'viewer',
  'delete /jobs/:id': 'editor',
  'post /imports': 'editor',
  'get /imports/:id': 'editor',
  'get /imports/:id/hear': 'editor',
  'post /imports/:id/take-in': 'editor',
  'delete /imports/:id': 'editor',
  'get /halls': 'viewer',
  'post /halls': 'editor',
  'get /halls/:id/response': 'viewer',
  'delete /halls/:id': 'editor',
  'get /references': 'viewer',
  'post /references': 'editor',
  'get /references/:id/passage': 'viewer',
  'delete /references/:id': 'editor',
};
const RANK = { public: 0, person: 1, viewer: 2, editor: 3, owner: 4 };

let test: TestApp;
/** Things of the demo studio and of another one. */
const theirs: Record<string, string> = {};
beforeAll(async () => {
  test = await startApp();
  const head = {
    maker: 'm',
    room: 'r',
    recipe: '',
    report: NO_REPORT,
    facts: { players: '', roomSound: 'dry', edition: 'full', price: null, text: '' },
  } as const;
  const catalogue = new Catalogue(test.store);
  const instrument = {
    id: randomUUID(),
    name: 'Theirs',
    family: 'strings',
    kind: 'solo',
    players: 1,
    positions: [],
    articulations: [],
    samples: {},
    packs: {},
  } as const;
  const libraryId = await catalogue.save(test.elsewhere.studioId, {
    ...head,
    name: 'Their library',
    instruments: [{ ...instrument, positions: [], articulations: [] }],
  } as never);
  await new References(test.store).add(test.elsewhere.studioId, {
    id: randomUUID(),
    name: 'x.wav',
    frames: 1,
    rate: 48_000,
    outline: [],
  });
  const [reference] = await new References(test.store).list(test.elsewhere.studioId);
  Object.assign(theirs, {
    template: test.elsewhere.templateId,
    cue: test.elsewhere.cueId,
    shelf: test.elsewhere.shelfId,
    house: test.elsewhere.houseId,
    library: libraryId,
    instrument: instrument.id,
    reference: reference.id,
  });
});
afterAll(() => test.close());

const call = (caller: Caller, method: string, path: string, body?: object) =>
  method === 'post' ? caller.post(path, body) : method === 'delete' ? caller.delete(path) : caller.get(path);

describe('who may what', () => {
  it('is said for every route there is, and for no other', () => {
    expect(test.app.routes.map(({ method, path }) => `${method} ${path}`).sort()).toEqual(
      Object.keys(MAY).sort(),
    );
  });
  it.each(['nobody', 'viewer', 'editor', 'owner'] as const)('holds for %s', async (who) => {
    // Each on an application of its own: what one may do does not stand in the way of the next.
    const test = await startApp();
    const wrong: string[] = [];
    const rank = who === 'nobody' ? 0 : RANK[who];
    for (const [route, least] of Object.entries(MAY)) {
      // These end the caller, or never end.
      if (
        ['delete /session', 'get /events', 'post /members/leave', 'post /me/end-other-sessions'].includes(
          route,
        )
      )
        continue;
      const [method, path] = route.split(' ');
      const address = path
        .replace(':kind', 'cue')
        .replace(':id', path.includes(':kind') ? test.cueId : randomUUID())
        .replace(':token', 'x'.repeat(32));
      const caller = await test.as(who);
      // An empty body keeps what is allowed from doing anything; deleting is asked of things that are not there.
      if (route === 'delete /documents/:kind/:id') continue;
      const { status } = await call(caller, method, address);
      const may = rank >= RANK[least];
      const expected = may
        ? status !== 403 && status < 500 && (status !== 401 || least === 'public')
        : who === 'nobody'
          ? status === 401
          : // What belongs to nobody is not there for anybody.
            status === 403 || status === 404;
      if (!expected) wrong.push(`${who} ${route} → ${status}`);
    }
    await test.close();
    expect(wrong).toEqual([]);
  });
  it('refuses a viewer with the reason', async () => {
    const viewer = await test.as('viewer');
    const answer = await viewer.post(`/documents/cue/${test.cueId}/patches`, {
      id: randomUUID(),
      label: 'x',
      changes: [],
    });
    expect([answer.status, answer.body]).toMatchObject([
      403,
      { code: 'access.refused', title: 'This needs the role of an editor; you are signed in as viewer.' },
    ]);
    const editor = await test.as('editor');
    const invite = await editor.post('/invitations', { role: 'viewer', days: 1 });
    expect(invite.body).toMatchObject({
      code: 'access.refused',
      title: 'This needs the role of an owner; you are signed in as editor.',
    });
  });
});

describe('a passage of a recording', () => {
  it('lies in it and lasts no longer than allowed', async () => {
    const minutes = 10 * 60 * 48_000;
    const id = randomUUID();
    await new References(test.store).add(test.studioId, {
      id,
      name: 'x.wav',
      frames: minutes,
      rate: 48_000,
      outline: [],
    });
    const viewer = await test.as('viewer');
    const ask = async (from: unknown, to: unknown) =>
      (await viewer.get(`/references/${id}/passage?from=${String(from)}&to=${String(to)}`)).status;
    const longest = LONGEST_PASSAGE_SECONDS * 48_000;
    // Its file is not on the disk, which is told after everything else was in order.
    expect([await ask(7, 7 + longest), await ask(7, 8 + longest)]).toEqual([500, 413]);
    expect([
      await ask(0, 0),
      await ask(-1, 5),
      await ask(0.5, 5),
      await ask(5, minutes + 1),
      await ask('x', 5),
    ]).toEqual([400, 400, 400, 400, 400]);
    expect(await ask(minutes - 1, minutes)).toBe(500);
  });
});

describe('things of another studio', () => {
  it('are not there, whatever one may at home', async () => {
    const owner = await test.as('owner');
    const paths = [
      ...(['template', 'cue', 'shelf', 'house'] as const).flatMap((kind) => [
        `get /documents/${kind}/${theirs[kind]}`,
        `get /documents/${kind}/${theirs[kind]}/history`,
        `post /documents/${kind}/${theirs[kind]}/patches`,
        `post /documents/${kind}/${theirs[kind]}/pointing`,
        `post /documents/${kind}/${theirs[kind]}/back`,
        `delete /documents/${kind}/${theirs[kind]}`,
      ]),
      `delete /libraries/${theirs.library}`,
      `get /instruments/${theirs.instrument}`,
      `post /instruments/${theirs.instrument}/export`,
      `get /instruments/${theirs.instrument}/report`,
      `post /instruments/${theirs.instrument}/report`,
      `get /references/${theirs.reference}/passage?from=0&to=1`,
      `delete /references/${theirs.reference}`,
    ];
    for (const line of paths) {
      const [method, path] = line.split(' ');
      const answer = await call(owner, method, path, {
        revision: 0,
        id: randomUUID(),
        label: 'x',
        changes: [],
      });
      expect([line, answer.status, (answer.body as { code: string }).code]).toEqual([line, 404, 'not-found']);
    }
    const outsider = await test.as('outsider');
    expect((await outsider.get(`/documents/cue/${theirs.cue}`)).status).toBe(200);
    expect((await outsider.get(`/instruments/${theirs.instrument}`)).status).toBe(200);
    expect((await outsider.get('/references')).body).toHaveLength(1);
  });
  it('are in no list', async () => {
    const owner = await test.as('owner');
    for (const path of ['/studio', '/libraries', '/references', '/members', '/jobs', '/invitations']) {
      const text = JSON.stringify((await owner.get(path)).body);
      for (const id of Object.values(theirs)) expect(text).not.toContain(id);
      expect(text).not.toContain('elsewhere.example');
    }
  });
  it('nor can their people be changed', async () => {
    const [outsider, owner] = [await test.as('outsider'), await test.as('owner')];
    const [{ userId }] = (await outsider.get('/members')).body as { userId: string }[];
    for (const [method, path, body] of [
      ['post', `/members/${userId}/role`, { role: 'viewer' }],
      ['delete', `/members/${userId}`, undefined],
      ['post', `/members/${userId}/hand-over`, undefined],
    ] as const)
      expect((await call(owner, method, path, body)).status).toBe(404);
    expect((await outsider.get('/members')).body).toMatchObject([{ role: 'owner' }]);
  });
  it('nor their invitations withdrawn', async () => {
    const [outsider, owner] = [await test.as('outsider'), await test.as('owner')];
    const { id } = (await outsider.post('/invitations', { role: 'viewer', days: 1 })).body as InvitationInfo;
    expect((await owner.delete(`/invitations/${id}`)).status).toBe(204);
    expect((await outsider.get('/invitations')).body).toHaveLength(1);
  });
});

describe('changes', () => {
  it('need the guard, even with the cookie', async () => {
    const { agent } = await test.as('owner');
    for (const guard of [undefined, '', 'none', 'x'.repeat(32)]) {
      const sent = agent.post('/api/documents');
      const answer = await (guard === undefined ? sent : sent.set('x-farlo-guard', guard)).send({
        kind: 'cue',
        name: 'x',
        templateId: test.templateId,
      });
      expect([answer.status, answer.body]).toMatchObject([
        403,
        {
          code: 'access.guard',
          title: 'The page is out of date. Load it again; your unsent edits are kept.',
        },
      ]);
    }
  });
  it('of somebody whose session is over are answered with 401, not with the guard', async () => {
    const caller = await test.as('editor');
    await test.store.models.sessions.destroy({ where: {}, truncate: true });
    const answer = await caller.post(`/documents/cue/${test.cueId}/patches`, {
      id: randomUUID(),
      label: 'x',
      changes: [],
    });
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([401, 'access.sign-in']);
  });
  it('of somebody who was removed from the server are those of nobody', async () => {
    const id = await test.people.addMember(test.studioId, {
      name: 'Gone',
      email: 'gone@pier.example',
      password: 'a lamp in the fog',
      role: 'owner',
    });
    const gone = await test.signIn('gone@pier.example', 'a lamp in the fog');
    expect((await gone.get('/studio')).status).toBe(200);
    await test.store.models.users.destroy({ where: { id } });
    expect((await gone.get('/studio')).status).toBe(401);
    expect((await gone.post('/me/name', { name: 'x' })).status).toBe(401);
    expect((await gone.get('/session')).body).toMatchObject({ user: null, guard: '' });
  });
  it('of nobody need a header that other sites cannot send', async () => {
    const answer = await request(test.app.express)
      .post('/api/session')
      .send({ email: 'ilse@saltglass.example', password: 'lantern-and-tide' });
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([403, 'access.guard']);
  });
});

import { assigned } from '../testing/browser.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { SessionInfo } from '#api/index.ts';
import { FakeServer } from '../testing/fake-server.ts';
import { request } from './api-client.ts';
import {
  accept,
  chooseStudio,
  loadOverview,
  loadSession,
  onSession,
  signIn,
  signOut,
  useSession,
} from './session.ts';

const info = (user: string | null, studio = 's1', guard = 'g'): SessionInfo => ({
  user: user === null ? null : { id: user, name: user, email: `${user}@x.example` },
  studio: user === null ? null : { id: studio, name: studio, role: 'editor' },
  studios: [],
  guard: user === null ? '' : guard,
  founding: null,
  demo: [],
});
let server: FakeServer;
let uninstall: () => void;
const handlers = { goOn: vi.fn(), tellTabs: vi.fn() };
beforeEach(() => {
  server = new FakeServer();
  uninstall = server.install();
  assigned.length = 0;
  handlers.goOn.mockClear();
  handlers.tellTabs.mockClear();
  onSession(handlers);
  useSession.setState({ info: undefined, overview: undefined, over: false });
});
afterEach(() => uninstall());
const answerSession = (next: SessionInfo) => server.others.set('GET /session', () => ({ body: next }));
const over = () => useSession.getState().over;

describe('a session', () => {
  it('begins with what the server says', async () => {
    answerSession(info('ada'));
    await loadSession();
    expect([useSession.getState().info?.user?.id, over()]).toEqual(['ada', false]);
    accept(info(null));
    expect(over()).toBe(true);
  });
  it('of nobody becomes somebody’s by signing in, and other tabs are told', async () => {
    accept(info(null));
    server.others.set('POST /session', (body) => ({
      body: (body as { password: string }).password === 'right' ? info('ada') : null,
    }));
    await signIn('ada@x.example', 'right');
    expect([
      useSession.getState().info?.user?.id,
      handlers.tellTabs.mock.calls.length,
      handlers.goOn.mock.calls.length,
    ]).toEqual(['ada', 1, 0]);
  });
  it('that is over keeps the page as it is, and goes on when its person is back', async () => {
    accept(info('ada'));
    server.others.set('GET /studio', () => ({
      status: 401,
      body: { title: 'Please sign in.', status: 401, code: 'access.sign-in' },
    }));
    await expect(loadOverview()).rejects.toThrow('Please sign in.');
    expect([over(), useSession.getState().info?.user?.id, assigned]).toEqual([true, 'ada', []]);
    accept(info('ada', 's1', 'new'));
    expect([over(), handlers.goOn.mock.calls.length, assigned]).toEqual([false, 1, []]);
  });
  it('does not go on for somebody else, nor in another studio: the page begins anew', () => {
    accept(info('ada'));
    accept(info('bo'));
    expect([assigned, useSession.getState().info?.user?.id, handlers.goOn.mock.calls.length]).toEqual([
      ['/'],
      'ada',
      0,
    ]);
    accept(info('ada', 's2'));
    expect(assigned).toEqual(['/', '/']);
  });
  it('is not over for those who never had one', async () => {
    accept(info(null));
    server.others.set('GET /x', () => ({
      status: 401,
      body: { title: 'x', status: 401, code: 'access.sign-in' },
    }));
    await request('GET', '/x').catch(() => undefined);
    expect(over()).toBe(false);
  });
  it('takes up a new guard, and what was refused is sent again only for the same person', async () => {
    accept(info('ada', 's1', 'old'));
    answerSession(info('ada', 's1', 'new'));
    let tries = 0;
    server.others.set('POST /x', () =>
      ++tries === 1
        ? { status: 403, body: { title: 'x', status: 403, code: 'access.guard' } }
        : { body: 'done' },
    );
    expect(await request('POST', '/x')).toBe('done');
    tries = 0;
    answerSession(info('bo'));
    await expect(request('POST', '/x')).rejects.toThrow('x');
    expect([tries, assigned]).toEqual([1, ['/']]);
  });
  it('ends everywhere when its person signs out', async () => {
    accept(info('ada'));
    server.others.set('DELETE /session', () => ({ status: 204 }));
    await signOut();
    expect([handlers.tellTabs.mock.calls.length, assigned]).toEqual([1, ['/']]);
  });
  it('goes to another studio with a new page', async () => {
    accept(info('ada'));
    let chosen: unknown;
    server.others.set('POST /session/studio', (body) => ((chosen = body), { body: info('ada', 's2') }));
    await chooseStudio('s2');
    expect([chosen, handlers.tellTabs.mock.calls.length, assigned]).toEqual([{ studioId: 's2' }, 1, ['/']]);
  });
  it('knows what its studio has', async () => {
    const overview = { shelfId: 'x', templates: [], cues: [] };
    server.others.set('GET /studio', () => ({ body: overview }));
    expect(await loadOverview()).toEqual(overview);
    expect(useSession.getState().overview).toEqual(overview);
  });
});

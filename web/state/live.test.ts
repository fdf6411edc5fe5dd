import '../testing/browser.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { StreamEvent } from '#api/index.ts';
import { FakeServer } from '../testing/fake-server.ts';

interface Given {
  onEvent(event: StreamEvent): void;
  onSession(): void;
}
const stream = { given: undefined as Given | undefined, reopen: vi.fn(), tellSession: vi.fn() };
vi.mock('./stream.ts', () => ({
  SharedStream: class {
    constructor(given: Given) {
      stream.given = given;
    }
    reopen = stream.reopen;
    tellSession = stream.tellSession;
  },
}));
const heard: StreamEvent[] = [];
const resumed = vi.fn();
vi.mock('./documents.ts', () => ({
  hearEvent: (event: StreamEvent) => heard.push(event),
  resumeSending: () => resumed(),
}));
const { listenToStudio, useHere } = await import('./live.ts');
const { accept, signOut, useSession } = await import('./session.ts');
const { queries } = await import('./queries.ts');

let server: FakeServer;
let uninstall: () => void;
const onDocuments = vi.fn();
const settle = () => new Promise((resolve) => setTimeout(resolve, 10));
const tell = (event: StreamEvent) => stream.given?.onEvent(event);
const info = (over: object = {}) => ({
  user: { id: 'ada', name: 'A', email: 'a' },
  studio: { id: 's', name: 'S', role: 'editor' as const },
  studios: [],
  guard: 'g',
  founding: null,
  demo: [],
  ...over,
});
beforeEach(() => {
  server = new FakeServer();
  uninstall = server.install();
  heard.length = 0;
  onDocuments.mockClear();
  useSession.setState({ info: info(), over: false, overview: undefined });
  server.others.set('GET /studio', () => ({ body: { shelfId: 'x', templates: [], cues: [] } }));
  server.others.set('GET /session', () => ({ body: info() }));
  listenToStudio(onDocuments);
});
afterEach(() => uninstall());

describe('the studio’s stream', () => {
  it('says who is here', () => {
    tell({ kind: 'here', here: [{ userId: 'u', name: 'U' }] });
    expect(useHere.getState().here).toEqual([{ userId: 'u', name: 'U' }]);
    tell({ kind: 'hello', revisions: {}, here: [] });
    expect(useHere.getState().here).toEqual([]);
  });
  it('lets the list of documents be asked for anew, then tells', async () => {
    tell({ kind: 'documents' });
    expect(onDocuments).not.toHaveBeenCalled();
    await settle();
    expect([server.requests, onDocuments.mock.calls.length]).toEqual([['GET /studio'], 1]);
    expect(useSession.getState().overview?.shelfId).toBe('x');
    tell({ kind: 'hello', revisions: {}, here: [] });
    await settle();
    expect(onDocuments).toHaveBeenCalledTimes(2);
    server.others.set('GET /studio', () => ({ status: 500, body: {} }));
    tell({ kind: 'documents' });
    await settle();
    expect(onDocuments).toHaveBeenCalledTimes(2);
  });
  it('lets members and one’s own role be asked for anew', async () => {
    const asked = vi.spyOn(queries, 'invalidateQueries');
    tell({ kind: 'members' });
    await settle();
    expect(asked).toHaveBeenCalledWith({ queryKey: ['members'] });
    expect(server.requests).toEqual(['GET /session']);
  });
  it('is passed on to the open documents', () => {
    const event: StreamEvent = { kind: 'patch', documentId: 'd', revision: 4 };
    tell(event);
    expect(heard).toEqual([event]);
    expect(server.requests).toEqual([]);
  });
  it('that is refused lets the session be looked at', async () => {
    server.others.set('GET /session', () => ({ body: info({ user: null, studio: null, guard: '' }) }));
    stream.given?.onSession();
    await settle();
    expect(useSession.getState().over).toBe(true);
    // Back again: listen, and send what waits.
    accept(info());
    expect([stream.reopen.mock.calls.length, resumed.mock.calls.length, useSession.getState().over]).toEqual([
      1,
      1,
      false,
    ]);
  });
  it('tells the other tabs of signing out', async () => {
    server.others.set('DELETE /session', () => ({ status: 204 }));
    await signOut();
    expect(stream.tellSession).toHaveBeenCalledTimes(1);
  });
});

import { EventEmitter } from 'node:events';
import { randomUUID } from 'node:crypto';
import { get, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, afterEach, describe, expect, it, vi } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import { MOST_TOLD_CHANGES, type StreamEvent } from '#api/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';
import { Streams } from './streams.ts';
import { eventually } from '../../core/testing/eventually.ts';

let test: TestApp;
let server: Server;
beforeAll(async () => {
  test = await startApp();
  server = await new Promise<Server>((resolve) => {
    const listening = test.app.express.listen(0, '127.0.0.1', () => resolve(listening));
  });
});
afterAll(async () => {
  await test.app.close();
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await test.close();
});

/** A browser's end of a stream, over a real socket. */
class Ear {
  readonly events: StreamEvent[] = [];
  ended = false;
  private response: IncomingMessage | undefined;
  async open(caller: Caller): Promise<this> {
    const cookie = (
      caller.agent as unknown as { jar: { getCookies(access: unknown): { toValueString(): string } } }
    ).jar
      .getCookies({ domain: '127.0.0.1', path: '/', secure: false, script: false } as never)
      .toValueString();
    const { port } = server.address() as AddressInfo;
    this.response = await new Promise<IncomingMessage>((resolve) =>
      get({ port, path: '/api/events', headers: { cookie } }, resolve),
    );
    let text = '';
    this.response.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const parts = text.split('\n\n');
      text = parts.pop() ?? '';
      for (const part of parts)
        if (part.startsWith('data: ')) this.events.push(JSON.parse(part.slice(6)) as StreamEvent);
    });
    this.response.on('end', () => (this.ended = true));
    this.response.on('error', () => (this.ended = true));
    await eventually(() => expect(this.events.length).toBeGreaterThan(0));
    return this;
  }
  get headers() {
    return this.response?.headers ?? {};
  }
  of<K extends StreamEvent['kind']>(kind: K): Extract<StreamEvent, { kind: K }>[] {
    return this.events.filter((event) => event.kind === kind) as never;
  }
  close(): void {
    this.response?.destroy();
  }
}
const ears: Ear[] = [];
const listen = async (caller: Caller) => {
  const ear = await new Ear().open(caller);
  ears.push(ear);
  return ear;
};
afterEach(() => {
  for (const ear of ears.splice(0)) ear.close();
});
const marker = (caller: Caller, count = 1, cueId = test.cueId) =>
  caller.post(`/documents/cue/${cueId}/patches`, {
    id: randomUUID(),
    label: 'Mark',
    changes: Array.from({ length: count }, () => ({
      kind: 'marker',
      id: randomUUID(),
      op: 'add',
      fields: { tick: 0, text: 'x' },
    })),
  });

describe('the stream of a studio', () => {
  it('says first where every document stands', async () => {
    const editor = await test.as('editor');
    const { body } = await marker(editor);
    const ear = await listen(editor);
    expect(ear.events[0].kind).toBe('hello');
    const [{ revisions }] = ear.of('hello');
    expect(revisions[test.cueId]).toBe((body as { revision: number }).revision);
    expect(Object.keys(revisions)).toContain(test.templateId);
    expect(Object.keys(revisions)).not.toContain(test.elsewhere.cueId);
    expect(ear.headers).toMatchObject({
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    expect(ear.headers['content-encoding']).toBeUndefined();
  });
  it('tells of every patch to any document, once, to everybody of the studio and to nobody else', async () => {
    const [editor, viewer, outsider] = [
      await test.as('editor'),
      await test.as('viewer'),
      await test.as('outsider'),
    ];
    const [own, colleague, stranger] = [await listen(editor), await listen(viewer), await listen(outsider)];
    const { body } = await marker(editor);
    await eventually(() => expect(colleague.of('patch')).toHaveLength(1));
    expect(colleague.of('patch')[0]).toEqual({
      kind: 'patch',
      documentId: test.cueId,
      revision: (body as { revision: number }).revision,
      patch: body,
    });
    await eventually(() => expect(own.of('patch')).toHaveLength(1));
    await marker(outsider, 1, test.elsewhere.cueId);
    await eventually(() => expect(stranger.of('patch')).toHaveLength(1));
    expect([stranger.of('patch')[0].documentId, colleague.of('patch').length]).toEqual([
      test.elsewhere.cueId,
      1,
    ]);
  });
  it('passes on what somebody has chosen in a cue, to their studio alone, and refuses what is none', async () => {
    const [viewer, editor, outsider] = [
      await test.as('viewer'),
      await test.as('editor'),
      await test.as('outsider'),
    ];
    const [ear, stranger] = [await listen(editor), await listen(outsider)];
    const chosen = { tab: randomUUID(), trackId: randomUUID(), noteIds: [randomUUID()] };
    const path = `/documents/cue/${test.cueId}/pointing`;
    expect((await viewer.post(path, chosen)).status).toBe(204);
    await eventually(() => expect(ear.of('pointing')).toHaveLength(1));
    expect(ear.of('pointing')[0]).toMatchObject({ documentId: test.cueId, ...chosen });
    expect(ear.of('pointing')[0].name).not.toBe('');
    expect((await viewer.post(path, { ...chosen, trackId: null, noteIds: [] })).status).toBe(204);
    for (const wrong of [
      { ...chosen, tab: 'x' },
      { ...chosen, noteIds: ['x'] },
      { ...chosen, noteIds: Array.from({ length: 201 }, () => randomUUID()) },
      { ...chosen, name: 'someone else' },
    ])
      expect((await viewer.post(path, wrong)).status).toBe(400);
    expect((await outsider.post(path, chosen)).status).toBeGreaterThanOrEqual(403);
    await eventually(() => expect(ear.of('pointing')).toHaveLength(2));
    expect(stranger.of('pointing')).toEqual([]);
  });
  it('tells of a large patch only that it was', async () => {
    const editor = await test.as('editor');
    const ear = await listen(editor);
    const exact = (await marker(editor, MOST_TOLD_CHANGES)).body as { revision: number };
    const large = (await marker(editor, MOST_TOLD_CHANGES + 1)).body as { revision: number };
    await eventually(() => expect(ear.of('patch')).toHaveLength(2));
    const [told, untold] = ear.of('patch');
    expect([told.revision, told.patch?.changes.length]).toEqual([exact.revision, MOST_TOLD_CHANGES]);
    expect(untold).toEqual({ kind: 'patch', documentId: test.cueId, revision: large.revision });
  });
  it('tells when documents come, go, or are named anew', async () => {
    const editor = await test.as('editor');
    const ear = await listen(editor);
    const { id } = (
      await editor.post('/documents', { kind: 'cue', name: 'New', templateId: test.templateId })
    ).body as { id: string };
    await eventually(() => expect(ear.of('documents')).toHaveLength(1));
    await editor.post(`/documents/cue/${id}/patches`, {
      id: randomUUID(),
      label: 'x',
      changes: [{ kind: 'cue', id, op: 'update', version: 1, fields: { name: 'Newer' } }],
    });
    await eventually(() => expect(ear.of('documents')).toHaveLength(2));
    await editor.post(`/documents/cue/${id}/patches`, {
      id: randomUUID(),
      label: 'x',
      changes: [{ kind: 'cue', id, op: 'update', version: 2, fields: { endTick: 5 } }],
    });
    // Another field is no news for the list.
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(ear.of('documents')).toHaveLength(2);
    await editor.delete(`/documents/cue/${id}`);
    await eventually(() => expect(ear.of('documents')).toHaveLength(3));
  });
  it('says who is here, each once, and when somebody goes', async () => {
    const [editor, viewer] = [await test.as('editor'), await test.as('viewer')];
    const ear = await listen(editor);
    const tabs = [await listen(viewer), await listen(viewer)];
    await eventually(() =>
      expect(
        ear
          .of('here')
          .at(-1)
          ?.here.map(({ name }) => name),
      ).toEqual(['Tomas Oake', 'Wren Calder']),
    );
    tabs[0].close();
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(ear.of('here').at(-1)?.here).toHaveLength(2);
    tabs[1].close();
    await eventually(() =>
      expect(
        ear
          .of('here')
          .at(-1)
          ?.here.map(({ name }) => name),
      ).toEqual(['Tomas Oake']),
    );
  });
  it('ends for somebody whose rights changed, and for one who signs out', async () => {
    const [owner, viewer, editor] = [
      await test.as('owner'),
      await test.as('viewer'),
      await test.as('editor'),
    ];
    const [ear, mine, out] = [await listen(viewer), await listen(owner), await listen(editor)];
    const { user } = (await viewer.get('/session')).body as { user: { id: string } };
    await owner.post(`/members/${user.id}/role`, { role: 'viewer' });
    await eventually(() => expect(ear.ended).toBe(true));
    await eventually(() => expect(mine.of('members')).toHaveLength(1));
    await editor.delete('/session');
    await eventually(() => expect(out.ended).toBe(true));
    expect(mine.ended).toBe(false);
  });
});

/** A response as far as a stream uses it. */
function fakeResponse(waiting = 0) {
  return {
    written: [] as string[],
    writableEnded: false,
    writableLength: waiting,
    destroyed: false,
    set: () => undefined,
    flushHeaders: () => undefined,
    on: () => undefined,
    write(text: string) {
      this.written.push(text);
      return true;
    },
    end() {
      this.writableEnded = true;
    },
    destroy() {
      this.destroyed = true;
    },
  };
}

describe('streams', () => {
  const add = async (streams: Streams, response: ReturnType<typeof fakeResponse>, more: object = {}) =>
    streams.add(
      { userId: 'u', name: 'U', studioId: 's', sessionId: 'x', response: response as never, ...more },
      () => Promise.resolve({}),
    );
  it('beat, so that a dead connection is noticed, and end after an hour, so that rights are looked at anew', async () => {
    vi.useFakeTimers();
    try {
      const streams = new Streams();
      const response = fakeResponse();
      await add(streams, response);
      vi.advanceTimersByTime(20_000);
      expect(response.written.filter((text) => text.includes('"beat"'))).toHaveLength(1);
      vi.advanceTimersByTime(3_600_000);
      expect(response.writableEnded).toBe(true);
      const { length } = response.written;
      vi.advanceTimersByTime(60_000);
      expect(response.written).toHaveLength(length);
      streams.close();
    } finally {
      vi.useRealTimers();
    }
  });
  it('let go of a browser that does not read', async () => {
    const streams = new Streams();
    const [slow, quick] = [fakeResponse(9 * 2 ** 20), fakeResponse(7 * 2 ** 20)];
    await add(streams, slow);
    await add(streams, quick);
    expect([slow.destroyed, quick.destroyed]).toEqual([true, false]);
    streams.close();
    expect(quick.writableEnded).toBe(true);
  });
});

describe('a browser that comes while others work', () => {
  it('is said hello first, and then told what happened meanwhile', async () => {
    const written: string[] = [];
    const response = Object.assign(new EventEmitter(), {
      set: () => undefined,
      flushHeaders: () => undefined,
      end: () => undefined,
      writableEnded: false,
      writableLength: 0,
      write: (text: string) => written.push(text),
    });
    const streams = new Streams();
    let answer: (revisions: Record<string, number>) => void = () => undefined;
    const added = streams.add(
      { userId: 'u', name: 'Nell', studioId: 's', sessionId: 'x', response: response as never },
      () => new Promise((resolve) => (answer = resolve)),
    );
    streams.tell('s', { kind: 'members' });
    // Longer than events are gathered.
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(written).toEqual([]);
    answer({ d: 4 });
    await added;
    const kinds = () => [...written.join('').matchAll(/"kind":"(\w+)"/g)].map((match) => match[1]);
    await eventually(() => expect(kinds()).toContain('here'));
    expect(kinds().slice(0, 2)).toEqual(['hello', 'members']);
    streams.close();
  });
});

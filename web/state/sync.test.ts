import { locks } from '../testing/browser.ts';
import { clear, createStore, entries, set } from 'idb-keyval';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { MOST_CHANGES } from '#api/index.ts';
import { FakeServer } from '../testing/fake-server.ts';
import type { AnyRecord, Delta } from './diff.ts';
import type { AsideEdit } from './outbox.ts';
import { DocumentSync, piecesOf, type SaveState } from './sync.ts';
import { applyDeltas, recordOf, type Records } from './tables.ts';
import { eventually } from '../../core/testing/eventually.ts';

/** A page that shows one cue. */
class Page {
  records: Records = {};
  states: SaveState[] = [];
  revisions: number[] = [];
  news: string[] = [];
  aside: readonly AsideEdit[] = [];
  readonly sync: DocumentSync;
  constructor(userId = 'me') {
    this.sync = new DocumentSync(
      { userId, studioId: 's', kind: 'cue', id: 'cue' },
      {
        onRecords: (records) => (this.records = records),
        onDeltas: (deltas) =>
          (this.records = applyDeltas(
            this.records,
            deltas.map((d) => ({ ...d, before: null })),
          )),
        onState: (state) => this.states.push(state),
        onRevision: (revision) => this.revisions.push(revision),
        onNews: (sentence) => this.news.push(sentence),
        onAside: (aside) => (this.aside = aside),
      },
    );
  }
  note(id: string): AnyRecord | undefined {
    return recordOf(this.records, 'note', id);
  }
  get state(): string | undefined {
    return this.states.at(-1)?.kind;
  }
  /** Changes fields of a note, on the page and on their way. */
  change(id: string, fields: Record<string, unknown>, label = 'Move'): void {
    const before = this.note(id) as AnyRecord;
    this.push(label, [{ kind: 'note', id, before, after: { ...before, ...fields, id } }]);
  }
  push(label: string, deltas: Delta[]): void {
    this.records = applyDeltas(this.records, deltas);
    this.sync.push(label, deltas);
  }
}

const settle = () => new Promise((resolve) => setTimeout(resolve, 40));
const kept = () => entries(createStore('farlo-outbox', 'edits'));
let server: FakeServer;
let uninstall: () => void;
let page: Page;

beforeEach(async () => {
  await clear(createStore('farlo-outbox', 'edits'));
  server = new FakeServer();
  uninstall = server.install();
  for (const [id, version, key] of [
    ['a', 3, 60],
    ['b', 1, 62],
  ] as const)
    server.put('note', { id, version, partId: 'p', startTick: key, endTick: 960, key, velocity: 80 });
  page = new Page();
  await page.sync.open();
});
afterEach(() => {
  page.sync.close();
  uninstall();
});

describe('sending', () => {
  it('tells only the changed fields, on the version they were changed on, and says when they are saved', async () => {
    page.change('a', { key: 64 });
    expect(page.states.at(-1)).toEqual({ kind: 'saving', left: 1 });
    await settle();
    expect(server.patches[0]).toMatchObject({
      label: 'Move',
      changes: [{ kind: 'note', id: 'a', op: 'update', version: 3, fields: { key: 64 } }],
    });
    expect(page.state).toBe('saved');
    expect(await kept()).toEqual([]);
  });
  it('goes one after the other, each on the version before', async () => {
    page.change('a', { key: 61 });
    page.change('a', { key: 62 });
    page.change('b', { velocity: 1 });
    await settle();
    expect(server.patches.map((patch) => patch.changes[0].version)).toEqual([3, 4, 1]);
    expect(server.get('note', 'a')).toMatchObject({ key: 62, version: 5 });
  });
  it('adds and removes', async () => {
    page.push('Add', [
      { kind: 'note', id: 'n', before: null, after: { id: 'n', partId: 'p', key: 1 } },
      { kind: 'note', id: 'b', before: page.note('b') as AnyRecord, after: null },
    ]);
    await settle();
    expect(server.patches[0].changes).toEqual([
      { kind: 'note', id: 'n', op: 'add', fields: { partId: 'p', key: 1 } },
      { kind: 'note', id: 'b', op: 'remove', version: 1 },
    ]);
    expect([server.get('note', 'n')?.version, server.get('note', 'b')]).toEqual([1, undefined]);
  });
  it('cuts labels that the history cannot hold', async () => {
    page.change('a', { key: 61 }, 'x'.repeat(300));
    await settle();
    expect(server.patches[0].label).toHaveLength(200);
  });
});

describe('many changes', () => {
  const added = (kind: 'part' | 'note', i: number): Delta => ({
    kind,
    id: `${kind}${i}`,
    before: null,
    after: { id: `${kind}${i}`, partId: 'part0' },
  });
  it('go in pieces that the server takes, what is belonged to before what belongs', () => {
    const notes = Array.from({ length: MOST_CHANGES }, (_, i) => added('note', i));
    const pieces = piecesOf([...notes, added('part', 0)]);
    expect(pieces.map((piece) => piece.length)).toEqual([MOST_CHANGES, 1]);
    expect(pieces[0][0].kind).toBe('part');
  });
  it('are removed the other way round, and changed in between', () => {
    const gone = ({ kind, id, after }: Delta): Delta => ({ kind, id, before: after, after: null });
    const changed: Delta = { kind: 'cue', id: 'cue', before: { id: 'cue' }, after: { id: 'cue', name: 'x' } };
    const list = [
      gone(added('part', 0)),
      changed,
      ...Array.from({ length: MOST_CHANGES }, (_, i) => gone(added('note', i))),
      added('part', 9),
    ];
    const order = piecesOf(list)
      .flat()
      .map(({ kind, id }) => `${kind}${id.at(-1)}`);
    expect(order.at(-1)).toBe('part9');
    expect(order.at(-2)).toBe('cuee');
    expect(order.at(-3)).toBe('part0');
  });
  it('are one piece when they are few, and none when there are none', () => {
    expect(piecesOf([added('note', 1)])).toHaveLength(1);
    expect(piecesOf([])).toEqual([]);
  });
  it('say how many pieces are left, and are named by number', async () => {
    page.push('Bring in', [
      { kind: 'part', id: 'q', before: null, after: { id: 'q', trackId: 't' } },
      ...Array.from({ length: MOST_CHANGES * 2 }, (_, i) => added('note', i)),
    ]);
    expect(page.states.at(-1)).toEqual({ kind: 'saving', left: 3 });
    await eventually(() => expect(page.state).toBe('saved'));
    expect(server.patches.map((patch) => patch.label)).toEqual([
      'Bring in (1 of 3)',
      'Bring in (2 of 3)',
      'Bring in (3 of 3)',
    ]);
  });
});

describe('a colleague', () => {
  it('is followed patch by patch', () => {
    page.sync.hear(server.update('note', 'a', { key: 70 }));
    page.sync.hear(server.colleague({ kind: 'note', id: 'b', op: 'remove' }));
    page.sync.hear(server.colleague({ kind: 'note', id: 'c', op: 'add', fields: { partId: 'p', key: 1 } }));
    expect([page.note('a')?.key, page.note('b'), page.note('c')?.key]).toEqual([70, undefined, 1]);
    expect(page.revisions).toEqual([0, 1, 2, 3]);
    expect(server.requests.filter((line) => line.startsWith('GET'))).toHaveLength(1);
  });
  it('who speaks before my edit is acknowledged is not overwritten in the page', async () => {
    server.hold();
    page.change('a', { key: 64 });
    await settle();
    const theirs = server.update('note', 'a', { velocity: 5, key: 71 });
    page.sync.hear(theirs);
    server.release();
    await settle();
    expect(page.note('a')).toMatchObject({ key: 71, velocity: 5 });
    expect(server.get('note', 'a')).toMatchObject({ key: 71, velocity: 5 });
    page.change('a', { key: 72 });
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 72, velocity: 5 });
  });
  it('keeps what they changed where both changed the same, and it is told', async () => {
    server.update('note', 'a', { key: 70 });
    page.change('a', { key: 64 });
    await settle();
    expect([page.note('a')?.key, server.get('note', 'a')?.key]).toEqual([70, 70]);
    expect(page.news.join()).toContain('A colleague changed the same note');
    expect(page.state).toBe('saved');
  });
  it('shares a record where each changed something else, without a word', async () => {
    server.update('note', 'a', { key: 70 });
    page.change('a', { velocity: 11 });
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 70, velocity: 11 });
    expect(page.note('a')).toMatchObject({ key: 70, velocity: 11 });
    expect(page.news).toEqual([]);
  });
  it('whose word arrives while my edits wait is merged with each of them', async () => {
    server.away = true;
    page.change('a', { velocity: 1 });
    page.change('a', { velocity: 2, startTick: 7 });
    await settle();
    page.sync.hear(server.update('note', 'a', { key: 70, startTick: 9 }));
    expect(page.note('a')).toMatchObject({ key: 70, velocity: 2, startTick: 9 });
    expect(page.news.join()).toContain('same note');
    server.away = false;
    page.sync.resume();
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 70, velocity: 2, startTick: 9 });
  });
  it('who removed what I change keeps it removed, and it is told', async () => {
    server.colleague({ kind: 'note', id: 'a', op: 'remove' });
    page.change('a', { key: 1 });
    await settle();
    expect([page.note('a'), server.get('note', 'a')]).toEqual([undefined, undefined]);
    expect(page.news).toHaveLength(1);
  });
  it('whose other document changes is not listened to', () => {
    const event = server.update('note', 'a', { key: 70 });
    page.sync.hear({ ...event, documentId: 'another' });
    expect(page.note('a')?.key).toBe(60);
  });
});

describe('order', () => {
  it('waits for a patch that is missing, and takes both in their order', () => {
    const one = server.update('note', 'a', { key: 61 });
    const two = server.update('note', 'a', { key: 62 });
    page.sync.hear(two);
    expect(page.note('a')?.key).toBe(60);
    page.sync.hear(one);
    expect(page.note('a')?.key).toBe(62);
  });
  it('fetches the document when a patch stays missing', async () => {
    server.update('note', 'a', { key: 61 });
    page.sync.hear(server.update('note', 'b', { key: 99 }));
    await eventually(() => expect(page.note('a')?.key).toBe(61));
    expect(page.note('b')?.key).toBe(99);
  });
  it('takes nothing twice', () => {
    const one = server.update('note', 'a', { key: 61 });
    const two = server.update('note', 'a', { key: 62 });
    for (const event of [one, two, one]) page.sync.hear(event);
    expect(page.note('a')?.key).toBe(62);
  });
  it('hears of its own patch by the stream before the answer comes', async () => {
    server.hold();
    page.change('a', { key: 64 });
    await settle();
    page.sync.hear(server.echo(0));
    page.sync.hear(server.update('note', 'a', { key: 65 }));
    expect(page.note('a')?.key).toBe(65);
    server.release();
    await settle();
    expect([page.note('a')?.key, page.state, server.patches.length]).toEqual([65, 'saved', 1]);
  });
  it('fetches what was changed between opening and listening', async () => {
    server.update('note', 'a', { key: 61 });
    page.sync.hear(server.hello());
    await settle();
    expect(page.note('a')?.key).toBe(61);
  });
  it('asks for nothing when it is up to date', async () => {
    page.sync.hear(server.hello());
    await settle();
    expect(server.requests.filter((line) => line.startsWith('GET'))).toHaveLength(1);
  });
  it('fetches a patch that was too large to be told', async () => {
    const { documentId, revision } = server.update('note', 'a', { key: 61 });
    page.sync.hear({ kind: 'patch', documentId, revision });
    await settle();
    expect(page.note('a')?.key).toBe(61);
  });
  it('keeps an edit that is on its way while the document is fetched', async () => {
    server.hold();
    page.change('a', { key: 64 });
    await settle();
    const { documentId, revision } = server.update('note', 'b', { velocity: 3 });
    page.sync.hear({ kind: 'patch', documentId, revision });
    await settle();
    expect([page.note('a')?.key, page.note('b')?.velocity]).toEqual([64, 3]);
    server.release();
    await settle();
    expect([page.note('a')?.key, page.state, server.patches.length]).toEqual([64, 'saved', 1]);
  });
  it('says that the document is gone when the server no longer has it', () => {
    page.sync.hear({ kind: 'hello', revisions: {}, here: [] });
    expect(page.state).toBe('gone');
  });
});

describe('trouble', () => {
  it('keeps edits while the server is away and sends them by itself when it is back', async () => {
    server.away = true;
    page.change('a', { key: 64 });
    await settle();
    expect(page.states.at(-1)).toEqual({ kind: 'away', left: 1 });
    expect(page.note('a')?.key).toBe(64);
    expect(await kept()).toHaveLength(1);
    server.away = false;
    await eventually(() => expect(server.get('note', 'a')?.key).toBe(64));
    await eventually(() => expect(page.state).toBe('saved'));
  });
  it('sends an edit once although its answer was lost', async () => {
    server.hold();
    page.change('a', { key: 64 });
    await settle();
    server.away = true;
    server.release();
    await settle();
    expect(page.state).toBe('away');
    server.away = false;
    page.sync.resume();
    await settle();
    expect([server.patches.length, server.get('note', 'a')?.version, page.state]).toEqual([1, 4, 'saved']);
  });
  it('sets aside what the server refuses: the page shows what is kept, the edit can be looked at', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'That key is taken.' });
    page.change('a', { key: 64 });
    page.change('b', { key: 1 });
    await settle();
    expect([page.note('a')?.key, page.note('b')?.key]).toEqual([60, 1]);
    expect(page.aside).toMatchObject([{ label: 'Move', sentence: 'That key is taken.' }]);
    expect(page.news.join()).toContain('That key is taken.');
    expect([server.get('note', 'b')?.key, page.state]).toEqual([1, 'saved']);
    expect(await kept()).toHaveLength(1);
  });
  it('sends what was set aside again, on what the document has become', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'No.' });
    page.change('a', { key: 64 });
    await settle();
    page.sync.hear(server.update('note', 'a', { velocity: 3 }));
    page.sync.tryAgain(page.aside[0].id);
    expect([page.note('a')?.key, page.aside]).toEqual([64, []]);
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 64, velocity: 3 });
    expect(await kept()).toEqual([]);
  });
  it('forgets what was set aside when the user says so', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'No.' });
    page.change('a', { key: 64 });
    await settle();
    page.sync.discard(page.aside[0].id);
    await settle();
    expect([page.aside, await kept(), page.note('a')?.key]).toEqual([[], [], 60]);
  });
  it('is not blocked for ever by an edit that the server stumbles over', async () => {
    const stumble = { status: 500, code: 'server.failure', title: 'Something went wrong inside the server.' };
    server.refusals.push(stumble, stumble, stumble, stumble);
    page.change('a', { key: 64 });
    page.change('b', { key: 1 });
    for (let i = 0; i < 4; i++) {
      await settle();
      page.sync.resume();
    }
    await settle();
    expect(page.aside).toHaveLength(1);
    expect(server.get('note', 'b')?.key).toBe(1);
  });
  it('tries an edit again that failed inside the server once', async () => {
    server.refusals.push({ status: 500, code: 'server.failure', title: 'x' });
    page.change('a', { key: 64 });
    await settle();
    expect(page.state).toBe('away');
    page.sync.resume();
    await settle();
    expect([server.get('note', 'a')?.key, page.aside]).toEqual([64, []]);
  });
  it('waits for its person when the session is over, and loses nothing', async () => {
    server.refusals.push({ status: 401, code: 'access.sign-in', title: 'Please sign in.' });
    page.change('a', { key: 64 });
    await settle();
    expect(page.states.at(-1)).toEqual({ kind: 'signed-out', left: 1 });
    page.change('b', { key: 1 });
    page.sync.resume();
    await settle();
    expect([server.get('note', 'a')?.key, server.get('note', 'b')?.key, page.state]).toEqual([
      64,
      1,
      'saved',
    ]);
  });
  it('does not blame an edit for too many requests', async () => {
    server.refusals.push({ status: 429, code: 'access.too-many', title: 'x' });
    page.change('a', { key: 64 });
    await settle();
    expect([page.state, page.aside]).toEqual(['away', []]);
  });
  it('sends nothing after it was closed', async () => {
    server.away = true;
    page.change('a', { key: 64 });
    await settle();
    page.sync.close();
    server.away = false;
    page.sync.resume();
    await settle();
    expect(server.patches).toEqual([]);
  });
});

describe('what an earlier visit left', () => {
  const leave = async (id: string, fields: Record<string, unknown>) => {
    server.away = true;
    page.change(id, fields);
    await settle();
    page.sync.close();
    server.away = false;
  };
  /** As if the tab that left them were closed. */
  const asAnotherTab = async () => {
    for (const name of locks.held) if (name.startsWith('farlo-tab-')) locks.held.delete(name);
    await Promise.resolve();
  };
  it('is sent when the same tab comes back to the document', async () => {
    await leave('a', { key: 64 });
    page = new Page();
    await page.sync.open();
    await eventually(() => expect(server.get('note', 'a')?.key).toBe(64));
  });
  it('is sent when the same person is back', async () => {
    await leave('a', { key: 64 });
    await asAnotherTab();
    page = new Page();
    await page.sync.open();
    expect(page.note('a')?.key).toBe(64);
    await eventually(() => expect(server.get('note', 'a')?.key).toBe(64));
    expect(page.news.join()).toContain('still unsent');
  });
  it('is not sent by another person, and waits for its own', async () => {
    await leave('a', { key: 64 });
    await asAnotherTab();
    page = new Page('somebody else');
    await page.sync.open();
    await settle();
    expect([page.note('a')?.key, server.patches, (await kept()).length]).toEqual([60, [], 1]);
  });
  it('is left to the tab that made it while that is open', async () => {
    await leave('a', { key: 64 });
    const database = createStore('farlo-outbox', 'edits');
    const [[key, edit]] = await entries(database);
    await set(key, { ...(edit as object), tab: 'another' }, database);
    locks.held.add('farlo-tab-another');
    page = new Page();
    await page.sync.open();
    await settle();
    expect([page.note('a')?.key, server.patches]).toEqual([60, []]);
    // That tab is closed: at the next word of the server its edits are taken up.
    locks.held.delete('farlo-tab-another');
    page.sync.hear(server.hello());
    await eventually(() => expect(server.get('note', 'a')?.key).toBe(64));
    expect(page.note('a')?.key).toBe(64);
  });
  it('gives way where a colleague changed the same since', async () => {
    await leave('a', { key: 64, velocity: 1 });
    server.update('note', 'a', { key: 70 });
    await asAnotherTab();
    page = new Page();
    await page.sync.open();
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 70, velocity: 1 });
    expect(page.news.join()).toContain('A colleague changed the same');
  });
  it('keeps the order in which edits were made', async () => {
    server.away = true;
    page.change('a', { key: 61 });
    page.change('a', { key: 62 });
    await settle();
    page.sync.close();
    server.away = false;
    await asAnotherTab();
    page = new Page();
    await page.sync.open();
    await eventually(() => expect(server.get('note', 'a')).toMatchObject({ key: 62, version: 5 }));
    await eventually(async () => expect(await kept()).toEqual([]));
  });
  it('includes what was set aside', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'No.' });
    page.change('a', { key: 64 });
    await settle();
    page.sync.close();
    await asAnotherTab();
    page = new Page();
    await page.sync.open();
    expect(page.aside).toMatchObject([{ sentence: 'No.' }]);
    expect(page.note('a')?.key).toBe(60);
  });
});

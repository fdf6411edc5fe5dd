import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.ts';
import { beginGesture, edit, endGesture, listOf, redo, undo, useDocuments } from './documents.ts';

const news: string[] = [];
const kept = new Map<string, string>();
vi.mock('idb-keyval', () => ({
  get: async (name: string) => JSON.parse(kept.get(name) ?? 'null') as unknown,
  set: async (name: string, value: unknown) => kept.set(name, JSON.stringify(value)),
}));
vi.mock('sonner', () => ({ toast: (sentence: string) => news.push(sentence) }));

let server: FakeServer;
let uninstall: () => void;
const settle = () => new Promise((resolve) => setTimeout(resolve, 30));
const note = (id: string) =>
  listOf(useDocuments.getState().records, 'note').find((candidate) => candidate.id === id);
const nudge = (id: string, fields: Record<string, unknown>, merge?: string) =>
  edit('Move', [{ kind: 'note', id, op: 'update', fields }], merge);

beforeEach(async () => {
  news.length = 0;
  kept.clear();
  server = new FakeServer();
  uninstall = server.install();
  server.put('note', { id: 'a', version: 3, partId: 'p', startTick: 0, endTick: 960, key: 60, velocity: 80 });
  server.put('note', {
    id: 'b',
    version: 1,
    partId: 'p',
    startTick: 960,
    endTick: 1920,
    key: 62,
    velocity: 80,
  });
  await useDocuments.getState().openCue('cue');
});
afterEach(() => uninstall());

describe('editing', () => {
  it('shows at once, sends only what changed, and says when it is saved', async () => {
    nudge('a', { key: 64 });
    expect(note('a')?.key).toBe(64);
    expect(useDocuments.getState().save.kind).toBe('saving');
    await settle();
    expect(server.patches[0].changes).toEqual([
      { kind: 'note', id: 'a', op: 'update', version: 3, fields: { key: 64 } },
    ]);
    expect(useDocuments.getState().save.kind).toBe('saved');
  });
  it('sends one edit after the other, each on the version before', async () => {
    nudge('a', { key: 61 });
    nudge('a', { key: 62 });
    nudge('b', { velocity: 1 });
    await settle();
    expect(server.patches.map((patch) => patch.changes[0].version)).toEqual([3, 4, 1]);
    expect(server.get('note', 'a')).toMatchObject({ key: 62, version: 5 });
  });
  it('makes one step of a gesture, sent at its end; a gesture given up leaves nothing', async () => {
    beginGesture('Drag');
    for (let key = 61; key < 70; key++) nudge('a', { key });
    expect(note('a')?.key).toBe(69);
    await settle();
    expect(server.patches).toEqual([]);
    endGesture();
    await settle();
    expect(server.patches).toHaveLength(1);
    undo();
    expect(note('a')?.key).toBe(60);
    beginGesture('Drag');
    nudge('a', { key: 99 });
    endGesture(false);
    expect(note('a')?.key).toBe(60);
  });
});

describe('undo', () => {
  it('takes steps back and makes them again, on the server too', async () => {
    nudge('a', { key: 64 });
    edit('Delete', [{ kind: 'note', id: 'b', op: 'remove' }]);
    expect(useDocuments.getState().undoLabel).toBe('Delete');
    undo();
    undo();
    expect([note('a')?.key, note('b')?.key]).toEqual([60, 62]);
    redo();
    redo();
    expect([note('a')?.key, note('b')]).toEqual([64, undefined]);
    await settle();
    expect(server.get('note', 'a')?.key).toBe(64);
    expect(server.get('note', 'b')).toBeUndefined();
    expect(server.patches.map((patch) => patch.label)).toContain('Undo: Delete');
  });
  it('merges what is stepped in quick succession', () => {
    nudge('a', { key: 61 }, 'move');
    nudge('a', { key: 62 }, 'move');
    undo();
    expect(note('a')?.key).toBe(60);
  });
  it('says so when a colleague has removed what a step concerned', async () => {
    nudge('a', { key: 64 });
    await settle();
    server.rows.delete('note a');
    await useDocuments.getState().openCue('cue');
    undo();
    expect(note('a')).toBeUndefined();
  });
});

describe('colleagues', () => {
  it('are followed as they edit', () => {
    server.colleague('note', 'a', { key: 70 }, true);
    expect(note('a')?.key).toBe(70);
  });
  it('keep what they changed where both changed the same, and it is told', async () => {
    server.colleague('note', 'a', { key: 70 }, false);
    nudge('a', { key: 64 });
    await settle();
    expect(note('a')?.key).toBe(70);
    expect(server.get('note', 'a')?.key).toBe(70);
    expect(news.join()).toContain('A colleague changed the same note');
  });
  it('share a record where each changed something else', async () => {
    server.colleague('note', 'a', { key: 70 }, false);
    nudge('a', { velocity: 11 });
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 70, velocity: 11 });
    expect(note('a')).toMatchObject({ key: 70, velocity: 11 });
  });
});

describe('trouble', () => {
  it('keeps edits while the server is away and sends them when it is back', async () => {
    server.away = true;
    nudge('a', { key: 64 });
    await settle();
    expect(useDocuments.getState().save.kind).toBe('away');
    expect(note('a')?.key).toBe(64);
    server.away = false;
    await vi.waitFor(() => expect(server.get('note', 'a')?.key).toBe(64), { timeout: 5000 });
    expect(useDocuments.getState().save.kind).toBe('saved');
  });
  it('sends what an earlier visit left unsent', async () => {
    server.away = true;
    nudge('a', { key: 64 });
    await settle();
    server.away = false;
    const unsent = new Map(kept);
    await useDocuments.getState().openCue('cue');
    expect(unsent.size).toBe(1);
    await vi.waitFor(() => expect(server.get('note', 'a')?.key).toBe(64));
    expect(news.join()).toContain('still unsent');
  });
  it('takes back on the page what the server refuses, with its sentence', async () => {
    server.refuse = 'That key is taken.';
    nudge('a', { key: 64 });
    await settle();
    expect(note('a')?.key).toBe(60);
    expect(news).toContain('That key is taken.');
    expect(useDocuments.getState().save).toEqual({ kind: 'refused', sentence: 'That key is taken.' });
  });
});

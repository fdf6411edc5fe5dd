import '../testing/browser.ts';
import { clear, createStore } from 'idb-keyval';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.ts';
import {
  beginGesture,
  closeDocument,
  decideAside,
  edit,
  endGesture,
  hearEvent,
  itemOf,
  listOf,
  openDocument,
  ownedBy,
  redo,
  resumeSending,
  undo,
  useDocuments,
} from './documents.ts';

const news: string[] = [];
vi.mock('sonner', () => ({ toast: (sentence: string) => news.push(sentence) }));

const OWNER = { userId: 'me', studioId: 's' };
let server: FakeServer;
let uninstall: () => void;
const settle = () => new Promise((resolve) => setTimeout(resolve, 25));
const note = (id: string) => itemOf(useDocuments.getState().records, 'note', id);
const nudge = (id: string, fields: Record<string, unknown>, merge?: string) =>
  edit('Move', [{ kind: 'note', id, op: 'update', fields }], merge);
const saved = (kind: 'cue' | 'template' = 'cue') => useDocuments.getState().saves[kind]?.kind;

beforeEach(async () => {
  news.length = 0;
  await clear(createStore('farlo-outbox', 'edits'));
  server = new FakeServer();
  uninstall = server.install();
  server.put('part', { id: 'p', version: 1, trackId: 't' });
  server.put('track', { id: 't', version: 1, name: 'Violins', place: 1 });
  for (const [id, version, key] of [
    ['a', 3, 60],
    ['b', 1, 62],
  ] as const)
    server.put('note', { id, version, partId: 'p', startTick: key, endTick: 960, key, velocity: 80 });
  await openDocument('template', 'template', OWNER);
  await openDocument('cue', 'cue', OWNER);
});
afterEach(async () => {
  endGesture(false);
  server.away = false;
  resumeSending();
  await settle();
  closeDocument('cue');
  closeDocument('template');
  uninstall();
});

describe('editing', () => {
  it('shows at once, and says when it is saved', async () => {
    nudge('a', { key: 64 });
    expect([note('a')?.key, saved()]).toEqual([64, 'saving']);
    await settle();
    expect([server.get('note', 'a')?.key, saved()]).toEqual([64, 'saved']);
  });
  it('of two documents sends each its own, under the same name', async () => {
    edit('Both', [
      { kind: 'note', id: 'a', op: 'update', fields: { key: 1 } },
      { kind: 'track', id: 't', op: 'update', fields: { name: 'Horns' } },
    ]);
    await settle();
    expect(server.requests.filter((line) => line.startsWith('POST'))).toEqual([
      'POST /documents/template/template/patches',
      'POST /documents/cue/cue/patches',
    ]);
    expect(server.patches.map((patch) => patch.label)).toEqual(['Both', 'Both']);
    undo();
    expect([note('a')?.key, listOf(useDocuments.getState().records, 'track')[0].name]).toEqual([
      60,
      'Violins',
    ]);
  });
  it('that changes nothing is no step', () => {
    nudge('a', { key: 60 });
    edit('x', [{ kind: 'note', id: 'unknown', op: 'remove' }]);
    expect([useDocuments.getState().undoLabel, server.patches]).toEqual([undefined, []]);
  });
});

describe('a gesture', () => {
  it('is one step, sent at its end', async () => {
    beginGesture('Drag');
    for (let key = 61; key < 70; key++) nudge('a', { key });
    expect(note('a')?.key).toBe(69);
    await settle();
    expect(server.patches).toEqual([]);
    endGesture();
    await settle();
    expect(server.patches.map((patch) => [patch.label, patch.changes.length])).toEqual([['Drag', 1]]);
    undo();
    expect(note('a')?.key).toBe(60);
  });
  it('given up leaves nothing, and what a colleague did meanwhile stays', async () => {
    beginGesture('Drag');
    nudge('a', { key: 99 });
    hearEvent(server.update('note', 'a', { velocity: 5 }));
    expect(note('a')).toMatchObject({ key: 99, velocity: 5 });
    endGesture(false);
    expect(note('a')).toMatchObject({ key: 60, velocity: 5 });
    await settle();
    expect([server.patches, useDocuments.getState().undoLabel]).toEqual([[], undefined]);
  });
  it('that ends where it began is no step', async () => {
    beginGesture('Drag');
    nudge('a', { key: 99 });
    nudge('a', { key: 60 });
    endGesture();
    await settle();
    expect([server.patches, useDocuments.getState().undoLabel]).toEqual([[], undefined]);
  });
  it('stays on top while the document is fetched anew', async () => {
    beginGesture('Drag');
    nudge('a', { key: 99 });
    const { documentId, revision } = server.update('note', 'b', { key: 5 });
    hearEvent({ kind: 'patch', documentId, revision });
    await settle();
    expect([note('a')?.key, note('b')?.key]).toEqual([99, 5]);
    endGesture();
    await settle();
    expect(server.get('note', 'a')?.key).toBe(99);
  });
  it('keeps undo and redo waiting', () => {
    nudge('a', { key: 64 });
    beginGesture('Drag');
    undo();
    expect(note('a')?.key).toBe(64);
    redo();
    endGesture();
  });
});

describe('undo', () => {
  it('takes steps back and makes them again, on the server too', async () => {
    nudge('a', { key: 64 });
    edit('Delete', [{ kind: 'note', id: 'b', op: 'remove' }]);
    expect(useDocuments.getState().undoLabel).toBe('Delete');
    undo();
    undo();
    expect([note('a')?.key, note('b')?.key, useDocuments.getState().redoLabel]).toEqual([60, 62, 'Move']);
    redo();
    redo();
    expect([note('a')?.key, note('b'), useDocuments.getState().redoLabel]).toEqual([
      64,
      undefined,
      undefined,
    ]);
    await settle();
    expect([server.get('note', 'a')?.key, server.get('note', 'b')]).toEqual([64, undefined]);
    expect(server.patches.map((patch) => patch.label)).toEqual([
      'Move',
      'Delete',
      'Undo: Delete',
      'Undo: Move',
      'Redo: Move',
      'Redo: Delete',
    ]);
  });
  it('merges what is stepped in quick succession', () => {
    nudge('a', { key: 61 }, 'move');
    nudge('a', { key: 62 }, 'move');
    undo();
    expect(note('a')?.key).toBe(60);
  });
  it('leaves a colleague’s other fields of the same record', async () => {
    nudge('a', { key: 64 });
    await settle();
    hearEvent(server.update('note', 'a', { velocity: 7 }));
    undo();
    expect(note('a')).toMatchObject({ key: 60, velocity: 7 });
    await settle();
    expect(server.get('note', 'a')).toMatchObject({ key: 60, velocity: 7 });
    expect(news).toEqual([]);
  });
  it('leaves what a colleague changed since, and says so', async () => {
    nudge('a', { key: 64 });
    await settle();
    hearEvent(server.update('note', 'a', { key: 70 }));
    undo();
    expect([note('a')?.key, useDocuments.getState().redoLabel]).toEqual([70, undefined]);
    expect(news).toEqual(['“Move” cannot be taken back: someone has changed it since.']);
    redo();
    expect(news).toHaveLength(1);
  });
  it('takes back the rest of a step of which a colleague changed a part', async () => {
    edit('Two', [
      { kind: 'note', id: 'a', op: 'update', fields: { key: 64 } },
      { kind: 'note', id: 'b', op: 'update', fields: { key: 65 } },
    ]);
    await settle();
    hearEvent(server.update('note', 'a', { key: 70 }));
    undo();
    expect([note('a')?.key, note('b')?.key]).toEqual([70, 62]);
    expect(news.join()).toContain('What a colleague changed since stayed as it is');
  });
  it('does not bring back what belonged to something that is gone', async () => {
    edit('Delete', [{ kind: 'note', id: 'a', op: 'remove' }]);
    await settle();
    hearEvent(
      server.colleague({ kind: 'note', id: 'b', op: 'remove' }, { kind: 'part', id: 'p', op: 'remove' }),
    );
    undo();
    expect(note('a')).toBeUndefined();
    expect(news.join()).toContain('cannot be taken back');
  });
  it('knows only what is still open', async () => {
    nudge('a', { key: 64 });
    edit('Name', [{ kind: 'track', id: 't', op: 'update', fields: { name: 'Horns' } }]);
    await settle();
    closeDocument('template');
    expect([useDocuments.getState().undoLabel, useDocuments.getState().templateId]).toEqual([
      'Move',
      undefined,
    ]);
    expect(listOf(useDocuments.getState().records, 'track')).toEqual([]);
    expect(note('a')?.key).toBe(64);
  });
});

describe('a document that is left', () => {
  it('is still sent what waits, and shows it when it is opened again', async () => {
    server.away = true;
    nudge('a', { key: 64 });
    await settle();
    closeDocument('cue');
    expect([note('a'), saved()]).toEqual([undefined, undefined]);
    await openDocument('cue', 'cue', OWNER);
    expect([note('a')?.key, saved()]).toEqual([64, 'saving']);
    closeDocument('cue');
    server.away = false;
    resumeSending();
    await settle();
    expect(server.get('note', 'a')?.key).toBe(64);
    await openDocument('cue', 'cue', OWNER);
    expect([note('a')?.key, saved(), server.patches.length]).toEqual([64, 'saved', 1]);
  });
  it('does not speak into the one that came in its place', async () => {
    closeDocument('cue');
    hearEvent(server.update('note', 'a', { key: 99 }));
    expect(note('a')).toBeUndefined();
  });
  it('whose fetching fails is told to the caller', async () => {
    server.away = true;
    await expect(openDocument('cue', 'other', OWNER)).rejects.toThrow('does not answer');
    server.away = false;
  });
});

describe('what was set aside', () => {
  it('is shown with its document until the user decides', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'No.' });
    nudge('a', { key: 64 });
    await settle();
    const { aside } = useDocuments.getState();
    expect(aside).toMatchObject([{ document: 'cue', label: 'Move', sentence: 'No.' }]);
    expect(note('a')?.key).toBe(60);
    decideAside(aside[0], 'again');
    await settle();
    expect([server.get('note', 'a')?.key, note('a')?.key, useDocuments.getState().aside]).toEqual([
      64,
      64,
      [],
    ]);
  });
  it('goes when it is discarded', async () => {
    server.refusals.push({ status: 422, code: 'patch.invalid', title: 'No.' });
    nudge('a', { key: 64 });
    await settle();
    decideAside(useDocuments.getState().aside[0], 'discard');
    expect(useDocuments.getState().aside).toEqual([]);
  });
});

describe('what views read', () => {
  it('stays the same object while nothing of it changes', async () => {
    const { records } = useDocuments.getState();
    const [tracks, notes] = [listOf(records, 'track'), ownedBy(records, 'note', 'p')];
    hearEvent(server.update('track', 't', { name: 'Horns' }));
    const next = useDocuments.getState().records;
    expect(ownedBy(next, 'note', 'p')).toBe(notes);
    expect(listOf(next, 'track')).not.toBe(tracks);
    expect(ownedBy(next, 'note', 'nobody')).toEqual([]);
    expect(listOf({}, 'note')).toEqual([]);
    expect(itemOf(next, 'track', undefined)).toBeUndefined();
  });
  it('is not told again what it shows already', async () => {
    nudge('a', { key: 64 });
    await settle();
    const { records } = useDocuments.getState();
    hearEvent(server.echo(0));
    expect(useDocuments.getState().records).toBe(records);
  });
});

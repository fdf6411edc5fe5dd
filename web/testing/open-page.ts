import './browser.ts';
import { clear, createStore } from 'idb-keyval';
import type { RecordKind } from '#api/index.ts';
import { closeDocument, listOf, openDocument, useDocuments, type Item } from '../state/documents.ts';
import { FakeServer } from './fake-server.ts';

/** A page with a template, a cue, a shelf and a house open, over a server in memory. */
export async function openPage(
  rows: Partial<Record<RecordKind, readonly object[]>>,
): Promise<{ server: FakeServer; close(): Promise<void> }> {
  await clear(createStore('farlo-outbox', 'edits'));
  const server = new FakeServer();
  const uninstall = server.install();
  for (const [kind, list] of Object.entries(rows))
    for (const row of list) server.put(kind as RecordKind, { version: 1, ...row } as never);
  for (const kind of ['template', 'cue', 'shelf', 'house'] as const)
    await openDocument(kind, kind, { userId: 'me', studioId: 's' });
  return {
    server,
    // Everything is sent before the next test's page opens the same documents.
    close: async () => {
      const isSaved = () =>
        Object.values(useDocuments.getState().saves).every(
          (save) => save === undefined || save.kind === 'saved',
        );
      for (let i = 0; i < 200 && !isSaved(); i++) await new Promise((resolve) => setTimeout(resolve, 5));
      for (const kind of ['template', 'cue', 'shelf', 'house'] as const) closeDocument(kind);
      uninstall();
    },
  };
}

/** All records of a kind as the page shows them. */
export function shown<K extends RecordKind>(kind: K): readonly Item<K>[] {
  return listOf(useDocuments.getState().records, kind);
}

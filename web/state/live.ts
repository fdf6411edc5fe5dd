import { create } from 'zustand';
import type { Here, StreamEvent } from '#api/index.ts';
import { hearEvent, resumeSending } from './documents.ts';
import { hearPointing } from './pointing.ts';
import { queries } from './queries.ts';
import { loadOverview, loadSession, onSession } from './session.ts';
import { SharedStream } from './stream.ts';

/** Who has Farlo open in this studio. */
export const useHere = create<{ here: readonly Here[] }>(() => ({ here: [] }));

function hear(event: StreamEvent, onDocuments: () => void): void {
  if (event.kind === 'hello' || event.kind === 'here') useHere.setState({ here: event.here });
  // After an absence anything may have come or gone.
  if (event.kind === 'hello' || event.kind === 'documents')
    loadOverview()
      .then(onDocuments)
      .catch(() => undefined);
  if (event.kind === 'members') {
    void queries.invalidateQueries({ queryKey: ['members'] });
    loadSession().catch(() => undefined);
  }
  hearEvent(event);
  hearPointing(event);
}

/** Listens to the studio's stream, with all tabs of the browser. Call once, signed in. @param onDocuments after documents came or went */
export function listenToStudio(onDocuments: () => void): void {
  const stream = new SharedStream({
    onEvent: (event) => hear(event, onDocuments),
    onSession: () => void loadSession().catch(() => undefined),
  });
  onSession({
    goOn: () => {
      stream.reopen();
      resumeSending();
    },
    tellTabs: () => stream.tellSession(),
  });
}

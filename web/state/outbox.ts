import { createStore, del, entries, set } from 'idb-keyval';
import type { DocumentKind } from '#api/index.ts';
import type { Delta } from './diff.ts';
import { aliveTabs, TAB } from './tab.ts';

/** An edit on its way to the server. */
export interface Outgoing {
  id: string;
  label: string;
  deltas: Delta[];
  /** Milliseconds; the order in which edits were made. */
  at: number;
}

/** An edit that the server keeps refusing: it waits for the user's word. */
export interface AsideEdit extends Outgoing {
  sentence: string;
}

/** Whose edits of which document. */
export interface OutboxOwner {
  userId: string;
  studioId: string;
  kind: DocumentKind;
  id: string;
}

interface Kept {
  tab: string;
  outgoing: Outgoing;
  /** Why it was set aside. */
  sentence?: string;
}

let store: ReturnType<typeof createStore> | undefined;
const database = () => (store ??= createStore('farlo-outbox', 'edits'));

/**
 * Edits of one person to one document that the server has not acknowledged, kept in this browser one by one, so that
 * tabs do not overwrite each other's and nobody else sends them. Where the browser keeps nothing, edits still go to
 * the server; only a closed page with an absent server would lose them.
 */
export class Outbox {
  private readonly prefix: string;

  constructor({ userId, studioId, kind, id }: OutboxOwner) {
    this.prefix = `${userId}/${studioId}/${kind}/${id}/`;
  }

  /** Keeps an edit, or what became of it. */
  async keep(outgoing: Outgoing, sentence?: string): Promise<void> {
    const kept: Kept = { tab: TAB, outgoing, ...(sentence === undefined ? {} : { sentence }) };
    await quietly(set(this.prefix + outgoing.id, kept, database()));
  }

  async forget(id: string): Promise<void> {
    await quietly(del(this.prefix + id, database()));
  }

  /** Edits that an earlier visit of this tab left, or tabs that are no longer there, oldest first; they are this tab's from now on. */
  async adopt(): Promise<{ queue: Outgoing[]; aside: AsideEdit[] }> {
    const alive = await aliveTabs();
    const all = (await quietly(entries<string, Kept>(database()))) ?? [];
    const left = all
      .filter(([key, { tab }]) => key.startsWith(this.prefix) && (tab === TAB || !alive.has(tab)))
      .map(([, kept]) => kept)
      .sort((a, b) => a.outgoing.at - b.outgoing.at);
    for (const { outgoing, sentence } of left) await this.keep(outgoing, sentence);
    return {
      queue: left.filter((kept) => kept.sentence === undefined).map(({ outgoing }) => outgoing),
      aside: left.flatMap(({ outgoing, sentence }) =>
        sentence === undefined ? [] : [{ ...outgoing, sentence }],
      ),
    };
  }
}

async function quietly<T>(work: Promise<T>): Promise<T | undefined> {
  try {
    return await work;
  } catch {
    // Private windows of some browsers keep nothing.
    return undefined;
  }
}

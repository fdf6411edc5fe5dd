import {
  MOST_CHANGES,
  RECORD_KINDS,
  type AppliedPatch,
  type ChangeShape,
  type DocumentContent,
  type DocumentKind,
  type RecordKind,
  type StreamEvent,
} from '#api/index.ts';
import { request, RequestFailure } from './api-client.ts';
import { changedFields, keyOf, mergeDelta, squash, type AnyRecord, type Delta } from './diff.ts';
import { Outbox, type AsideEdit, type Outgoing, type OutboxOwner } from './outbox.ts';
import { applyDeltas, recordOf, Table, type Records } from './tables.ts';

/** Where the edits of a document stand. */
export type SaveState =
  | { kind: 'saved'; at: number }
  /** `left` edits are still to be acknowledged. */
  | { kind: 'saving'; left: number }
  /** The server does not answer; edits are kept here. */
  | { kind: 'away'; left: number }
  /** The session is over; edits are kept here until its person is back. */
  | { kind: 'signed-out'; left: number }
  /** The document was deleted. */
  | { kind: 'gone' };

export interface SyncCallbacks {
  /** All records of the document as they now stand, with edits still on their way. */
  onRecords(records: Records): void;
  /** Records that changed by somebody else's hand, as they are to be shown. */
  onDeltas(deltas: readonly Omit<Delta, 'before'>[]): void;
  onState(state: SaveState): void;
  /** The document stands at another revision, by whoever's hand. */
  onRevision(revision: number): void;
  onAside(aside: readonly AsideEdit[]): void;
  /** Something the user must be told, for example that a colleague changed the same thing. */
  onNews(sentence: string): void;
}

const FIRST_RETRY_MS = 1000;
const LONGEST_RETRY_MS = 15_000;
/** How long a missing revision may be on its way before the document is fetched. */
const GAP_MS = 400;
/** Times an edit may fail inside the server before it is set aside. */
const MOST_FAILURES = 4;
/** Times an edit may meet a newer version before it is set aside: only a fault would do so for ever. */
const MOST_REBASES = 20;
const NAMES: Partial<Record<RecordKind, string>> = {
  positionMix: 'microphone level',
  point: 'curve point',
  eqBand: 'tone band',
  levelPoint: 'level that moves',
  shelfMark: 'verdict or note',
};

/**
 * Keeps one document in step with the server. `base` is what the server has at `revision`; patches are taken in
 * their order, whether they come as the answer to one's own or from the stream, and what is missing is fetched.
 * Edits on their way lie on top of it; they are sent one after the other and survive in the outbox.
 */
export class DocumentSync {
  private base: Records = {};
  private revision = -1;
  private versions = new Map<string, number>();
  private queue: Outgoing[] = [];
  private aside: AsideEdit[] = [];
  /** Patches that came before one that is missing, by revision. */
  private readonly early = new Map<number, AppliedPatch>();
  private readonly outbox: Outbox;
  private sending = false;
  private fetching: Promise<void> | undefined;
  private closed = false;
  private isGone = false;
  private failures = 0;
  private rebases = 0;
  private retryMs = FIRST_RETRY_MS;
  private retry: ReturnType<typeof setTimeout> | undefined;
  private gap: ReturnType<typeof setTimeout> | undefined;

  constructor(
    readonly owner: OutboxOwner,
    private readonly callbacks: SyncCallbacks,
  ) {
    this.outbox = new Outbox(owner);
  }

  get kind(): DocumentKind {
    return this.owner.kind;
  }

  /** Fetches the document and puts edits of an earlier visit on top of it. @throws RequestFailure */
  async open(): Promise<void> {
    this.take(await this.fetch());
    await this.adopt();
    this.callbacks.onRecords(this.shownRecords());
    this.tellState();
    void this.send();
  }

  /** True when nothing waits to be acknowledged. */
  get isIdle(): boolean {
    return this.queue.length === 0;
  }

  /** Says everything again, to a view that comes back to a document which was still being sent. */
  show(): void {
    this.publish();
    this.tellState();
    this.callbacks.onRevision(this.revision);
    this.callbacks.onAside(this.aside);
  }

  /** Queues deltas that are already in place on the page; many go in pieces. */
  push(label: string, deltas: readonly Delta[]): void {
    const pieces = piecesOf(squash(deltas));
    pieces.forEach((piece, i) => {
      const name = pieces.length > 1 ? `${label} (${i + 1} of ${pieces.length})` : label;
      const outgoing = { id: crypto.randomUUID(), label: name.slice(0, 200), deltas: piece, at: nextAt() };
      this.queue.push(outgoing);
      void this.outbox.keep(outgoing);
    });
    this.tellState();
    void this.send();
  }

  /** What the stream tells. */
  hear(event: StreamEvent): void {
    const { id } = this.owner;
    if (this.revision < 0) return;
    if (event.kind === 'hello') {
      const revision = event.revisions[id];
      if (revision === undefined) this.gone();
      else if (revision > this.revision) void this.refetch();
      void this.adopt().then((some) => some && this.publish());
      this.resume();
    } else if (event.kind === 'patch' && event.documentId === id && event.revision > this.revision) {
      if (event.patch) this.arrive(event.patch);
      else void this.refetch();
    }
  }

  /** Tries at once again, for example after signing in. */
  resume(): void {
    this.retryMs = FIRST_RETRY_MS;
    clearTimeout(this.retry);
    void this.send();
  }

  /** Sends an edit again that was set aside. */
  tryAgain(id: string): void {
    const edit = this.aside.find((one) => one.id === id);
    if (!edit) return;
    this.aside = this.aside.filter((one) => one !== edit);
    this.callbacks.onAside(this.aside);
    const { sentence: _sentence, ...outgoing } = edit;
    this.failures = 0;
    this.queue.push(outgoing);
    void this.outbox.keep(outgoing);
    this.rebase(new Set(outgoing.deltas.map(keyOf)));
    this.publish();
    void this.send();
  }

  /** Gives up an edit that was set aside. */
  discard(id: string): void {
    this.aside = this.aside.filter((one) => one.id !== id);
    this.callbacks.onAside(this.aside);
    void this.outbox.forget(id);
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.retry);
    clearTimeout(this.gap);
  }

  private get path(): string {
    return `/documents/${this.owner.kind}/${this.owner.id}`;
  }

  private fetch(): Promise<DocumentContent> {
    return request<DocumentContent>('GET', this.path);
  }

  /** Takes up edits that closed tabs left. @returns whether there were any */
  private async adopt(): Promise<boolean> {
    const { queue, aside } = await this.outbox.adopt();
    const known = new Set([...this.queue, ...this.aside].map((edit) => edit.id));
    const fresh = queue.filter((edit) => !known.has(edit.id));
    const freshAside = aside.filter((edit) => !known.has(edit.id));
    if (freshAside.length > 0) {
      this.aside = [...this.aside, ...freshAside];
      this.callbacks.onAside(this.aside);
    }
    if (fresh.length === 0) return false;
    this.queue = [...fresh, ...this.queue];
    this.rebase(new Set(fresh.flatMap((edit) => edit.deltas.map(keyOf))));
    this.callbacks.onNews('Edits from before were still unsent; they are being sent now.');
    void this.send();
    return true;
  }

  /** Takes a whole document in place of the base, unless something newer is here already. */
  private take(content: DocumentContent): void {
    if (content.revision < this.revision) return;
    const base: Partial<Record<RecordKind, Table>> = {};
    this.versions = new Map();
    for (const [kind, list] of Object.entries(content.records) as [RecordKind, AnyRecord[]][]) {
      const records = list.map((record) => {
        const { version, ...fields } = record;
        this.versions.set(keyOf({ kind, id: record.id }), Number(version));
        return fields as AnyRecord;
      });
      base[kind] = Table.of(kind, records);
    }
    this.base = base;
    this.moveTo(content.revision);
    this.drain();
  }

  /** Fetches the document anew; edits on their way are put on top of what others made. */
  private refetch(): Promise<void> {
    this.fetching ??= this.fetch()
      .then((content) => {
        if (this.closed || content.revision < this.revision) return;
        this.take(content);
        this.rebase(new Set(this.queue.flatMap((outgoing) => outgoing.deltas.map(keyOf))));
        this.publish();
      })
      .catch((error: unknown) => {
        // The stream's next word, or the next edit, tries again.
        if (error instanceof RequestFailure && error.status === 404) this.gone();
      })
      .finally(() => (this.fetching = undefined));
    return this.fetching;
  }

  /** A patch that was applied to the document, from the stream or as an answer. */
  private arrive(patch: AppliedPatch): void {
    if (patch.revision <= this.revision) return;
    this.early.set(patch.revision, patch);
    this.drain();
    clearTimeout(this.gap);
    if (this.early.size > 0) this.gap = setTimeout(() => void this.refetch(), GAP_MS);
  }

  private drain(): void {
    for (const revision of this.early.keys()) if (revision <= this.revision) this.early.delete(revision);
    for (let next = this.early.get(this.revision + 1); next; next = this.early.get(this.revision + 1)) {
      this.early.delete(next.revision);
      this.apply(next);
    }
  }

  private apply(patch: AppliedPatch): void {
    const deltas = patch.changes.map(({ kind, id, op, version, fields }): Delta => {
      const before = recordOf(this.base, kind, id) ?? null;
      if (op === 'remove') this.versions.delete(keyOf({ kind, id }));
      else this.versions.set(keyOf({ kind, id }), version);
      return {
        kind,
        id,
        before,
        after: op === 'remove' ? null : ({ ...before, ...fields, id } as AnyRecord),
      };
    });
    this.base = applyDeltas(this.base, deltas);
    this.moveTo(patch.revision);
    const own = this.queue.findIndex((outgoing) => outgoing.id === patch.patchId);
    if (own >= 0) this.done(own);
    else if (this.queue.length > 0) this.rebase(new Set(deltas.map(keyOf)));
    this.callbacks.onDeltas(deltas.map(({ kind, id }) => ({ kind, id, after: this.shown(kind, id) })));
  }

  private moveTo(revision: number): void {
    this.revision = revision;
    this.callbacks.onRevision(revision);
  }

  /** An edit is acknowledged. */
  private done(index: number): void {
    const [outgoing] = this.queue.splice(index, 1);
    void this.outbox.forget(outgoing.id);
  }

  /** A record with the edits on their way on top. */
  private shown(kind: RecordKind, id: string): AnyRecord | null {
    let record = recordOf(this.base, kind, id) ?? null;
    for (const { deltas } of this.queue)
      for (const delta of deltas) if (delta.kind === kind && delta.id === id) record = onTop(record, delta);
    return record;
  }

  private shownRecords(): Records {
    const touched = new Map<string, Omit<Delta, 'before'>>();
    for (const { deltas } of this.queue)
      for (const { kind, id } of deltas)
        touched.set(keyOf({ kind, id }), { kind, id, after: this.shown(kind, id) });
    // Tables of the page are others than those of the base: each has its own index.
    const own = Object.fromEntries(
      Object.entries(this.base).map(([kind, table]) => [kind, Table.of(kind as RecordKind, table.list())]),
    ) as Records;
    return applyDeltas(
      own,
      [...touched.values()].map((delta) => ({ ...delta, before: null })),
    );
  }

  private publish(): void {
    this.callbacks.onRecords(this.shownRecords());
  }

  /**
   * Puts edits on their way onto what the base has become: fields that only one changed are both kept; where both
   * changed the same, theirs stays and the user is told.
   */
  private rebase(touched: ReadonlySet<string>): void {
    const theirs = new Map<string, AnyRecord | null>();
    const lost = new Set<string>();
    for (const outgoing of this.queue) {
      let changed = false;
      const deltas = outgoing.deltas.flatMap((delta): Delta[] => {
        const key = keyOf(delta);
        if (!touched.has(key)) return [delta];
        const present = theirs.has(key)
          ? (theirs.get(key) ?? null)
          : (recordOf(this.base, delta.kind, delta.id) ?? null);
        if (present === delta.before) return [delta];
        const { delta: merged, complete } = mergeDelta(delta, present);
        if (!complete) lost.add(NAMES[delta.kind] ?? delta.kind);
        theirs.set(key, merged ? merged.after : present);
        changed = true;
        return merged ? [merged] : [];
      });
      if (!changed) continue;
      outgoing.deltas = deltas;
      void this.outbox.keep(outgoing);
    }
    if (lost.size > 0)
      this.callbacks.onNews(
        `A colleague changed the same ${[...lost].join(' and ')} meanwhile. Theirs was kept; look at it and change it again if you need to.`,
      );
  }

  private async send(): Promise<void> {
    if (this.sending || this.revision < 0) return;
    this.sending = true;
    while (this.queue.length > 0 && !this.closed) {
      this.callbacks.onState({ kind: 'saving', left: this.queue.length });
      const outgoing = this.queue[0];
      const changes = outgoing.deltas.map((delta) => this.toChange(delta));
      try {
        if (changes.length > 0) {
          const { id, label } = outgoing;
          this.arrive(await request<AppliedPatch>('POST', `${this.path}/patches`, { id, label, changes }));
        }
        // The stream may have said so before the answer did.
        const index = this.queue.indexOf(outgoing);
        if (index >= 0) this.done(index);
        this.failures = this.rebases = 0;
        this.retryMs = FIRST_RETRY_MS;
      } catch (error) {
        if (!(await this.afterFailure(outgoing, error as Error))) break;
      }
    }
    this.sending = false;
    if (this.queue.length === 0 && !this.closed) this.tellState();
  }

  /** Decides what becomes of an edit that failed; false stops sending for now. */
  private async afterFailure(outgoing: Outgoing, error: Error): Promise<boolean> {
    const { status, code } = error instanceof RequestFailure ? error : { status: -1, code: undefined };
    if (this.closed) return false;
    if (status === 401) {
      this.callbacks.onState({ kind: 'signed-out', left: this.queue.length });
      return false;
    }
    if (code === 'patch.stale' && ++this.rebases <= MOST_REBASES) {
      await this.refetch();
      return true;
    }
    if (status >= 400 && status < 500 && status !== 429) {
      if (status === 404) await this.refetch();
      this.setAside(outgoing, error.message);
      return true;
    }
    // 507 and 500 are words of the server itself; anything else is nobody answering.
    if ((status === 500 || status === 507 || status === -1) && ++this.failures >= MOST_FAILURES) {
      this.failures = 0;
      this.setAside(outgoing, error.message);
      return true;
    }
    this.callbacks.onState({ kind: 'away', left: this.queue.length });
    clearTimeout(this.retry);
    this.retry = setTimeout(() => void this.send(), this.retryMs);
    this.retryMs = Math.min(LONGEST_RETRY_MS, this.retryMs * 2);
    return false;
  }

  /** Takes an edit out of the queue that cannot be kept; it stays in the outbox until the user says what becomes of it. */
  private setAside(outgoing: Outgoing, sentence: string): void {
    this.queue = this.queue.filter((one) => one !== outgoing);
    this.aside = [...this.aside, { ...outgoing, sentence }];
    void this.outbox.keep(outgoing, sentence);
    this.publish();
    this.callbacks.onAside(this.aside);
    this.callbacks.onNews(`“${outgoing.label}” was set aside: ${sentence}`);
  }

  private gone(): void {
    this.isGone = true;
    this.tellState();
  }

  private tellState(): void {
    const left = this.queue.length;
    if (this.isGone) this.callbacks.onState({ kind: 'gone' });
    else this.callbacks.onState(left > 0 ? { kind: 'saving', left } : { kind: 'saved', at: Date.now() });
  }

  private toChange({ kind, id, before, after }: Delta): ChangeShape {
    const version = this.versions.get(keyOf({ kind, id }));
    if (before === null && after) {
      const { id: _id, ...fields } = after;
      return { kind, id, op: 'add', fields };
    }
    if (after === null || before === null) return { kind, id, op: 'remove', version };
    return { kind, id, op: 'update', version, fields: changedFields(before, after) };
  }
}

let lastAt = 0;
/** The present time in milliseconds, each later than the one before, so that the order of edits can be told by it. */
function nextAt(): number {
  lastAt = Math.max(Date.now(), lastAt + 0.01);
  return lastAt;
}

function onTop(record: AnyRecord | null, { id, before, after }: Delta): AnyRecord | null {
  if (after === null || before === null || record === null) return after;
  return { ...record, ...changedFields(before, after), id };
}

/** Deltas in pieces of bounded size, in an order in which nothing is added before or removed after what it belongs to. */
export function piecesOf(deltas: readonly Delta[]): Delta[][] {
  if (deltas.length <= MOST_CHANGES) return deltas.length > 0 ? [[...deltas]] : [];
  const rank = Object.keys(RECORD_KINDS);
  const step = ({ kind, before, after }: Delta) =>
    after === null ? -rank.indexOf(kind) - 1 : before === null ? rank.indexOf(kind) + 1 : 0;
  const ordered = [...deltas].sort((a, b) => step(a) - step(b));
  return Array.from({ length: Math.ceil(ordered.length / MOST_CHANGES) }, (_, i) =>
    ordered.slice(i * MOST_CHANGES, (i + 1) * MOST_CHANGES),
  );
}

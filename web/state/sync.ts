import type {
  AppliedPatch,
  ChangeShape,
  Conflict,
  DocumentContent,
  DocumentKind,
  RecordKind,
} from '#api/index.ts';
import { request, RequestFailure } from './api-client.ts';
import { applyDeltas, changedFields, squash, type AnyRecord, type Delta, type Records } from './diff.ts';
import { keepUnsent, readUnsent } from './unsent.ts';

/** An edit on its way to the server. */
interface Outgoing {
  id: string;
  label: string;
  deltas: Delta[];
}

/** Where the edits of a document stand. */
export type SaveState =
  | { kind: 'saved'; at: number }
  | { kind: 'saving' }
  | { kind: 'away' }
  | { kind: 'refused'; sentence: string };

interface SyncCallbacks {
  /** The records as they now stand, seen together with edits still on their way. */
  onRecords(records: Records): void;
  onState(state: SaveState): void;
  /** Something the user must be told, for example that a colleague changed the same thing. */
  onNews(sentence: string): void;
}

const RETRY_MS = 2000;
const NAMES: Partial<Record<RecordKind, string>> = {
  positionMix: 'microphone level',
  point: 'curve point',
  part: 'part',
};

/**
 * Keeps one document in step with the server: what the server acknowledged (`base`) and the edits on their way.
 * Edits are sent in order, one at a time; they survive a closed page and an absent server in IndexedDB.
 */
export class DocumentSync {
  private base: Records = {};
  private versions = new Map<string, number>();
  private queue: Outgoing[] = [];
  private sending = false;
  private closed = false;
  private readonly own = new Set<string>();
  private events: EventSource | undefined;
  private retry: ReturnType<typeof setTimeout> | undefined;

  private constructor(
    readonly kind: DocumentKind,
    readonly id: string,
    private readonly callbacks: SyncCallbacks,
  ) {}

  /** Opens a document, puts edits of an earlier visit on top of it, and listens. */
  static async open(kind: DocumentKind, id: string, callbacks: SyncCallbacks): Promise<DocumentSync> {
    const sync = new DocumentSync(kind, id, callbacks);
    sync.take(await request<DocumentContent>('GET', `/documents/${kind}/${id}`));
    sync.queue = (await readUnsent<Outgoing[]>(sync.storageKey)) ?? [];
    if (sync.queue.length > 0)
      callbacks.onNews('Edits from before were still unsent; they are being sent now.');
    sync.publish();
    callbacks.onState({ kind: 'saved', at: Date.now() });
    sync.listen();
    void sync.send();
    return sync;
  }

  /** Queues deltas that are already in place on the page. */
  push(label: string, deltas: Delta[]): void {
    this.queue.push({ id: crypto.randomUUID(), label, deltas });
    this.store();
    void this.send();
  }

  close(): void {
    this.closed = true;
    this.events?.close();
    clearTimeout(this.retry);
  }

  private get storageKey(): string {
    return `farlo-unsent-${this.kind}-${this.id}`;
  }

  private store(): void {
    void keepUnsent(this.storageKey, this.queue);
  }

  private take(content: DocumentContent): void {
    const base: Partial<Record<RecordKind, Record<string, AnyRecord>>> = {};
    this.versions.clear();
    for (const [kind, list] of Object.entries(content.records) as [RecordKind, AnyRecord[]][]) {
      base[kind] = {};
      for (const record of list) {
        const { version, ...fields } = record;
        this.versions.set(`${kind} ${record.id}`, Number(version));
        base[kind][record.id] = fields as AnyRecord;
      }
    }
    this.base = base;
  }

  /** The server's records with the edits on their way on top. */
  private publish(): void {
    this.callbacks.onRecords(
      applyDeltas(
        this.base,
        this.queue.flatMap((outgoing) => outgoing.deltas),
      ),
    );
  }

  private async send(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    while (this.queue.length > 0 && !this.closed) {
      this.callbacks.onState({ kind: 'saving' });
      const outgoing = this.queue[0];
      this.own.add(outgoing.id);
      try {
        const changes = squash(outgoing.deltas).map((delta) => this.toChange(delta));
        const applied =
          changes.length > 0
            ? await request<AppliedPatch>('POST', `/documents/${this.kind}/${this.id}/patches`, {
                id: outgoing.id,
                label: outgoing.label,
                changes,
              })
            : undefined;
        if (applied) this.acknowledge(applied);
        this.queue.shift();
        this.store();
        this.callbacks.onState(
          this.queue.length > 0 ? { kind: 'saving' } : { kind: 'saved', at: Date.now() },
        );
      } catch (error) {
        if (!this.afterFailure(error as Error)) break;
      }
    }
    this.sending = false;
  }

  /** Decides what becomes of the first edit in the queue; false stops sending for now. */
  private afterFailure(error: Error): boolean {
    const status = error instanceof RequestFailure ? error.status : 0;
    if (error instanceof RequestFailure && status === 409 && error.problem?.conflicts) {
      this.rebase(error.problem.conflicts as Conflict[]);
      return true;
    }
    if (status >= 400 && status < 500 && status !== 401 && status !== 429) {
      // Refused for good: take it back on the page, so that what is shown is what is kept.
      this.queue.shift();
      this.store();
      this.publish();
      this.callbacks.onNews(error.message);
      this.callbacks.onState({ kind: 'refused', sentence: error.message });
      return true;
    }
    this.callbacks.onState({ kind: 'away' });
    clearTimeout(this.retry);
    this.retry = setTimeout(() => void this.send(), RETRY_MS);
    return false;
  }

  private toChange({ kind, id, before, after }: Delta): ChangeShape {
    const version = this.versions.get(`${kind} ${id}`);
    if (before === null && after) {
      const { id: _id, ...fields } = after;
      return { kind, id, op: 'add', fields };
    }
    if (after === null || before === null) return { kind, id, op: 'remove', version };
    return { kind, id, op: 'update', version, fields: changedFields(before, after) };
  }

  private acknowledge(applied: AppliedPatch): void {
    const deltas: Delta[] = [];
    for (const { kind, id, op, version, fields } of applied.changes) {
      const before = this.base[kind]?.[id] ?? null;
      if (op === 'remove') this.versions.delete(`${kind} ${id}`);
      else this.versions.set(`${kind} ${id}`, version);
      deltas.push({
        kind,
        id,
        before,
        after: op === 'remove' ? null : ({ ...before, ...fields, id } as AnyRecord),
      });
    }
    this.base = applyDeltas(this.base, deltas);
  }

  /**
   * Puts the first edit onto what a colleague made of the same records: fields that only one of both changed
   * are both kept; where both changed the same, theirs stays and the user is told.
   */
  private rebase(conflicts: readonly Conflict[]): void {
    const first = this.queue[0];
    const lost = new Set<string>();
    for (const { kind, id, current } of conflicts) {
      const key = `${kind} ${id}`;
      const theirs = current ? withoutVersion(current, id) : null;
      const known = this.base[kind]?.[id] ?? null;
      if (current) this.versions.set(key, current.version);
      else this.versions.delete(key);
      this.base = applyDeltas(this.base, [{ kind, id, before: known, after: theirs }]);
      for (const outgoing of this.queue)
        outgoing.deltas = outgoing.deltas.flatMap((delta): Delta[] => {
          if (delta.kind !== kind || delta.id !== id) return [delta];
          const merged = mergeDelta(delta, known, theirs);
          if (!merged.complete) lost.add(NAMES[kind] ?? kind);
          return merged.delta ? [merged.delta] : [];
        });
    }
    first.id = crypto.randomUUID();
    this.store();
    this.publish();
    this.callbacks.onNews(
      lost.size > 0
        ? `A colleague changed the same ${[...lost].join(' and ')} meanwhile. Theirs was kept; look at it and change it again if you need to.`
        : 'A colleague changed this meanwhile; your change was put on top of theirs.',
    );
  }

  private listen(): void {
    const events = new EventSource(`/api/documents/${this.kind}/${this.id}/events`);
    this.events = events;
    let lost = false;
    events.onopen = () => {
      if (lost) void this.refresh();
      lost = false;
    };
    events.onerror = () => {
      lost = true;
      if (events.readyState === EventSource.CLOSED && !this.closed)
        setTimeout(() => this.closed || this.listen(), RETRY_MS);
    };
    events.onmessage = ({ data }) => {
      const applied = JSON.parse(String(data)) as AppliedPatch;
      if (this.own.has(applied.patchId)) return;
      this.acknowledge(applied);
      this.publish();
    };
  }

  /** After an absence: the server's records anew, edits on their way on top. */
  private async refresh(): Promise<void> {
    try {
      const content = await request<DocumentContent>('GET', `/documents/${this.kind}/${this.id}`);
      if (this.sending) return;
      this.take(content);
      this.publish();
      await this.send();
    } catch {
      // The next attempt of the event stream comes by itself.
    }
  }
}

function withoutVersion(current: Record<string, unknown>, id: string): AnyRecord {
  const { version: _version, ...fields } = current;
  return { ...fields, id };
}

/** A delta on top of another's record; `complete` is false when something of it had to give way. */
export function mergeDelta(
  delta: Delta,
  known: AnyRecord | null,
  theirs: AnyRecord | null,
): { delta: Delta | null; complete: boolean } {
  const { kind, id, before, after } = delta;
  if (theirs === null) return { delta: null, complete: after === null };
  if (before === null) return { delta: null, complete: true };
  if (after === null) return { delta: null, complete: false };
  const theirChanges = known ? changedFields(known, theirs) : {};
  const mine = changedFields(before, after);
  const kept = Object.fromEntries(Object.entries(mine).filter(([name]) => !(name in theirChanges)));
  const complete = Object.entries(mine).every(
    ([name, value]) => name in kept || theirChanges[name] === value,
  );
  if (Object.keys(kept).length === 0) return { delta: null, complete };
  return { delta: { kind, id, before: theirs, after: { ...theirs, ...kept, id } }, complete };
}

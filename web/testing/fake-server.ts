import {
  RECORD_KINDS,
  type AppliedPatch,
  type ChangeShape,
  type DocumentKind,
  type PatchShape,
  type RecordKind,
  type StreamEvent,
} from '#api/index.ts';

type Row = Record<string, unknown> & { id: string; version: number };

/** An answer that a test wants in place of the real one. */
export interface Refusal {
  status: number;
  code: string;
  title: string;
}

const ME = { userId: 'me', author: 'Me' };
const COLLEAGUE = { userId: 'colleague', author: 'Tomas' };

/** A server in memory that keeps versions and revisions as the real one does, for tests of what the page does with its answers. */
export class FakeServer {
  readonly rows = new Map<string, Row>();
  readonly patches: PatchShape[] = [];
  readonly revisions: Record<DocumentKind, number> = { template: 0, cue: 0, shelf: 0, house: 0 };
  /** Requests that were made, as `GET /path`. */
  readonly requests: string[] = [];
  /** While true nothing answers. */
  away = false;
  /** Answers to coming patches, one after the other; undefined lets one through. */
  readonly refusals: (Refusal | undefined)[] = [];
  /** While set, answers to patches wait: they are applied, and the page is not told until `release`. */
  private held: (() => void)[] | undefined;
  /** Other addresses and what they answer. */
  readonly others = new Map<string, (body: unknown) => { status?: number; body?: unknown }>();
  private readonly known = new Map<string, AppliedPatch>();

  put(kind: RecordKind, row: Row): void {
    this.rows.set(`${kind} ${row.id}`, row);
  }

  get(kind: RecordKind, id: string): Row | undefined {
    return this.rows.get(`${kind} ${id}`);
  }

  /** A colleague's changes, applied as one patch. @returns what the stream would tell of it */
  colleague(...changes: ChangeShape[]): StreamEvent & { kind: 'patch' } {
    const document = RECORD_KINDS[changes[0].kind].document;
    const versioned = changes.map((change) => ({
      ...change,
      version: this.get(change.kind, change.id)?.version,
    }));
    const patch = this.applied(
      document,
      { id: crypto.randomUUID(), label: 'x', changes: versioned },
      COLLEAGUE,
    );
    return { kind: 'patch', documentId: document, revision: patch.revision, patch };
  }

  /** A colleague's update of one record. */
  update(kind: RecordKind, id: string, fields: Record<string, unknown>): StreamEvent & { kind: 'patch' } {
    return this.colleague({ kind, id, op: 'update', fields });
  }

  /** Applies patches from now on without answering. */
  hold(): void {
    this.held = [];
  }

  /** Answers what was held back. */
  release(): void {
    const held = this.held ?? [];
    this.held = undefined;
    for (const answer of held) answer();
  }

  /** What the stream would tell of the page's own patch. */
  echo(index: number): StreamEvent & { kind: 'patch' } {
    const patch = this.known.get(this.patches[index].id) as AppliedPatch;
    return { kind: 'patch', documentId: 'cue', revision: patch.revision, patch };
  }

  /** First event of a connection. */
  hello(): StreamEvent {
    return { kind: 'hello', revisions: { ...this.revisions }, here: [] };
  }

  /** Puts itself in the place of `fetch`. @returns a function that takes it away again */
  install(): () => void {
    const before = globalThis.fetch;
    globalThis.fetch = ((path: string, init?: RequestInit) => this.answer(path, init)) as typeof fetch;
    return () => void (globalThis.fetch = before);
  }

  private async answer(path: string, init: RequestInit = {}): Promise<Response> {
    this.requests.push(`${init.method ?? 'GET'} ${path.replace('/api', '')}`);
    if (this.away) throw new TypeError('away');
    const body = typeof init.body === 'string' ? (JSON.parse(init.body) as unknown) : init.body;
    const other = this.others.get(`${init.method ?? 'GET'} ${path.replace('/api', '').split('?')[0]}`);
    if (other) {
      const { status = 200, body: answer } = other(body);
      return status === 204 ? new Response(null, { status }) : this.json(status, answer);
    }
    const [, kind, , patches] = /^\/api\/documents\/(\w+)\/([\w-]+)(\/patches)?$/.exec(path) ?? [];
    if (!kind) return this.json(404, { title: 'There is no such address.', status: 404, code: 'not-found' });
    if (!patches) return this.json(200, this.content(kind as DocumentKind));
    return this.take(kind as DocumentKind, body as PatchShape);
  }

  private async take(document: DocumentKind, patch: PatchShape): Promise<Response> {
    const refusal = this.refusals.shift();
    if (refusal) return this.json(refusal.status, refusal);
    const known = this.known.get(patch.id);
    if (known) return this.json(200, known);
    const stale = patch.changes.filter(({ op, kind, id, version }) =>
      op === 'add' ? this.get(kind, id) !== undefined : this.get(kind, id)?.version !== version,
    );
    if (stale.length > 0) return this.json(409, { title: 'stale', status: 409, code: 'patch.stale' });
    this.patches.push(patch);
    const answer = this.json(200, this.applied(document, patch, ME));
    if (this.held) await new Promise<void>((resolve) => this.held?.push(resolve));
    // The connection may have been cut while the answer was on its way.
    if (this.away) throw new TypeError('away');
    return answer;
  }

  private applied(document: DocumentKind, patch: PatchShape, who: typeof ME): AppliedPatch {
    const changes = patch.changes.map(({ kind, id, op, fields, version = 0 }) => {
      const next = op === 'add' ? 1 : version + 1;
      if (op === 'remove') this.rows.delete(`${kind} ${id}`);
      else this.put(kind, { ...this.get(kind, id), ...fields, id, version: next });
      return { kind, id, op, version: next, ...(fields ? { fields } : {}) };
    });
    const applied = {
      patchId: patch.id,
      revision: ++this.revisions[document],
      ...who,
      label: patch.label,
      changes,
    };
    this.known.set(patch.id, applied);
    return applied;
  }

  private content(document: DocumentKind) {
    const records: Record<string, Row[]> = {};
    for (const [key, row] of this.rows) {
      const kind = key.split(' ')[0];
      if (RECORD_KINDS[kind as RecordKind].document === document) (records[kind] ??= []).push(row);
    }
    return { id: document, kind: document, revision: this.revisions[document], records };
  }

  private json(status: number, body: unknown): Response {
    return new Response(JSON.stringify(body ?? null), { status });
  }
}

import type { AppliedPatch, ChangeShape, PatchShape, RecordKind } from '#api/index.ts';

type Row = Record<string, unknown> & { id: string; version: number };

/** A server in memory that keeps versions as the real one does, for tests of what the page does with its answers. */
export class FakeServer {
  readonly rows = new Map<string, Row>();
  readonly patches: PatchShape[] = [];
  /** While true nothing answers. */
  away = false;
  /** Refuses the next patch with this sentence. */
  refuse: string | undefined;
  private readonly streams: { onmessage?: (event: { data: string }) => void; onopen?: () => void }[] = [];

  put(kind: RecordKind, row: Row): void {
    this.rows.set(`${kind} ${row.id}`, row);
  }

  get(kind: RecordKind, id: string): Row | undefined {
    return this.rows.get(`${kind} ${id}`);
  }

  /** A colleague's change, with or without telling the page. */
  colleague(kind: RecordKind, id: string, fields: Record<string, unknown>, tell: boolean): void {
    const row = this.get(kind, id);
    if (!row) return;
    this.put(kind, { ...row, ...fields, version: row.version + 1 });
    const applied: AppliedPatch = {
      patchId: crypto.randomUUID(),
      revision: 1,
      author: 'Tomas',
      label: 'x',
      changes: [{ kind, id, op: 'update', version: row.version + 1, fields }],
    };
    if (tell) for (const stream of this.streams) stream.onmessage?.({ data: JSON.stringify(applied) });
  }

  /** Puts itself in the place of `fetch` and `EventSource`. @returns a function that takes it away again */
  install(): () => void {
    const before = { fetch: globalThis.fetch, EventSource: globalThis.EventSource };
    const { streams } = this;
    globalThis.fetch = ((path: string, init?: RequestInit) => this.answer(path, init)) as typeof fetch;
    globalThis.EventSource = class {
      static readonly CLOSED = 2;
      readyState = 1;
      constructor() {
        streams.push(this as never);
      }
      close(): void {
        this.readyState = 2;
      }
    } as never;
    return () => Object.assign(globalThis, before);
  }

  private answer(path: string, init?: RequestInit): Promise<Response> {
    if (this.away) return Promise.reject(new TypeError('away'));
    if (!path.endsWith('/patches')) return Promise.resolve(this.json(200, this.content()));
    const patch = JSON.parse(String(init?.body)) as PatchShape;
    if (this.refuse) {
      const title = this.refuse;
      this.refuse = undefined;
      return Promise.resolve(this.json(422, { title, status: 422, code: 'patch.invalid' }));
    }
    const stale = patch.changes.filter(
      (change) => change.op !== 'add' && this.get(change.kind, change.id)?.version !== change.version,
    );
    if (stale.length > 0) {
      const conflicts = stale.map(({ kind, id }) => ({ kind, id, current: this.get(kind, id) ?? null }));
      return Promise.resolve(this.json(409, { title: 'stale', status: 409, code: 'patch.stale', conflicts }));
    }
    this.patches.push(patch);
    const changes = patch.changes.map((change) => this.apply(change));
    return Promise.resolve(
      this.json(200, {
        patchId: patch.id,
        revision: this.patches.length,
        author: 'me',
        label: patch.label,
        changes,
      } satisfies AppliedPatch),
    );
  }

  private apply({ kind, id, op, fields, version = 0 }: ChangeShape): AppliedPatch['changes'][number] {
    if (op === 'remove') this.rows.delete(`${kind} ${id}`);
    else this.put(kind, { ...this.get(kind, id), ...fields, id, version: op === 'add' ? 1 : version + 1 });
    return { kind, id, op, version: op === 'add' ? 1 : version + 1, fields };
  }

  private content() {
    const records: Record<string, Row[]> = {};
    for (const [key, row] of this.rows) (records[key.split(' ')[0]] ??= []).push(row);
    return { id: 'cue', kind: 'cue', revision: this.patches.length, records };
  }

  private json(status: number, body: unknown): Response {
    return new Response(JSON.stringify(body), { status });
  }
}

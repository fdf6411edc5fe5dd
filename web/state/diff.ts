import type { RecordKind } from '#api/index.ts';

/** Fields of a record with its id, as the page holds them. Frozen by convention: a change makes a new object. */
export type AnyRecord = Readonly<Record<string, unknown>> & { readonly id: string };

/** Records of a document by kind and id. */
export type Records = Readonly<Partial<Record<RecordKind, Readonly<Record<string, AnyRecord>>>>>;

/** One record before and after; null where it does not exist. */
export interface Delta {
  kind: RecordKind;
  id: string;
  before: AnyRecord | null;
  after: AnyRecord | null;
}

/** What an edit asks for. */
export type Edit =
  | { kind: RecordKind; id: string; op: 'add'; fields: Record<string, unknown> }
  | { kind: RecordKind; id: string; op: 'update'; fields: Record<string, unknown> }
  | { kind: RecordKind; id: string; op: 'remove' };

/** Deltas of edits against records; edits of records that are not there give none. */
export function deltasOf(records: Records, edits: readonly Edit[]): Delta[] {
  const pending = new Map<string, AnyRecord | null>();
  const deltas: Delta[] = [];
  for (const edit of edits) {
    const { kind, id } = edit;
    const key = `${kind} ${id}`;
    const before = pending.has(key) ? (pending.get(key) ?? null) : (records[kind]?.[id] ?? null);
    if (edit.op !== 'add' && before === null) continue;
    const after = edit.op === 'remove' ? null : { ...before, ...edit.fields, id };
    if (edit.op === 'update' && before && !differs(before, after as AnyRecord)) continue;
    pending.set(key, after);
    deltas.push({ kind, id, before, after });
  }
  return deltas;
}

/** The same deltas the other way round. */
export function inverse(deltas: readonly Delta[]): Delta[] {
  return deltas.map(({ kind, id, before, after }) => ({ kind, id, before: after, after: before })).reverse();
}

/** Records with deltas put in place. Allocates; untouched kinds stay the same objects. */
export function applyDeltas(records: Records, deltas: readonly Delta[]): Records {
  const next: Partial<Record<RecordKind, Record<string, AnyRecord>>> = {};
  for (const { kind, id, after } of deltas) {
    const table = (next[kind] ??= { ...records[kind] });
    if (after) table[id] = after;
    else delete table[id];
  }
  return { ...records, ...next };
}

/** One delta per record: the first before and the last after. */
export function squash(deltas: readonly Delta[]): Delta[] {
  const byKey = new Map<string, Delta>();
  for (const delta of deltas) {
    const key = `${delta.kind} ${delta.id}`;
    const known = byKey.get(key);
    byKey.set(key, known ? { ...known, after: delta.after } : delta);
  }
  return [...byKey.values()].filter(({ before, after }) =>
    before === null ? after !== null : after === null || differs(before, after),
  );
}

/** Fields of `after` that are not those of `before`. */
export function changedFields(before: AnyRecord, after: AnyRecord): Record<string, unknown> {
  const fields: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(after))
    if (name !== 'id' && name !== 'version' && before[name] !== value) fields[name] = value;
  return fields;
}

function differs(a: AnyRecord, b: AnyRecord): boolean {
  return Object.keys(changedFields(a, b)).length > 0;
}

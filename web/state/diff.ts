import { DEFAULTS, type RecordKind } from '#api/index.ts';

/** Fields of a record with its id, as the page holds them. Frozen by convention: a change makes a new object. */
export type AnyRecord = Readonly<Record<string, unknown>> & { readonly id: string };

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

/** Finds a record as it is now. */
export type Lookup = (kind: RecordKind, id: string) => AnyRecord | undefined;

/** Name of a record among all kinds. */
export const keyOf = ({ kind, id }: { kind: RecordKind; id: string }) => `${kind} ${id}`;

/** Deltas of edits against records; edits of records that are not there give none. */
export function deltasOf(now: Lookup, edits: readonly Edit[]): Delta[] {
  const pending = new Map<string, AnyRecord | null>();
  const deltas: Delta[] = [];
  for (const edit of edits) {
    const { kind, id } = edit;
    const key = keyOf(edit);
    const before = pending.has(key) ? (pending.get(key) ?? null) : (now(kind, id) ?? null);
    if (edit.op !== 'add' && before === null) continue;
    const after = edit.op === 'remove' ? null : { ...(before ?? DEFAULTS[kind]), ...edit.fields, id };
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

/** One delta per record: the first before and the last after. */
export function squash(deltas: readonly Delta[]): Delta[] {
  const byKey = new Map<string, Delta>();
  for (const delta of deltas) {
    const known = byKey.get(keyOf(delta));
    byKey.set(keyOf(delta), known ? { ...known, after: delta.after } : delta);
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

export function differs(a: AnyRecord, b: AnyRecord): boolean {
  return Object.keys(changedFields(a, b)).length > 0;
}

/**
 * A delta on top of what somebody else made of the record: fields that only one of both changed are both kept;
 * where both changed the same, theirs stays.
 * @param theirs the record as it stands now, null when it is gone
 * @returns the delta that is left, or null, and whether all of mine is in it
 */
export function mergeDelta(
  { kind, id, before, after }: Delta,
  theirs: AnyRecord | null,
): { delta: Delta | null; complete: boolean } {
  if (theirs === null)
    return before === null
      ? { delta: { kind, id, before, after }, complete: true }
      : { delta: null, complete: after === null };
  if (before === null)
    // Added by both: of such records there can be only one.
    return { delta: null, complete: after !== null && !differs(theirs, after) };
  const theirChanges = changedFields(before, theirs);
  if (after === null) {
    const same = Object.keys(theirChanges).length === 0;
    return { delta: same ? { kind, id, before: theirs, after } : null, complete: same };
  }
  const mine = changedFields(before, after);
  const kept = Object.fromEntries(Object.entries(mine).filter(([name]) => !(name in theirChanges)));
  const complete = Object.entries(mine).every(
    ([name, value]) => name in kept || theirChanges[name] === value,
  );
  if (Object.keys(kept).length === 0) return { delta: null, complete };
  return { delta: { kind, id, before: theirs, after: { ...theirs, ...kept, id } }, complete };
}

/** What taking a step back (or making it again) changes now. */
export interface Replay {
  deltas: Delta[];
  /** Records or fields that somebody else changed since and that therefore stay. */
  left: number;
}

/**
 * Deltas put on top of what stands now, as far as everything is still as `before` says: what somebody changed since
 * stays as they left it.
 * @param hasParents whether all that a record refers to is there
 * @param isHeld whether something else than what goes along refers to a record: what a colleague wrote into it, it stays for
 */
export function replayOf(
  wanted: readonly Delta[],
  now: Lookup,
  hasParents: (record: AnyRecord, kind: RecordKind) => boolean,
  isHeld: (kind: RecordKind, id: string, going: ReadonlySet<string>) => boolean = () => false,
): Replay {
  const deltas: Delta[] = [];
  let left = 0;
  const added = new Set(wanted.filter(({ before }) => before === null).map(({ id }) => id));
  const going = new Set(wanted.filter(({ after }) => after === null).map(({ id }) => id));
  for (const { kind, id, before, after } of squash(wanted)) {
    const present = now(kind, id) ?? null;
    if (before === null) {
      if (present === null && after && (hasParents(after, kind) || refersTo(after, added)))
        deltas.push({ kind, id, before: null, after });
      else left++;
    } else if (present === null) {
      // Gone already: nothing to remove, and nothing to change.
      if (after !== null) left++;
    } else if (after === null) {
      if (differs(present, before) || isHeld(kind, id, going)) left++;
      else deltas.push({ kind, id, before: present, after: null });
    } else {
      const fields = Object.entries(changedFields(before, after));
      const free = fields.filter(([name]) => present[name] === before[name]);
      left += free.length < fields.length ? 1 : 0;
      if (free.length > 0)
        deltas.push({ kind, id, before: present, after: { ...present, ...Object.fromEntries(free), id } });
    }
  }
  return { deltas, left };
}

function refersTo(record: AnyRecord, ids: ReadonlySet<string>): boolean {
  return Object.values(record).some(
    (value) => typeof value === 'string' && value !== record.id && ids.has(value),
  );
}

import { REFERENCES, type RecordKind } from '#api/index.ts';
import type { AnyRecord, Delta } from './diff.ts';

/** Records of a document by kind. */
export type Records = Readonly<Partial<Record<RecordKind, Table>>>;

/** Field that says what a record of a kind belongs to; kinds without one belong to the document. */
const OWNER_FIELD: Partial<Record<RecordKind, string>> = {
  ...Object.fromEntries(Object.entries(REFERENCES).map(([kind, fields]) => [kind, Object.keys(fields)[0]])),
  // Of a track of another document.
  levelPoint: 'trackId',
};
const EMPTY: readonly never[] = [];
/** Changes of one list beyond which it is sorted anew instead of being mended place by place. */
const MENDED = 64;

/** In the order of time, then of place and pitch; ids decide what is left, so that the order never depends on history. */
function compare(a: AnyRecord, b: AnyRecord): number {
  return (
    placeOf(a) - placeOf(b) ||
    ((a.key as number | undefined) ?? 0) - ((b.key as number | undefined) ?? 0) ||
    (a.id < b.id ? -1 : a.id > b.id ? 1 : 0)
  );
}

function placeOf(record: AnyRecord): number {
  return ((record.startTick ?? record.tick ?? record.place) as number | undefined) ?? 0;
}

/**
 * All records of one kind, with sorted lists by what they belong to. A change gives a new table in which only the
 * lists that were touched are other ones, so that views and plans of one part do not notice edits of another. Tables
 * that come from one another share their index by id: only the newest may be asked by id.
 */
export class Table {
  private all: readonly AnyRecord[] | undefined;

  private constructor(
    private readonly ownerField: string | undefined,
    private readonly byId: Map<string, AnyRecord>,
    private readonly lists: ReadonlyMap<string, readonly AnyRecord[]>,
  ) {}

  /** A table of records. O(n log n) */
  static of(kind: RecordKind, records: readonly AnyRecord[]): Table {
    const field = OWNER_FIELD[kind];
    const lists = new Map<string, AnyRecord[]>();
    const byId = new Map<string, AnyRecord>();
    for (const record of records) {
      byId.set(record.id, record);
      const owner = ownerOf(field, record);
      const list = lists.get(owner);
      if (list) list.push(record);
      else lists.set(owner, [record]);
    }
    for (const list of lists.values()) list.sort(compare);
    return new Table(field, byId, lists);
  }

  get size(): number {
    return this.byId.size;
  }

  get(id: string): AnyRecord | undefined {
    return this.byId.get(id);
  }

  /** Records that belong to something, in order; the same list as long as none of them changes. */
  ownedBy(owner: string): readonly AnyRecord[] {
    return this.lists.get(owner) ?? EMPTY;
  }

  /** All records; the same list as long as none changes. */
  list(): readonly AnyRecord[] {
    this.all ??= this.lists.size === 1 ? [...this.lists.values()][0] : [...this.lists.values()].flat();
    return this.all;
  }

  /** The table after changes. What a record was is taken from this table, not from the changes. */
  with(changes: readonly { id: string; after: AnyRecord | null }[]): Table {
    const out = new Map<string, AnyRecord[]>();
    const into = new Map<string, AnyRecord[]>();
    const note = (map: Map<string, AnyRecord[]>, record: AnyRecord) => {
      const owner = ownerOf(this.ownerField, record);
      const list = map.get(owner);
      if (list) list.push(record);
      else map.set(owner, [record]);
    };
    // The last word on a record counts; what it was before the first one has to leave its list.
    const last = new Map(changes.map(({ id, after }) => [id, after]));
    for (const [id, after] of last) {
      const before = this.byId.get(id);
      if (before) note(out, before);
      if (after) {
        note(into, after);
        this.byId.set(id, after);
      } else this.byId.delete(id);
    }
    const lists = new Map(this.lists);
    for (const owner of new Set([...out.keys(), ...into.keys()])) {
      const list = mended(this.ownedBy(owner), out.get(owner) ?? EMPTY, into.get(owner) ?? EMPTY);
      if (list.length > 0) lists.set(owner, list);
      else lists.delete(owner);
    }
    return new Table(this.ownerField, this.byId, lists);
  }
}

function ownerOf(field: string | undefined, record: AnyRecord): string {
  return field === undefined ? '' : String(record[field]);
}

/** A sorted list without some records and with others. */
function mended(
  list: readonly AnyRecord[],
  out: readonly AnyRecord[],
  into: readonly AnyRecord[],
): readonly AnyRecord[] {
  if (out.length + into.length > MENDED) {
    const gone = new Set(out);
    return [...list.filter((record) => !gone.has(record)), ...into].sort(compare);
  }
  const next = list.slice();
  for (const record of out) next.splice(indexIn(next, record), 1);
  for (const record of into) next.splice(indexIn(next, record), 0, record);
  return next;
}

/** Index of a record in a sorted list, or where it would stand. */
function indexIn(list: readonly AnyRecord[], record: AnyRecord): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (compare(list[middle], record) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Records with deltas put in place; tables of untouched kinds stay the same. */
export function applyDeltas(records: Records, deltas: readonly Delta[]): Records {
  const byKind = new Map<RecordKind, Delta[]>();
  for (const delta of deltas) {
    const list = byKind.get(delta.kind);
    if (list) list.push(delta);
    else byKind.set(delta.kind, [delta]);
  }
  const next: Partial<Record<RecordKind, Table>> = { ...records };
  for (const [kind, list] of byKind) next[kind] = (records[kind] ?? Table.of(kind, [])).with(list);
  return next;
}

/** A record by kind and id. */
export function recordOf(records: Records, kind: RecordKind, id: string): AnyRecord | undefined {
  return records[kind]?.get(id);
}

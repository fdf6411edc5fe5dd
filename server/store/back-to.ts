import { Op, type Transaction } from 'sequelize';
import { RECORD_KINDS, type ChangeShape, type DocumentKind, type RecordKind } from '#api/index.ts';
import { recordKey, type Current, type Done } from './change-rules.ts';
import type { Store } from './database.ts';
import { columnsOf, documentColumn } from './models.ts';
import { travelling } from './patching.ts';

/** A record as it was, or null where it did not exist. */
interface Target {
  kind: RecordKind;
  id: string;
  before: Record<string, unknown> | null;
}

/** What every record that was touched since was before: the oldest of the later changes knows it. */
export function targetsOf(later: readonly (readonly Done[])[]): Target[] {
  const targets = new Map<string, Target>();
  for (const changes of later)
    for (const { kind, id, before } of changes) {
      const key = recordKey(kind, id);
      if (!targets.has(key)) targets.set(key, { kind, id, before });
    }
  return [...targets.values()];
}

/** Changes that make present records what they were. Records that are so already give none. */
export function changesTo(targets: readonly Target[], current: ReadonlyMap<string, Current>): ChangeShape[] {
  return targets.flatMap(({ kind, id, before }): ChangeShape[] => {
    const now = current.get(recordKey(kind, id));
    // Columns that are no more since may still stand in old lines.
    const wanted = Object.fromEntries(
      columnsOf(kind).flatMap((name) => (before && name in before ? [[name, before[name]]] : [])),
    );
    if (!now) return before ? [{ kind, id, op: 'add', fields: wanted }] : [];
    if (!before) return [{ kind, id, op: 'remove', version: now.version }];
    const fields = Object.fromEntries(Object.entries(wanted).filter(([name, value]) => now[name] !== value));
    return Object.keys(fields).length > 0 ? [{ kind, id, op: 'update', version: now.version, fields }] : [];
  });
}

/** Changes that take a document back to what it was after a revision; to be called while it is locked. */
export async function backTo(
  store: Store,
  document: DocumentKind,
  documentId: string,
  revision: number,
  transaction: Transaction,
): Promise<ChangeShape[]> {
  const rows = (await store.models.history.findAll({
    where: { documentId, revision: { [Op.gt]: revision } },
    order: [['revision', 'ASC']],
    raw: true,
    transaction,
  })) as unknown as { changes: string }[];
  // Kinds that have moved into another document since may still stand in old lines.
  const isOwn = ({ kind }: Target) =>
    (RECORD_KINDS[kind] as { document: DocumentKind } | undefined)?.document === document;
  const targets = targetsOf(rows.map((row) => JSON.parse(row.changes) as Done[])).filter(isOwn);
  const current = new Map<string, Current>();
  for (const kind of new Set(targets.map((target) => target.kind))) {
    const where =
      RECORD_KINDS[kind].document === kind ? { id: documentId } : { [documentColumn(document)]: documentId };
    const list = await store.models.records[kind].findAll({ where, raw: true, transaction });
    for (const row of list as unknown as Record<string, unknown>[])
      current.set(recordKey(kind, String(row.id)), travelling(kind, row));
  }
  return changesTo(targets, current);
}

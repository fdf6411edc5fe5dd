import { plainToInstance } from 'class-transformer';
import { validateSync } from 'class-validator';
import { Op, type Transaction } from 'sequelize';
import {
  RECORD_KINDS,
  REFERENCES,
  type AppliedPatch,
  type ChangeShape,
  type Conflict,
  type DocumentContent,
  type DocumentKind,
  type HistoryEntry,
  type PatchShape,
  type RecordKind,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Store } from './database.ts';
import { columnsOf, documentColumn, isFlag, type Table } from './models.ts';

/** What was found out about a change: the record before and after it. */
interface Done {
  kind: RecordKind;
  id: string;
  op: ChangeShape['op'];
  version: number;
  before: Record<string, unknown> | null;
  fields?: Record<string, unknown>;
}

/** A patch made on versions that are no longer the newest. Nothing of it was applied. */
export class StalePatch extends FarloError {
  constructor(readonly conflicts: Conflict[]) {
    super('patch.stale', 'Someone else changed this meanwhile; nothing was overwritten.');
  }
}

const kindsOf = (document: DocumentKind) =>
  (Object.keys(RECORD_KINDS) as RecordKind[]).filter((kind) => RECORD_KINDS[kind].document === document);

/** Templates, cues and shelves: opened whole, changed by patches, with a history. */
export class Documents {
  constructor(private readonly store: Store) {}

  /** Studio a document belongs to, or undefined when there is none. */
  async studioOf(kind: DocumentKind, id: string): Promise<string | undefined> {
    const row = await this.store.models.records[kind].findByPk(id, { raw: true });
    return (row as unknown as { studioId: string } | null)?.studioId;
  }

  /** Everything in a document, in one consistent view. */
  async open(kind: DocumentKind, id: string): Promise<DocumentContent> {
    return this.store.sequelize.transaction(async (transaction) => {
      const head = (await this.store.models.records[kind].findByPk(id, {
        transaction,
        raw: true,
      })) as unknown as Record<string, unknown>;
      const records: DocumentContent['records'] = {};
      for (const recordKind of kindsOf(kind)) {
        const where = recordKind === kind ? { id } : { [documentColumn(kind)]: id };
        const rows = await this.table(recordKind).findAll({ where, raw: true, transaction });
        records[recordKind] = rows.map((row) =>
          travelling(recordKind, row as unknown as Record<string, unknown>),
        );
      }
      return { id, kind, revision: Number(head.revision), records };
    });
  }

  /**
   * Applies a patch in one transaction and writes it into the history. The same patch id again answers as before.
   * @throws StalePatch with the present state of what was changed meanwhile
   * @throws FarloError when a change makes no sense; nothing is applied
   */
  async apply(
    document: DocumentKind,
    documentId: string,
    userId: string,
    author: string,
    patch: PatchShape,
  ): Promise<AppliedPatch> {
    for (const change of patch.changes) validateChange(document, documentId, change);
    return this.store.sequelize.transaction(async (transaction) => {
      const { records, history } = this.store.models;
      // The document's row is the lock: patches of one document are applied one after the other.
      const head = await records[document].findByPk(documentId, {
        transaction,
        lock: transaction.LOCK.UPDATE,
      });
      if (!head) throw new FarloError('not-found', 'This document is gone.');
      const known = (await history.findOne({
        where: { patchId: patch.id },
        raw: true,
        transaction,
      })) as unknown as { changes: string; revision: number } | null;
      if (known) return answer(patch, author, known.revision, JSON.parse(known.changes) as Done[]);
      const current = await this.currentOf(document, documentId, patch.changes, transaction);
      const conflicts = patch.changes
        .filter((change) => isStale(change, current))
        .map((change) => conflictOf(change, current));
      if (conflicts.length > 0) throw new StalePatch(conflicts);
      await this.checkReferences(document, documentId, patch.changes, transaction);
      const done = await this.write(document, documentId, patch.changes, current, transaction);
      if (document === 'template') await this.checkKeymaps(patch.changes, current, transaction);
      const revision = Number(head.get('revision')) + 1;
      await records[document].update({ revision }, { where: { id: documentId }, transaction });
      await history.create(
        {
          documentId,
          revision,
          patchId: patch.id,
          userId,
          label: patch.label,
          time: new Date(),
          changes: JSON.stringify(done),
        },
        { transaction },
      );
      return answer(patch, author, revision, done);
    });
  }

  /** Latest entries of a document's history, newest first. */
  async history(
    documentId: string,
    names: (ids: readonly string[]) => Promise<Map<string, string>>,
  ): Promise<HistoryEntry[]> {
    const rows = (await this.store.models.history.findAll({
      where: { documentId },
      order: [['revision', 'DESC']],
      limit: 200,
      raw: true,
    })) as unknown as { revision: number; userId: string; time: Date; label: string; changes: string }[];
    const people = await names(rows.map((row) => row.userId));
    return rows.map((row) => ({
      revision: row.revision,
      author: people.get(row.userId) ?? 'someone who left',
      time: new Date(row.time).toISOString(),
      label: row.label,
      count: (JSON.parse(row.changes) as unknown[]).length,
    }));
  }

  private table(kind: RecordKind): Table {
    return this.store.models.records[kind];
  }

  private async currentOf(
    document: DocumentKind,
    documentId: string,
    changes: readonly ChangeShape[],
    transaction: Transaction,
  ): Promise<Map<string, Record<string, unknown>>> {
    const current = new Map<string, Record<string, unknown>>();
    for (const [kind, list] of byKind(changes)) {
      const column = kind === document ? 'id' : documentColumn(document);
      for (const ids of slices(
        list.map((change) => change.id),
        2000,
      )) {
        const rows = await this.table(kind).findAll({
          where: { id: ids, [Op.and]: { [column]: documentId } },
          raw: true,
          transaction,
        });
        for (const row of rows as unknown as Record<string, unknown>[])
          current.set(`${kind} ${String(row.id)}`, travelling(kind, row));
      }
    }
    return current;
  }

  private async write(
    document: DocumentKind,
    documentId: string,
    changes: readonly ChangeShape[],
    current: ReadonlyMap<string, Record<string, unknown>>,
    transaction: Transaction,
  ): Promise<Done[]> {
    const done: Done[] = [];
    const added = new Map<RecordKind, Record<string, unknown>[]>();
    const removed = new Map<RecordKind, string[]>();
    for (const change of changes) {
      const { kind, id, op } = change;
      const before = current.get(`${kind} ${id}`) ?? null;
      const version = op === 'add' ? 1 : (change.version ?? 0) + 1;
      if (op === 'add')
        added.set(kind, [
          ...(added.get(kind) ?? []),
          { ...change.fields, id, version, [documentColumn(document)]: documentId },
        ]);
      else if (op === 'remove') removed.set(kind, [...(removed.get(kind) ?? []), id]);
      else await this.table(kind).update({ ...change.fields, version }, { where: { id }, transaction });
      done.push({ kind, id, op, version, before, fields: change.fields });
    }
    for (const [kind, ids] of removed)
      for (const slice of slices(ids, 2000))
        await this.table(kind).destroy({ where: { id: slice }, transaction });
    // Parents first, so that children added in the same patch find them.
    for (const kind of kindsOf(document))
      for (const slice of slices(added.get(kind) ?? [], 2000))
        await this.table(kind).bulkCreate(slice, { transaction });
    return done;
  }

  /** What is referred to must be in the same document or added to it now: a foreign key alone would accept another studio's. */
  private async checkReferences(
    document: DocumentKind,
    documentId: string,
    changes: readonly ChangeShape[],
    transaction: Transaction,
  ): Promise<void> {
    const added = new Set(
      changes.filter((change) => change.op === 'add').map((change) => `${change.kind} ${change.id}`),
    );
    const wanted = new Map<RecordKind, Set<string>>();
    for (const change of changes)
      for (const [field, kind] of Object.entries(REFERENCES[change.kind] ?? {})) {
        const id = change.fields?.[field];
        if (typeof id === 'string' && !added.has(`${kind} ${id}`))
          wanted.set(kind, (wanted.get(kind) ?? new Set()).add(id));
      }
    for (const [kind, ids] of wanted)
      for (const slice of slices([...ids], 2000)) {
        const count = await this.table(kind).count({
          where: { id: slice, [documentColumn(document)]: documentId },
          transaction,
        });
        if (count !== slice.length)
          throw new FarloError('patch.invalid', `A change refers to a ${kind} that is not in this document.`);
      }
  }

  /** No two triggers of one track on one key, whoever wrote them. */
  private async checkKeymaps(
    changes: readonly ChangeShape[],
    current: ReadonlyMap<string, Record<string, unknown>>,
    transaction: Transaction,
  ): Promise<void> {
    const tracks = new Set<string>();
    for (const change of changes)
      if (change.kind === 'trigger' && change.op !== 'remove') {
        const trackId = change.fields?.trackId ?? current.get(`trigger ${change.id}`)?.trackId;
        if (typeof trackId === 'string') tracks.add(trackId);
      }
    if (tracks.size === 0) return;
    const rows = (await this.table('trigger').findAll({
      where: { trackId: [...tracks] },
      raw: true,
      transaction,
    })) as unknown as { trackId: string; key: number }[];
    const seen = new Set<string>();
    for (const row of rows) {
      const slot = `${row.trackId} ${row.key}`;
      if (seen.has(slot))
        throw new FarloError(
          'keymap.clash',
          `Key ${row.key} already selects another articulation of this track.`,
        );
      seen.add(slot);
    }
  }
}

function byKind(changes: readonly ChangeShape[]): Map<RecordKind, ChangeShape[]> {
  const map = new Map<RecordKind, ChangeShape[]>();
  for (const change of changes) {
    const list = map.get(change.kind);
    if (list) list.push(change);
    else map.set(change.kind, [change]);
  }
  return map;
}

function slices<T>(list: readonly T[], size: number): T[][] {
  return Array.from({ length: Math.ceil(list.length / size) }, (_, i) =>
    list.slice(i * size, (i + 1) * size),
  );
}

/** Fields of a row as they travel: id, version and the kind's own columns; flags as booleans. */
function travelling(
  kind: RecordKind,
  row: Record<string, unknown>,
): Record<string, unknown> & { id: string; version: number } {
  const out: Record<string, unknown> = {};
  for (const column of columnsOf(kind)) {
    const value = row[column];
    out[column] = isFlag(column) ? Boolean(value) : value;
  }
  return { ...out, id: String(row.id), version: Number(row.version) };
}

function isStale(change: ChangeShape, current: ReadonlyMap<string, Record<string, unknown>>): boolean {
  const now = current.get(`${change.kind} ${change.id}`);
  return change.op === 'add' ? now !== undefined : now?.version !== change.version;
}

function conflictOf(change: ChangeShape, current: ReadonlyMap<string, Record<string, unknown>>): Conflict {
  const now = current.get(`${change.kind} ${change.id}`);
  return { kind: change.kind, id: change.id, current: (now as Conflict['current']) ?? null };
}

/** Shape of the fields, and that the kind may be added or removed at all. @throws FarloError */
function validateChange(document: DocumentKind, documentId: string, change: ChangeShape): void {
  const fail = (sentence: string): never => {
    throw new FarloError('patch.invalid', sentence, { record: `${change.kind} ${change.id}` });
  };
  const entry = RECORD_KINDS[change.kind];
  if (entry.document !== document) fail(`A ${change.kind} does not belong to a ${document}.`);
  if (change.kind === document && (change.op !== 'update' || change.id !== documentId))
    fail(`A ${document} is neither added nor removed by a patch.`);
  if (change.op !== 'add' && change.version === undefined) fail('The version that was changed is missing.');
  if (change.op === 'remove') return;
  const fields = change.fields ?? {};
  const instance = plainToInstance(entry.shape as new () => object, fields);
  const errors = validateSync(instance, {
    whitelist: true,
    forbidNonWhitelisted: true,
    skipMissingProperties: change.op === 'update',
  });
  if (errors.length > 0)
    fail(Object.values(errors[0].constraints ?? { shape: `${errors[0].property} is not allowed` })[0]);
  if (change.op === 'update' && Object.keys(fields).length === 0) fail('An update without fields.');
  const { startTick, endTick } = fields as { startTick?: number; endTick?: number };
  if (startTick !== undefined && endTick !== undefined && endTick <= startTick)
    fail('It ends before it starts.');
}

function answer(patch: PatchShape, author: string, revision: number, done: readonly Done[]): AppliedPatch {
  return {
    patchId: patch.id,
    revision,
    author,
    label: patch.label,
    changes: done.map(({ kind, id, op, version, fields }) => ({
      kind,
      id,
      op,
      version,
      ...(fields ? { fields } : {}),
    })),
  };
}

import { Op, QueryTypes, UniqueConstraintError, type Transaction } from 'sequelize';
import {
  RECORD_KINDS,
  REFERENCES,
  UNIQUE,
  type AppliedPatch,
  type ChangeShape,
  type Conflict,
  type DocumentKind,
  type RecordKind,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import {
  checkChanges,
  checkRecords,
  childrenOf,
  completed,
  conflictOf,
  isStale,
  recordKey,
  type Current,
  type CurrentRecords,
  type Done,
} from './change-rules.ts';
import { InTurn } from './in-turn.ts';
import { checkKeymaps } from './keymap-rules.ts';
import type { Store } from './database.ts';
import { columnsOf, documentColumn, isFlag, type Table } from './models.ts';

/** Whose patch it is and what document it changes. */
export interface PatchContext {
  document: DocumentKind;
  documentId: string;
  userId: string;
  author: string;
}

/** A patch to be applied; unlike what travels it may be of any size. */
export interface Patch {
  id: string;
  label: string;
  changes: readonly ChangeShape[];
}

/** A patch made on versions that are no longer the newest. Nothing of it was applied. */
export class StalePatch extends FarloError {
  constructor(readonly conflicts: Conflict[]) {
    super('patch.stale', 'Someone else changed this meanwhile; nothing was overwritten.');
  }
}

const ROWS_AT_ONCE = 1000;

/** Kinds of records in a document, parents before their children. */
export const kindsOf = (document: DocumentKind) =>
  (Object.keys(RECORD_KINDS) as RecordKind[]).filter((kind) => RECORD_KINDS[kind].document === document);

/** Patches that wait for their document wait here: waiting at its row would hold connections that others need. */
const documentTurns = new InTurn();

/**
 * Applies a patch in a transaction and writes it into the history. The same patch id again, of the same person to
 * the same document, answers as before.
 * @param changesOf makes the changes once the document is locked
 * @throws StalePatch with the present state of what was changed meanwhile
 * @throws FarloError when a change makes no sense; nothing is applied
 */
export async function applyPatch(
  store: Store,
  context: PatchContext,
  patch: Patch,
  changesOf?: (transaction: Transaction) => Promise<ChangeShape[]>,
): Promise<AppliedPatch> {
  const { document, documentId, userId, author } = context;
  if (!changesOf) checkChanges(document, documentId, patch.changes);
  const answer = (revision: number, label: string, done: readonly Done[]): AppliedPatch => ({
    patchId: patch.id,
    revision,
    userId,
    author,
    label,
    changes: done.map(({ before: _before, ...change }) => change),
  });
  const apply = async (transaction: Transaction) => {
    const next = nextRevision(store, document, documentId, transaction);
    const changes = changesOf ? await next.then(() => changesOf(transaction)) : patch.changes;
    const work = new PatchWork(store, document, documentId, changes, transaction);
    // The connection keeps the order of what is asked of it: this waits for the lock without a journey of its own.
    const [revision, current] = await Promise.all([next, work.current()]);
    const done = await work.check(current);
    await Promise.all([
      work.write(done),
      store.models.history.create(
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
      ),
    ]);
    if (document === 'house') await checkKeymaps(store, done, transaction);
    return answer(revision, patch.label, done);
  };
  try {
    return await documentTurns.run(`${document} ${documentId}`, () => store.sequelize.transaction(apply));
  } catch (error) {
    // A patch that was applied before cannot be again: its versions are old, or the key of the history refuses it.
    const known = (await store.models.history.findOne({
      where: { patchId: patch.id, documentId, userId },
      raw: true,
    })) as unknown as { changes: string; revision: number; label: string } | null;
    if (known) return answer(known.revision, known.label, JSON.parse(known.changes) as Done[]);
    throw error;
  }
}

/**
 * Counts a document's revision up. Its row is the lock: whoever else would change the document waits.
 * @throws FarloError when the document is gone
 */
async function nextRevision(
  store: Store,
  document: DocumentKind,
  documentId: string,
  transaction: Transaction,
): Promise<number> {
  const table = store.models.records[document].getTableName() as string;
  // Counting, locking and reading in one question: the answer carries the new number as an inserted id.
  const [revision, rows] = await store.sequelize.query(
    `UPDATE ${table} SET revision = LAST_INSERT_ID(revision + 1) WHERE id = ?`,
    { type: QueryTypes.INSERT, replacements: [documentId], transaction },
  );
  if (rows === 0) throw new FarloError('not-found', 'This document is gone.');
  return Number(revision);
}

/** One patch on its way into the tables, inside a transaction that holds the document's lock. */
class PatchWork {
  private readonly changes: readonly ChangeShape[];

  constructor(
    private readonly store: Store,
    private readonly document: DocumentKind,
    private readonly documentId: string,
    changes: readonly ChangeShape[],
    private readonly transaction: Transaction,
  ) {
    this.changes = changes.map(completed);
  }

  /**
   * Looks whether all changes can be made to what is there.
   * @returns the changes as the history keeps them
   * @throws StalePatch, FarloError
   */
  async check(current: CurrentRecords): Promise<Done[]> {
    const stale = this.changes.filter((change) => isStale(change, current));
    if (stale.length > 0) throw new StalePatch(stale.map((change) => conflictOf(change, current)));
    checkRecords(this.changes, current);
    await this.checkReferences();
    await this.checkRemovals();
    return this.changes.map(({ kind, id, op, version, fields }): Done => ({
      kind,
      id,
      op,
      version: op === 'add' ? 1 : (version ?? 0) + 1,
      before: current.get(recordKey(kind, id)) ?? null,
      ...(fields ? { fields } : {}),
    }));
  }

  /** Writes checked changes. @throws FarloError when the database finds one twice */
  async write(done: readonly Done[]): Promise<void> {
    try {
      await this.writeAll(done);
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw asConflict(error);
      throw error;
    }
  }

  private table(kind: RecordKind): Table {
    return this.store.models.records[kind];
  }

  /** Records that the changes name, as they are now. */
  async current(): Promise<Map<string, Current>> {
    const current = new Map<string, Current>();
    for (const [kind, list] of byKind(this.changes)) {
      const column = kind === this.document ? 'id' : documentColumn(this.document);
      for (const changes of slices(list, ROWS_AT_ONCE)) {
        const rows = await this.table(kind).findAll({
          where: { id: changes.map((change) => change.id), [Op.and]: { [column]: this.documentId } },
          raw: true,
          transaction: this.transaction,
        });
        for (const row of rows as unknown as Record<string, unknown>[])
          current.set(recordKey(kind, String(row.id)), travelling(kind, row));
      }
    }
    return current;
  }

  /** What is referred to must be in the same document or added to it now: a foreign key alone would accept another studio's. */
  private async checkReferences(): Promise<void> {
    const added = new Set(
      this.changes.filter(({ op }) => op === 'add').map(({ kind, id }) => recordKey(kind, id)),
    );
    const wanted = new Map<RecordKind, Set<string>>();
    for (const change of this.changes)
      for (const [field, kind] of Object.entries(REFERENCES[change.kind] ?? {})) {
        const id = change.fields?.[field];
        if (typeof id !== 'string' || added.has(recordKey(kind, id))) continue;
        const ids = wanted.get(kind) ?? new Set();
        wanted.set(kind, ids.add(id));
      }
    for (const [kind, ids] of wanted)
      for (const slice of slices([...ids], ROWS_AT_ONCE)) {
        const count = await this.table(kind).count({
          where: { id: slice, [documentColumn(this.document)]: this.documentId },
          transaction: this.transaction,
        });
        if (count !== slice.length)
          throw new FarloError('patch.invalid', `A change refers to a ${kind} that is not in this document.`);
      }
  }

  /** Nothing may go while something else still belongs to it: the database would take a colleague's work along unseen. */
  private async checkRemovals(): Promise<void> {
    const removed = byKind(this.changes.filter(({ op }) => op === 'remove'));
    for (const [kind, changes] of removed)
      for (const child of childrenOf(kind)) {
        const going = new Set(removed.get(child.kind)?.map(({ id }) => id));
        for (const slice of slices(changes, ROWS_AT_ONCE)) {
          const rows = (await this.table(child.kind).findAll({
            where: { [child.field]: slice.map(({ id }) => id) },
            raw: true,
            transaction: this.transaction,
          })) as unknown as Record<string, unknown>[];
          const left = rows.filter((row) => !going.has(String(row.id)));
          if (left.length > 0)
            throw new FarloError(
              'patch.in-use',
              `The ${kind} is not empty any more: ${left.length === 1 ? `a ${child.kind} was` : `${left.length} of ${child.kind} were`} added to it meanwhile.`,
              { record: recordKey(kind, String(left[0][child.field])) },
            );
        }
      }
  }

  private async writeAll(done: readonly Done[]): Promise<void> {
    const { transaction } = this;
    const kinds = kindsOf(this.document);
    const moved = done.filter(isMoved);
    const each = async (
      list: readonly Done[],
      run: (table: Table, slice: readonly Done[]) => Promise<unknown>,
    ) => {
      for (const kind of kinds)
        for (const slice of slices(
          list.filter((one) => one.kind === kind),
          ROWS_AT_ONCE,
        ))
          await run(this.table(kind), slice);
    };
    const remove = (table: Table, slice: readonly Done[]) =>
      table.destroy({ where: { id: slice.map(({ id }) => id) }, transaction });
    const add = (table: Table, slice: readonly Done[]) =>
      table.bulkCreate(
        slice.map((one) => this.rowOf(one)),
        { transaction },
      );
    // Children go first and come last. What moves within a unique key goes and comes again, so that two may swap.
    kinds.reverse();
    await each([...done.filter(({ op }) => op === 'remove'), ...moved], remove);
    kinds.reverse();
    const updates = done.filter((one) => one.op === 'update' && !moved.includes(one));
    const free = updates.filter(({ kind }) => kind !== this.document && !UNIQUE[kind]);
    await each(free, (table, slice) =>
      table.bulkCreate(
        slice.map((one) => this.rowOf(one)),
        { transaction, updateOnDuplicate: [...columnsOf(slice[0].kind), 'version'] },
      ),
    );
    for (const one of updates)
      if (one.kind === this.document || UNIQUE[one.kind])
        await this.table(one.kind).update(
          { ...one.fields, version: one.version },
          { where: { id: one.id }, transaction },
        );
    await each([...moved, ...done.filter(({ op }) => op === 'add')], add);
  }

  private rowOf({ before, fields, id, version }: Done): Record<string, unknown> {
    return { ...before, ...fields, id, version, [documentColumn(this.document)]: this.documentId };
  }
}

/** True for an update of what makes a record unique, of kinds that nothing belongs to. */
function isMoved({ kind, op, fields }: Done): boolean {
  return (
    op === 'update' &&
    childrenOf(kind).length === 0 &&
    (UNIQUE[kind] ?? []).some((field) => fields && field in fields)
  );
}

/** What can only be there once is there already, under another id. */
function asConflict(error: UniqueConstraintError): FarloError {
  const kind = kindOfKey(String((error.parent as Error | undefined)?.message ?? error.message));
  if (kind === 'entry')
    return new FarloError('patch.twice', 'The keymap has an entry for this articulation already.');
  return new FarloError(
    'patch.twice',
    `There can be only one ${kind ?? 'record'} in this place, and there is one already.`,
  );
}

/** Kind whose unique key a database error speaks of: keys are named `unique_<kind>`. */
function kindOfKey(message: string): RecordKind | undefined {
  const name = /unique_(\w+)/.exec(message)?.[1];
  return (Object.keys(RECORD_KINDS) as RecordKind[]).find((kind) => kind === name);
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
export function travelling(kind: RecordKind, row: Record<string, unknown>): Current {
  const out: Record<string, unknown> = {};
  for (const column of columnsOf(kind)) {
    const value = row[column];
    out[column] = isFlag(column) ? Boolean(value) : value;
  }
  return { ...out, id: String(row.id), version: Number(row.version) };
}

import { randomUUID } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import {
  PLAIN_TEMPLATE,
  DOCUMENT_KINDS,
  REFERENCES,
  type AppliedPatch,
  type DocumentContent,
  type DocumentKind,
  type HistoryEntry,
  type PatchShape,
  type RecordFields,
  type RecordKind,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { backTo } from './back-to.ts';
import type { Store } from './database.ts';
import { documentColumn } from './models.ts';
import { applyPatch, kindsOf, travelling, type PatchContext } from './patching.ts';

const LINES_OF_HISTORY = 100;
const ROWS_AT_ONCE = 1000;

type Row = Record<string, unknown> & { id: string };

/** Templates, cues and shelves: opened whole, changed by patches, with a history. */
export class Documents {
  constructor(private readonly store: Store) {}

  /** Studio a document belongs to, or undefined when there is none. */
  async studioOf(kind: DocumentKind, id: string): Promise<string | undefined> {
    const row = await this.store.models.records[kind].findByPk(id, { raw: true });
    return (row as unknown as { studioId: string } | null)?.studioId;
  }

  /** Revision of every document of a studio, by document id. */
  async revisions(studioId: string): Promise<Record<string, number>> {
    const out: Record<string, number> = {};
    for (const kind of DOCUMENT_KINDS)
      for (const row of await this.heads(kind, studioId)) out[row.id] = Number(row.revision);
    return out;
  }

  /** Heads of a studio's documents of a kind, by name. */
  async heads(
    kind: DocumentKind,
    studioId: string,
  ): Promise<(Row & { name: string; templateId?: string })[]> {
    const rows = await this.store.models.records[kind].findAll({
      where: { studioId },
      order: [
        ['name', 'ASC'],
        ['id', 'ASC'],
      ],
      raw: true,
    });
    return rows as unknown as (Row & { name: string; templateId?: string })[];
  }

  /** Everything in a document, in one consistent view. @throws FarloError when it is gone */
  async open(kind: DocumentKind, id: string): Promise<DocumentContent> {
    return this.store.sequelize.transaction(async (transaction) => {
      const head = await this.head(kind, id, transaction);
      const records: DocumentContent['records'] = {};
      for (const recordKind of kindsOf(kind)) {
        const rows = await this.rows(kind, id, recordKind, transaction);
        records[recordKind] = rows.map((row) => travelling(recordKind, row));
      }
      return { id, kind, revision: Number(head.revision), records };
    });
  }

  /** Applies a patch; see `applyPatch`. */
  apply(
    document: DocumentKind,
    documentId: string,
    userId: string,
    author: string,
    patch: PatchShape,
  ): Promise<AppliedPatch> {
    return applyPatch(this.store, { document, documentId, userId, author }, patch);
  }

  /**
   * Makes the document again what it was after a revision, as one more patch.
   * @throws FarloError when the revision is not in its history
   */
  async back(context: PatchContext, revision: number): Promise<AppliedPatch> {
    const { documentId } = context;
    const where = { documentId, revision };
    const line = (await this.store.models.history.findOne({ where, raw: true })) as unknown as {
      label: string;
    } | null;
    if (!line && revision !== 0) throw new FarloError('not-found', 'The history has no such line.');
    const label = line ? `Back to “${line.label}”` : 'Back to the beginning';
    return applyPatch(
      this.store,
      context,
      { id: randomUUID(), label: label.slice(0, 200), changes: [] },
      (transaction) => backTo(this.store, context.document, documentId, revision, transaction),
    );
  }

  /** Makes an empty template of a studio. @returns its id */
  async newTemplate(studioId: string, name: string): Promise<string> {
    const id = randomUUID();
    const fields: RecordFields<'template'> = { ...PLAIN_TEMPLATE, name };
    await this.store.models.records.template.create({ ...fields, id, studioId, revision: 0, version: 1 });
    return id;
  }

  /** Makes an empty cue over a template. @returns its id */
  async newCue(studioId: string, name: string, templateId: string): Promise<string> {
    const id = randomUUID();
    const fields: RecordFields<'cue'> = { name, endTick: TICKS_OF_16_BARS, loopStartTick: 0, loopEndTick: 0 };
    await this.store.models.records.cue.create({
      ...fields,
      id,
      studioId,
      templateId,
      revision: 0,
      version: 1,
    });
    return id;
  }

  /** Copies a document with everything in it under another name; the copy has a history of its own. @returns its id */
  async copy(kind: DocumentKind, id: string, name: string): Promise<string> {
    return this.store.sequelize.transaction(async (transaction) => {
      const head = await this.head(kind, id, transaction);
      const copyId = randomUUID();
      const ids = new Map<unknown, string>([[id, copyId]]);
      await this.store.models.records[kind].create(
        { ...head, id: copyId, name, revision: 0, version: 1 },
        { transaction },
      );
      for (const recordKind of kindsOf(kind)) {
        if (recordKind === kind) continue;
        const references = Object.keys(REFERENCES[recordKind] ?? {});
        const rows = await this.rows(kind, id, recordKind, transaction);
        const copies = rows.map((row) => {
          const own = randomUUID();
          ids.set(row.id, own);
          const pointing = Object.fromEntries(references.map((field) => [field, ids.get(row[field])]));
          return { ...row, ...pointing, id: own, version: 1, [documentColumn(kind)]: copyId };
        });
        for (let i = 0; i < copies.length; i += ROWS_AT_ONCE)
          await this.store.models.records[recordKind].bulkCreate(copies.slice(i, i + ROWS_AT_ONCE), {
            transaction,
          });
      }
      return copyId;
    });
  }

  /** Removes a document with its history. @throws FarloError while cues are made over a template */
  async remove(kind: DocumentKind, id: string): Promise<void> {
    await this.store.sequelize.transaction(async (transaction) => {
      const { records, history } = this.store.models;
      if (kind === 'template') {
        const cues = (await records.cue.findAll({
          where: { templateId: id },
          raw: true,
          transaction,
        })) as unknown as { name: string }[];
        if (cues.length > 0)
          throw new FarloError(
            'document.in-use',
            `${cues.length === 1 ? 'A cue is' : `${cues.length} cues are`} made in this template: ${cues.map((cue) => cue.name).join(', ')}. Delete ${cues.length === 1 ? 'it' : 'them'} first.`,
          );
      }
      await history.destroy({ where: { documentId: id }, transaction });
      await records[kind].destroy({ where: { id }, transaction });
    });
  }

  /** Entries of a document's history, newest first. @param before only those older than this revision */
  async history(
    documentId: string,
    names: (ids: readonly string[]) => Promise<Map<string, string>>,
    before = Number.MAX_SAFE_INTEGER,
  ): Promise<HistoryEntry[]> {
    const rows = (await this.store.models.history.findAll({
      where: { documentId, revision: { [Op.lt]: before } },
      order: [['revision', 'DESC']],
      limit: LINES_OF_HISTORY,
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

  private async head(kind: DocumentKind, id: string, transaction: Transaction): Promise<Row> {
    const head = await this.store.models.records[kind].findByPk(id, { transaction, raw: true });
    if (!head) throw new FarloError('not-found', 'This document is gone.');
    return head as unknown as Row;
  }

  private async rows(
    kind: DocumentKind,
    id: string,
    recordKind: RecordKind,
    transaction: Transaction,
  ): Promise<Row[]> {
    const where = recordKind === kind ? { id } : { [documentColumn(kind)]: id };
    return (await this.store.models.records[recordKind].findAll({
      where,
      raw: true,
      transaction,
    })) as unknown as Row[];
  }
}

const TICKS_OF_16_BARS = 16 * 4 * 960;

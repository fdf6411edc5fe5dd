import { randomUUID } from 'node:crypto';
import type { WrittenPack } from '../samples/pack-writer.ts';
import { Op, type Transaction } from 'sequelize';
import type { ImportReport, InstrumentSummary, LibrarySummary } from '#api/index.ts';
import {
  NO_FACTS,
  samplesOf,
  type Articulation,
  type Instrument,
  type LibraryFacts,
  type PackInfo,
  type Position,
  type SampleInfo,
} from '#core/catalogue/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Store } from './database.ts';
import { summaryOf } from './summary.ts';

/** An instrument as an import hands it over; an id may be wished for. */
export type NewInstrument = Omit<Instrument, 'id'> & {
  id?: string;
  tags?: readonly string[];
  /** What it was recorded by, to know whether it must be recorded anew. */
  recipe?: string;
};

/** What is said of a library as a whole. */
export interface LibraryHead {
  name: string;
  maker: string;
  room: string;
  /** Recipe or origin. */
  recipe: string;
  facts: LibraryFacts;
  report: ImportReport;
}

/** A library as an import hands it over: instruments complete, packs already on disk. */
export interface NewLibrary extends LibraryHead {
  instruments: NewInstrument[];
  packsWritten: WrittenPack[];
}

interface Row {
  [column: string]: unknown;
}

export const NO_REPORT: ImportReport = {
  instruments: 0,
  zones: 0,
  recordings: 0,
  bytes: 0,
  converted: [],
  unsupported: [],
  failed: [],
};

/** Libraries, instruments, articulations, packs and samples. */
export class Catalogue {
  constructor(private readonly store: Store) {}

  /**
   * Writes a library in one transaction. One that replaces another of its name takes over its ids, instrument by instrument of
   * the same name, so that tracks keep playing.
   * @returns the library's id
   * @throws FarloError when one of its name stands on the shelf and it does not replace it
   */
  async save(studioId: string, library: NewLibrary, replaces = false): Promise<string> {
    const { models, sequelize } = this.store;
    return sequelize.transaction(async (transaction) => {
      await this.lockShelf(studioId, transaction);
      if (!replaces) await this.requireFree(studioId, library.name, transaction);
      const old = await this.libraryRow(studioId, library.name, transaction);
      const id = old ? String(old.id) : randomUUID();
      const oldIds = new Map<string, string>();
      if (old) {
        for (const row of await this.instrumentRows(id, transaction))
          oldIds.set(String(row.name), String(row.id));
      }
      await this.keepingReports([...oldIds.values()], transaction, async () => {
        if (old) await models.libraries.destroy({ where: { id }, transaction });
        await this.createLibrary(id, studioId, library, transaction);
        for (const instrument of library.instruments)
          await this.saveInstrument(
            id,
            oldIds.get(instrument.name) ?? instrument.id ?? randomUUID(),
            instrument,
            transaction,
          );
      });
      this.packOwners.clear();
      return id;
    });
  }

  /** Puts one instrument into a library, which is made when it is not there yet; one of the same name is replaced. */
  async put(studioId: string, head: LibraryHead, instrument: NewInstrument): Promise<string> {
    const { models, sequelize } = this.store;
    return sequelize.transaction(async (transaction) => {
      await this.lockShelf(studioId, transaction);
      const old = await this.libraryRow(studioId, head.name, transaction);
      const id = old ? String(old.id) : randomUUID();
      if (old)
        await models.libraries.update(
          { recipe: head.recipe, facts: JSON.stringify(head.facts) },
          { where: { id }, transaction },
        );
      else await this.createLibrary(id, studioId, head, transaction);
      const same = (await this.instrumentRows(id, transaction)).find((row) => row.name === instrument.name);
      await this.keepingReports(same ? [String(same.id)] : [], transaction, async () => {
        if (same) await models.instruments.destroy({ where: { id: same.id }, transaction });
        await this.saveInstrument(
          id,
          same ? String(same.id) : (instrument.id ?? randomUUID()),
          instrument,
          transaction,
        );
      });
      this.packOwners.clear();
      return id;
    });
  }

  /** Replaces instruments without losing what was measured of them: reports tell by themselves what still holds. */
  private async keepingReports(
    ids: readonly string[],
    transaction: Transaction,
    replace: () => Promise<void>,
  ): Promise<void> {
    const { reports, instruments } = this.store.models;
    const rows = (await reports.findAll({
      where: { instrumentId: [...ids] },
      raw: true,
      transaction,
    })) as unknown as Row[];
    await replace();
    const left = (await instruments.findAll({
      where: { id: [...ids] },
      attributes: ['id'],
      raw: true,
      transaction,
    })) as unknown as Row[];
    const still = new Set(left.map((row) => String(row.id)));
    await reports.bulkCreate(
      rows.filter((row) => still.has(String(row.instrumentId))) as object[] as never[],
      { transaction },
    );
  }

  private async createLibrary(
    id: string,
    studioId: string,
    { name, maker, room, recipe, facts, report }: LibraryHead,
    transaction: Transaction,
  ): Promise<void> {
    await this.store.models.libraries.create(
      {
        id,
        studioId,
        name,
        maker,
        room,
        recipe,
        facts: JSON.stringify(facts),
        report: JSON.stringify(report),
      },
      { transaction },
    );
  }

  /** Two who bring in the same new library wait for each other: the second finds the first's. */
  private async lockShelf(studioId: string, transaction: Transaction): Promise<void> {
    await this.store.models.studios.findByPk(studioId, { lock: transaction.LOCK.UPDATE, transaction });
  }

  /** @throws FarloError when a library of this name stands on the shelf */
  async requireFree(studioId: string, name: string, transaction?: Transaction): Promise<void> {
    if (await this.libraryRow(studioId, name, transaction))
      throw new FarloError(
        'import.name-taken',
        `“${name}” stands on the shelf already. Give this library another name, or say that it replaces the other one.`,
      );
  }

  private async libraryRow(studioId: string, name: string, transaction?: Transaction): Promise<Row | null> {
    return (await this.store.models.libraries.findOne({
      where: { studioId, name },
      raw: true,
      transaction,
    })) as Row | null;
  }

  private async instrumentRows(libraryId: unknown, transaction?: Transaction): Promise<Row[]> {
    return (await this.store.models.instruments.findAll({
      where: { libraryId },
      order: [['name', 'ASC']],
      raw: true,
      transaction,
    })) as unknown as Row[];
  }

  private async saveInstrument(
    libraryId: string,
    id: string,
    instrument: NewInstrument,
    transaction: Transaction,
  ): Promise<void> {
    const { models } = this.store;
    const { name, family, kind, players, tags = [], recipe = '' } = instrument;
    const row = {
      id,
      libraryId,
      name,
      family,
      kind,
      players,
      positions: JSON.stringify(instrument.positions),
      rests: instrument.rests ? JSON.stringify(instrument.rests) : '',
      hallSendDb: instrument.hallSendDb ?? null,
      tags: tags.join(','),
      recipe,
    };
    await models.instruments.create(row, { transaction });
    await models.articulations.bulkCreate(
      instrument.articulations.map((articulation, place) => ({
        id: randomUUID(),
        instrumentId: id,
        term: articulation.id,
        name: articulation.name,
        place,
        suggestedKey: articulation.suggestedKey ?? null,
        zones: JSON.stringify(articulation.zones),
      })),
      { transaction },
    );
    await models.packs.bulkCreate(
      Object.values(instrument.packs).map((pack) => ({ ...pack })),
      { transaction, ignoreDuplicates: true },
    );
    const samples = Object.values(instrument.samples).map(({ pack, ...sample }) => ({
      ...sample,
      packId: pack,
    }));
    for (let i = 0; i < samples.length; i += 2000)
      await models.samples.bulkCreate(samples.slice(i, i + 2000), { transaction, ignoreDuplicates: true });
    // Only now is known where recordings lie that an earlier library brought.
    const complete = await this.complete(row, transaction);
    const all = complete.positions.map((position) => position.id);
    const gone = complete.articulations.some((a) =>
      [...samplesOf(a, all)].some((one) => !(one in complete.samples)),
    );
    if (gone)
      throw new FarloError(
        'sample.missing',
        `“${name}” shares recordings with a library that was just removed. Take it in again.`,
      );
    await models.instruments.update(
      {
        summary: JSON.stringify(summaryOf(complete, tags)),
        packs: Object.keys(complete.packs).join(','),
      },
      { where: { id }, transaction },
    );
  }

  /** Works out summaries that are missing, of instruments stored by an earlier version. */
  async fillSummaries(): Promise<void> {
    const rows = (await this.store.models.instruments.findAll({
      where: { summary: null },
      raw: true,
    })) as unknown as Row[];
    for (const row of rows) {
      const complete = await this.complete(row);
      const summary = summaryOf(complete, String(row.tags).split(','));
      await this.store.models.instruments.update(
        { summary: JSON.stringify(summary), packs: Object.keys(complete.packs).join(',') },
        { where: { id: row.id } },
      );
    }
  }

  /** Recipe of each instrument of a library of a studio, by name. */
  async recipesOf(studioId: string, libraryName: string): Promise<Map<string, string>> {
    const library = await this.libraryRow(studioId, libraryName);
    const rows = library ? await this.instrumentRows(library.id) : [];
    return new Map(rows.map((row) => [String(row.name), String(row.recipe)]));
  }

  /** An instrument by library and name. */
  async find(studioId: string, libraryName: string, name: string): Promise<Instrument | undefined> {
    const library = await this.libraryRow(studioId, libraryName);
    const row = library && (await this.instrumentRows(library.id)).find((one) => one.name === name);
    return row ? this.complete(row) : undefined;
  }

  /**
   * All libraries of a studio with what the shelf shows.
   * @param trouble why packs cannot be played, by pack id
   */
  async list(studioId: string, trouble: ReadonlyMap<string, string> = new Map()): Promise<LibrarySummary[]> {
    const libraries = (await this.store.models.libraries.findAll({
      where: { studioId },
      order: [['name', 'ASC']],
      raw: true,
    })) as unknown as Row[];
    const rows = (await this.store.models.instruments.findAll({
      where: { libraryId: libraries.map((library) => String(library.id)) },
      order: [['name', 'ASC']],
      raw: true,
    })) as unknown as Row[];
    const packs = (await this.store.models.packs.findAll({
      attributes: ['id', 'bytes'],
      raw: true,
    })) as unknown as { id: string; bytes: number }[];
    const packBytes = new Map(packs.map((pack) => [pack.id, Number(pack.bytes)]));
    return libraries.map((row) => {
      const own = rows.filter((instrument) => instrument.libraryId === row.id && instrument.summary);
      const instruments = own.map(
        (instrument) => JSON.parse(String(instrument.summary)) as InstrumentSummary,
      );
      const used = new Set(own.flatMap((instrument) => String(instrument.packs).split(',')));
      const inPacks = [...used].reduce((sum, pack) => sum + (packBytes.get(pack) ?? 0), 0);
      const inInstruments = instruments.reduce((sum, instrument) => sum + instrument.bytes, 0);
      return {
        id: String(row.id),
        name: String(row.name),
        maker: String(row.maker),
        room: String(row.room),
        facts: row.facts ? (JSON.parse(String(row.facts)) as LibraryFacts) : NO_FACTS,
        // Instruments may share recordings, and a light edition uses only parts of its packs.
        bytes: Math.min(inPacks, inInstruments),
        report: row.report ? (JSON.parse(String(row.report)) as ImportReport) : NO_REPORT,
        trouble:
          [...used].map((pack) => trouble.get(pack)).find((sentence) => sentence !== undefined) ?? null,
        instruments,
      };
    });
  }

  /** Studio a library belongs to, or undefined. */
  async studioOfLibrary(id: string): Promise<string | undefined> {
    const row = (await this.store.models.libraries.findByPk(id, { raw: true })) as Row | null;
    return row ? String(row.studioId) : undefined;
  }

  /** Takes a library off the shelf with its instruments. Its recordings go with the next sweep, unless others use them. */
  async remove(id: string): Promise<void> {
    await this.store.models.libraries.destroy({ where: { id } });
    this.packOwners.clear();
  }

  /** Studio an instrument belongs to, or undefined. */
  async studioOfInstrument(id: string): Promise<string | undefined> {
    const row = (await this.store.models.instruments.findByPk(id, { raw: true })) as Row | null;
    return row ? this.studioOfLibrary(String(row.libraryId)) : undefined;
  }

  /** An instrument with everything the engine needs but the audio. */
  async instrument(id: string): Promise<Instrument | undefined> {
    const row = (await this.store.models.instruments.findByPk(id, { raw: true })) as Row | null;
    return row ? this.complete(row) : undefined;
  }

  /** Ids of all samples that are stored. */
  async sampleIds(): Promise<Set<string>> {
    const rows = (await this.store.models.samples.findAll({
      attributes: ['id'],
      raw: true,
    })) as unknown as { id: string }[];
    return new Set(rows.map((row) => row.id));
  }

  /** Ids of all packs that are known. */
  async packIds(): Promise<Set<string>> {
    const rows = (await this.store.models.packs.findAll({ attributes: ['id'], raw: true })) as unknown as {
      id: string;
    }[];
    return new Set(rows.map((row) => row.id));
  }

  /** Size of a pack and who plays from it; undefined when there is no such pack. */
  async packFacts(id: string): Promise<{ bytes: number; libraries: string[] } | undefined> {
    const { packs, instruments, libraries } = this.store.models;
    const pack = (await packs.findByPk(id, { raw: true })) as Row | null;
    if (!pack) return undefined;
    const users = (await instruments.findAll({
      where: { packs: { [Op.substring]: id } },
      attributes: ['libraryId'],
      raw: true,
    })) as unknown as Row[];
    const named = (await libraries.findAll({
      where: { id: [...new Set(users.map((row) => String(row.libraryId)))] },
      attributes: ['name'],
      order: [['name', 'ASC']],
      raw: true,
    })) as unknown as Row[];
    return { bytes: Number(pack.bytes), libraries: named.map((row) => String(row.name)) };
  }

  /** True when one of the studio's instruments uses the pack. */
  async packBelongsTo(studioId: string, packId: string): Promise<boolean> {
    const owners = this.packOwners.get(packId);
    if (owners?.has(studioId)) return true;
    const libraries = (await this.store.models.libraries.findAll({
      where: { studioId },
      attributes: ['id'],
      raw: true,
    })) as unknown as Row[];
    const rows = (await this.store.models.instruments.findAll({
      where: { libraryId: libraries.map((library) => String(library.id)) },
      attributes: ['packs'],
      raw: true,
    })) as unknown as Row[];
    for (const row of rows)
      for (const pack of String(row.packs ?? '').split(','))
        this.packOwners.set(pack, (this.packOwners.get(pack) ?? new Set()).add(studioId));
    return this.packOwners.get(packId)?.has(studioId) ?? false;
  }
  private readonly packOwners = new Map<string, Set<string>>();

  /**
   * Forgets packs none of whose samples any instrument uses.
   * @returns ids of the packs whose files may go
   */
  async sweep(): Promise<string[]> {
    const { articulations, samples, packs } = this.store.models;
    return this.store.sequelize.transaction(async (transaction) => {
      const used = new Set<string>();
      const rows = (await articulations.findAll({
        attributes: ['zones'],
        raw: true,
        transaction,
      })) as unknown as { zones: string }[];
      for (const { zones } of rows)
        for (const match of zones.matchAll(/"sample":"([0-9a-f]{64})"/g)) used.add(match[1]);
      const all = (await samples.findAll({
        attributes: ['id', 'packId'],
        raw: true,
        transaction,
      })) as unknown as {
        id: string;
        packId: string;
      }[];
      const kept = new Set(all.filter(({ id }) => used.has(id)).map(({ packId }) => packId));
      const known = (await packs.findAll({ attributes: ['id'], raw: true, transaction })) as unknown as {
        id: string;
      }[];
      const gone = known.map(({ id }) => id).filter((id) => !kept.has(id));
      if (gone.length > 0) {
        await samples.destroy({ where: { packId: gone }, transaction });
        await packs.destroy({ where: { id: gone }, transaction });
      }
      return gone;
    });
  }

  private async complete(row: Row, transaction?: Transaction): Promise<Instrument> {
    const { articulations, samples, packs } = this.store.models;
    const rows = (await articulations.findAll({
      where: { instrumentId: row.id },
      order: [['place', 'ASC']],
      raw: true,
      transaction,
    })) as unknown as Row[];
    const list = rows.map((a): Articulation => ({
      id: String(a.term),
      name: String(a.name),
      ...(a.suggestedKey === null ? {} : { suggestedKey: Number(a.suggestedKey) }),
      zones: JSON.parse(String(a.zones)) as Articulation['zones'],
    }));
    const positions = JSON.parse(String(row.positions)) as Position[];
    const ids = new Set<string>();
    for (const articulation of list)
      for (const id of samplesOf(
        articulation,
        positions.map((p) => p.id),
      ))
        ids.add(id);
    const sampleRows = (await samples.findAll({
      where: { id: { [Op.in]: [...ids] } },
      raw: true,
      transaction,
    })) as unknown as Row[];
    const found = sampleRows.map((s): SampleInfo => ({
      id: String(s.id),
      frames: Number(s.frames),
      channels: Number(s.channels) as 1 | 2,
      rate: Number(s.rate),
      format: s.format as SampleInfo['format'],
      pack: String(s.packId),
      headOffset: Number(s.headOffset),
      headFrames: Number(s.headFrames),
      tailOffset: Number(s.tailOffset),
    }));
    const packRows = (await packs.findAll({
      where: { id: [...new Set(found.map((s) => s.pack))] },
      raw: true,
      transaction,
    })) as unknown as Row[];
    return {
      id: String(row.id),
      name: String(row.name),
      family: row.family as Instrument['family'],
      kind: row.kind as Instrument['kind'],
      players: Number(row.players),
      positions,
      articulations: list,
      ...(row.rests ? { rests: JSON.parse(String(row.rests)) as Instrument['rests'] } : {}),
      ...(typeof row.hallSendDb === 'number' ? { hallSendDb: row.hallSendDb } : {}),
      samples: Object.fromEntries(found.map((s) => [s.id, s])),
      packs: Object.fromEntries(
        packRows.map((p): [string, PackInfo] => [
          String(p.id),
          {
            id: String(p.id),
            articulation: String(p.articulation),
            position: String(p.position),
            headBytes: Number(p.headBytes),
            bytes: Number(p.bytes),
          },
        ]),
      ),
    };
  }
}

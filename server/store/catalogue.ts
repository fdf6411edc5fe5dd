import { randomUUID } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import {
  layersAndTakes,
  memoryBytes,
  playableRange,
  samplesOf,
  type Articulation,
  type Instrument,
  type PackInfo,
  type Position,
  type SampleInfo,
} from '#core/catalogue/index.ts';
import type { Store } from './database.ts';

/** A library as an import hands it over: instruments complete, packs already on disk. */
export interface NewLibrary {
  name: string;
  maker: string;
  room: string;
  /** Recipe or origin; a library of the same studio and name is replaced. */
  recipe: string;
  unsupported: LibrarySummary['unsupported'];
  /** An id may be wished for; a random one is given otherwise. */
  instruments: (Omit<Instrument, 'id'> & { id?: string })[];
}

interface Row {
  [column: string]: unknown;
}

/** Libraries, instruments, articulations, packs and samples. */
export class Catalogue {
  constructor(private readonly store: Store) {}

  /**
   * Writes a library in one transaction. A library of the same name in the studio gives its ids to the new
   * one, instrument by instrument of the same name, so that tracks keep playing.
   * @returns the library's id
   */
  async save(studioId: string, library: NewLibrary): Promise<string> {
    const { models, sequelize } = this.store;
    return sequelize.transaction(async (transaction) => {
      const old = (await models.libraries.findOne({
        where: { studioId, name: library.name },
        raw: true,
        transaction,
      })) as Row | null;
      const id = old ? String(old.id) : randomUUID();
      const oldIds = new Map<string, string>();
      if (old) {
        const rows = (await models.instruments.findAll({
          where: { libraryId: id },
          raw: true,
          transaction,
        })) as unknown as Row[];
        for (const row of rows) oldIds.set(String(row.name), String(row.id));
        await models.libraries.destroy({ where: { id }, transaction });
      }
      const { name, maker, room, recipe } = library;
      await models.libraries.create(
        { id, studioId, name, maker, room, recipe, unsupported: JSON.stringify(library.unsupported) },
        { transaction },
      );
      for (const instrument of library.instruments)
        await this.saveInstrument(
          id,
          oldIds.get(instrument.name) ?? instrument.id ?? randomUUID(),
          instrument,
          transaction,
        );
      return id;
    });
  }

  private async saveInstrument(
    libraryId: string,
    id: string,
    instrument: Omit<Instrument, 'id'>,
    transaction: Transaction,
  ): Promise<void> {
    const { models } = this.store;
    const { name, family, kind, players } = instrument;
    await models.instruments.create(
      { id, libraryId, name, family, kind, players, positions: JSON.stringify(instrument.positions) },
      { transaction },
    );
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
  }

  /** Recipe of a library of a studio by name, or undefined. */
  async recipeOf(studioId: string, name: string): Promise<string | undefined> {
    const row = (await this.store.models.libraries.findOne({
      where: { studioId, name },
      raw: true,
    })) as Row | null;
    return row ? String(row.recipe) : undefined;
  }

  /** All libraries of a studio with what the shelf shows. */
  async list(studioId: string): Promise<LibrarySummary[]> {
    const libraries = (await this.store.models.libraries.findAll({
      where: { studioId },
      order: [['name', 'ASC']],
      raw: true,
    })) as unknown as Row[];
    const out: LibrarySummary[] = [];
    for (const row of libraries) {
      const instruments = (await this.store.models.instruments.findAll({
        where: { libraryId: row.id },
        order: [['name', 'ASC']],
        raw: true,
      })) as unknown as Row[];
      const summaries: InstrumentSummary[] = [];
      for (const instrument of instruments) summaries.push(summaryOf(await this.complete(instrument)));
      out.push({
        id: String(row.id),
        name: String(row.name),
        maker: String(row.maker),
        room: String(row.room),
        bytes: summaries.reduce((sum, instrument) => sum + instrument.bytes, 0),
        unsupported: JSON.parse(String(row.unsupported)) as LibrarySummary['unsupported'],
        instruments: summaries,
      });
    }
    return out;
  }

  /** Studio an instrument belongs to, or undefined. */
  async studioOfInstrument(id: string): Promise<string | undefined> {
    const row = (await this.store.models.instruments.findByPk(id, { raw: true })) as Row | null;
    if (!row) return undefined;
    const library = (await this.store.models.libraries.findByPk(String(row.libraryId), {
      raw: true,
    })) as Row | null;
    return library ? String(library.studioId) : undefined;
  }

  /** An instrument with everything the engine needs but the audio. */
  async instrument(id: string): Promise<Instrument | undefined> {
    const row = (await this.store.models.instruments.findByPk(id, { raw: true })) as Row | null;
    return row ? this.complete(row) : undefined;
  }

  /** True when one of the studio's instruments uses the pack. */
  async packBelongsTo(studioId: string, packId: string): Promise<boolean> {
    const owners = this.packOwners.get(packId);
    if (owners?.has(studioId)) return true;
    const libraries = (await this.store.models.libraries.findAll({
      where: { studioId },
      raw: true,
    })) as unknown as Row[];
    const instruments = (await this.store.models.instruments.findAll({
      where: { libraryId: libraries.map((l) => String(l.id)) },
      raw: true,
    })) as unknown as Row[];
    for (const row of instruments)
      for (const pack of Object.keys((await this.complete(row)).packs))
        this.packOwners.set(pack, (this.packOwners.get(pack) ?? new Set()).add(studioId));
    return this.packOwners.get(packId)?.has(studioId) ?? false;
  }
  private readonly packOwners = new Map<string, Set<string>>();

  private async complete(row: Row): Promise<Instrument> {
    const { articulations, samples, packs } = this.store.models;
    const rows = (await articulations.findAll({
      where: { instrumentId: row.id },
      order: [['place', 'ASC']],
      raw: true,
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
    })) as unknown as Row[];
    return {
      id: String(row.id),
      name: String(row.name),
      family: row.family as Instrument['family'],
      kind: row.kind as Instrument['kind'],
      players: Number(row.players),
      positions,
      articulations: list,
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

function summaryOf(instrument: Instrument): InstrumentSummary {
  const positions = instrument.positions.map((position) => position.id);
  const all = new Set(instrument.articulations.flatMap((a) => [...samplesOf(a, positions)]));
  return {
    id: instrument.id,
    name: instrument.name,
    family: instrument.family,
    kind: instrument.kind,
    players: instrument.players,
    positions: instrument.positions,
    bytes: memoryBytes(instrument, all),
    articulations: instrument.articulations.map((articulation) => ({
      id: articulation.id,
      name: articulation.name,
      low: playableRange(articulation)?.low ?? 0,
      high: playableRange(articulation)?.high ?? 0,
      ...layersAndTakes(articulation),
      transitions: articulation.zones.filter((zone) => zone.role === 'transition').length,
      bytes: memoryBytes(instrument, samplesOf(articulation, positions)),
    })),
  };
}

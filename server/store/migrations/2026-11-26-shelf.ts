import { randomUUID } from 'node:crypto';
import { DataTypes, QueryTypes, type ModelAttributeColumnOptions, type QueryInterface } from 'sequelize';

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const whole = { type: DataTypes.INTEGER, allowNull: false };
const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const long = { type: DataTypes.TEXT('long'), allowNull: false };
const to = (table: string) => ({
  type: DataTypes.CHAR(36),
  allowNull: false,
  references: { model: table, key: 'id' },
  onDelete: 'CASCADE',
});

/** Facts and reports of libraries, summaries of instruments, words remembered per maker, and the shelf as a document. */
export async function shelf(query: QueryInterface): Promise<void> {
  const column = (table: string, name: string, type: ModelAttributeColumnOptions) =>
    query.addColumn(table, name, type);
  await column('libraries', 'facts', { type: DataTypes.TEXT('long') });
  await column('libraries', 'report', { type: DataTypes.TEXT('long') });
  // Its content moved into the report. This driver cannot drop columns through the query interface; it stays empty.
  await query.changeColumn('libraries', 'unsupported', { type: DataTypes.TEXT('long'), allowNull: true });
  await column('instruments', 'tags', { ...text(400), defaultValue: '' });
  await column('instruments', 'recipe', { ...text(120), defaultValue: '' });
  await column('instruments', 'summary', { type: DataTypes.TEXT('long') });
  // Ids of the packs it plays from, so that who may read a pack is known without reading all zones.
  await column('instruments', 'packs', { type: DataTypes.TEXT('long') });
  const options = { charset: 'utf8mb4' };
  await query.createTable(
    'remembered_words',
    {
      studio_id: { ...to('studios'), primaryKey: true },
      maker: { ...text(120), primaryKey: true },
      word: { ...text(440), primaryKey: true },
      meaning: long,
    },
    options,
  );
  await query.createTable(
    'shelves',
    { id, studio_id: { ...to('studios'), unique: true }, revision: whole, version, name: text(120) },
    options,
  );
  await query.createTable(
    'shelf_marks',
    {
      id,
      shelf_id: to('shelves'),
      version,
      instrument_id: { type: DataTypes.CHAR(36), allowNull: false },
      starred: { type: DataTypes.BOOLEAN, allowNull: false },
      verdict: text(12),
      note: text(2000),
      off: text(2000),
    },
    options,
  );
  await query.createTable(
    'sounds',
    {
      id,
      shelf_id: to('shelves'),
      version,
      name: text(120),
      tags: text(400),
      instrument_id: { type: DataTypes.CHAR(36), allowNull: false },
      articulation: text(60),
      dynamics: whole,
      vibrato: whole,
      levels: text(400),
    },
    options,
  );
  const studios = await query.sequelize.query<{ id: string }>('SELECT id FROM studios', {
    type: QueryTypes.SELECT,
  });
  for (const studio of studios)
    await query.bulkInsert('shelves', [
      { id: randomUUID(), studio_id: studio.id, revision: 0, version: 1, name: 'Shelf' },
    ]);
}

import { randomUUID } from 'node:crypto';
import { DataTypes, QueryTypes, type ModelAttributeColumnOptions, type QueryInterface } from 'sequelize';

/** What sounds were scored by when this was made; new studios get theirs from `People`. */
const CRITERIA = ['Sound', 'Range of use', 'Playability', 'Value'];

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const uuid = { type: DataTypes.CHAR(36), allowNull: false };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const fraction = { type: DataTypes.DOUBLE, allowNull: false };
const whole = { type: DataTypes.INTEGER, allowNull: false };
const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const long = { type: DataTypes.TEXT('long'), allowNull: false };
const to = (table: string) => ({ ...uuid, references: { model: table, key: 'id' }, onDelete: 'CASCADE' });

/** Line-ups, verdicts, phrases and remarks of listening; measured reports; recordings to hold sounds against; EQ of tracks. */
export async function listen(query: QueryInterface): Promise<void> {
  const create = (table: string, columns: Record<string, ModelAttributeColumnOptions>) =>
    query.createTable(table, columns, { charset: 'utf8mb4' });
  const ofShelf = { id, shelf_id: to('shelves'), version };
  await query.addColumn('shelf_marks', 'replaces', { ...text(36), defaultValue: '' });
  await create('eq_bands', {
    id,
    template_id: to('templates'),
    version,
    track_id: to('tracks'),
    shape: text(12),
    hertz: fraction,
    gain_db: fraction,
    q: fraction,
    active: { type: DataTypes.BOOLEAN, allowNull: false },
  });
  await create('line_ups', { ...ofShelf, name: text(120) });
  await create('contenders', {
    ...ofShelf,
    line_up_id: uuid,
    instrument_id: uuid,
    articulation: text(60),
    place: fraction,
  });
  await create('preferences', { ...ofShelf, line_up_id: uuid, phrase: text(60), contender_id: uuid });
  await create('blind_rounds', { ...ofShelf, line_up_id: uuid, phrase: text(60), ranking: text(2000) });
  await create('own_phrases', { ...ofShelf, name: text(120), suits: text(12), bpm: fraction, written: long });
  await create('remarks', {
    ...ofShelf,
    instrument_id: uuid,
    phrase: text(60),
    at_seconds: fraction,
    text: text(400),
  });
  await create('criteria', { ...ofShelf, name: text(60), weight: fraction, place: fraction });
  await create('scores', { ...ofShelf, criterion_id: uuid, instrument_id: uuid, score: fraction });
  await create('gaps', { ...ofShelf, name: text(120), filled_by: text(36) });
  await create('reports', {
    instrument_id: { ...to('instruments'), primaryKey: true },
    articulation: { ...text(60), primaryKey: true },
    digest: text(64),
    report: long,
  });
  // “references” is a word of SQL's own.
  await create('references_heard', {
    id,
    studio_id: to('studios'),
    name: text(200),
    frames: whole,
    rate: whole,
    outline: long,
  });
  const shelves = await query.sequelize.query<{ id: string }>('SELECT id FROM shelves', {
    type: QueryTypes.SELECT,
  });
  const rows = shelves.flatMap((shelf) =>
    CRITERIA.map((name, place) => ({
      id: randomUUID(),
      shelf_id: shelf.id,
      version: 1,
      name,
      weight: 1,
      place,
    })),
  );
  if (rows.length > 0) await query.bulkInsert('criteria', rows);
}

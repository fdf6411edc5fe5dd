import { DataTypes, type QueryInterface } from 'sequelize';

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false, defaultValue: '' });
const fraction = (defaultValue: number) => ({ type: DataTypes.DOUBLE, allowNull: false, defaultValue });
const whole = { type: DataTypes.INTEGER, allowNull: false };
const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const to = (table: string) => ({
  type: DataTypes.CHAR(36),
  allowNull: false,
  references: { model: table, key: 'id' },
  onDelete: 'CASCADE',
});

/** Seats of sections, seatings of the studio, halls of its own, and levels that move in a cue. */
export async function seating(query: QueryInterface): Promise<void> {
  const options = { charset: 'utf8mb4' };
  await query.addColumn('templates', 'listener_metres', fraction(2));
  await query.createTable(
    'seats',
    { id, template_id: to('templates'), version, track_id: to('tracks'), x: fraction(0), y: fraction(0) },
    options,
  );
  const seats = { type: DataTypes.TEXT('long'), allowNull: false };
  await query.createTable(
    'kept_seatings',
    { id, house_id: to('houses'), version, name: text(120), seats },
    options,
  );
  await query.createTable(
    'level_points',
    {
      id,
      cue_id: to('cues'),
      version,
      // A track that is deleted may come back; what the cue holds for it stays.
      track_id: { type: DataTypes.CHAR(36), allowNull: false },
      position_id: text(40),
      tick: whole,
      level_db: fraction(0),
    },
    options,
  );
  await query.createTable(
    'own_halls',
    {
      id,
      studio_id: to('studios'),
      name: text(200),
      channels: whole,
      frames: whole,
      decay_seconds: fraction(0),
      remarks: { type: DataTypes.TEXT('long'), allowNull: false },
    },
    options,
  );
}

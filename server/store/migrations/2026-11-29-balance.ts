import { DataTypes, type QueryInterface } from 'sequelize';

const text = (length: number, defaultValue: string) => ({
  type: DataTypes.STRING(length),
  allowNull: false,
  defaultValue,
});
const fraction = (defaultValue: number) => ({ type: DataTypes.DOUBLE, allowNull: false, defaultValue });
const maybe = { type: DataTypes.DOUBLE, allowNull: true };
const yes = { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: true };

/** Balance: sends and tone of positions, the hall's settings, linked tracks, kept mixes, aims. */
export async function balance(query: QueryInterface): Promise<void> {
  const options = { charset: 'utf8mb4' };
  const record = (document: 'template' | 'house') => ({
    id: { type: DataTypes.CHAR(36), primaryKey: true },
    [`${document}_id`]: {
      type: DataTypes.CHAR(36),
      allowNull: false,
      references: { model: `${document}s`, key: 'id' },
      onDelete: 'CASCADE',
    },
    version: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 },
  });
  const track = {
    type: DataTypes.CHAR(36),
    allowNull: false,
    references: { model: 'tracks', key: 'id' },
    onDelete: 'CASCADE',
  };
  await query.addColumn('position_mixes', 'send_db', fraction(0));
  await query.addColumn('eq_bands', 'position_id', text(40, ''));
  const hall = {
    hall: text(40, 'harbour'),
    hall_size: fraction(1),
    hall_decay_seconds: fraction(1.7),
    hall_damping: fraction(0.5),
    hall_pre_delay_ms: fraction(0),
    hall_low_cut_hz: fraction(20),
    hall_high_cut_hz: fraction(20_000),
  };
  for (const [column, definition] of Object.entries(hall))
    await query.addColumn('templates', column, definition);
  await query.createTable(
    'links',
    { ...record('template'), name: text(120, ''), track_ids: text(4000, ''), active: yes },
    options,
  );
  await query.createTable(
    'aims',
    { ...record('template'), track_id: track, loudness_db: maybe, depth_db: maybe, side_db: maybe },
    options,
  );
  const mix = { type: DataTypes.TEXT('long'), allowNull: false };
  await query.createTable('snapshots', { ...record('template'), slot: text(1, 'A'), mix }, options);
  await query.createTable('kept_mixes', { ...record('house'), name: text(120, ''), mix }, options);
}

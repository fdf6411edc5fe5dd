import { DataTypes, type QueryInterface } from 'sequelize';

const whole = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 };

/** Tempos that move to the next, and takes that were recorded over a loop. */
export async function writing(query: QueryInterface): Promise<void> {
  await query.addColumn('tempos', 'ramp', {
    type: DataTypes.BOOLEAN,
    allowNull: false,
    defaultValue: false,
  });
  await query.createTable(
    'takes',
    {
      id: { type: DataTypes.CHAR(36), primaryKey: true },
      cue_id: {
        type: DataTypes.CHAR(36),
        allowNull: false,
        references: { model: 'cues', key: 'id' },
        onDelete: 'CASCADE',
      },
      version: { ...whole, defaultValue: 1 },
      // A track that is deleted may come back; what the cue holds for it stays.
      track_id: { type: DataTypes.CHAR(36), allowNull: false },
      name: { type: DataTypes.STRING(120), allowNull: false },
      place: { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 },
      from_tick: whole,
      to_tick: whole,
      written: { type: DataTypes.TEXT('long'), allowNull: false },
    },
    { charset: 'utf8mb4' },
  );
}

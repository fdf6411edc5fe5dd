import { DataTypes, type QueryInterface } from 'sequelize';

const whole = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 };

/** Key signatures of cues, and what is sung on notes. */
export async function signatures(query: QueryInterface): Promise<void> {
  await query.createTable(
    'signatures',
    {
      id: { type: DataTypes.CHAR(36), primaryKey: true },
      cue_id: {
        type: DataTypes.CHAR(36),
        allowNull: false,
        references: { model: 'cues', key: 'id' },
        onDelete: 'CASCADE',
      },
      version: { ...whole, defaultValue: 1 },
      tick: whole,
      fifths: whole,
    },
    { charset: 'utf8mb4' },
  );
  await query.addIndex('signatures', ['cue_id', 'tick'], { unique: true });
  await query.addColumn('notes', 'syllable', {
    type: DataTypes.STRING(60),
    allowNull: false,
    defaultValue: '',
  });
}

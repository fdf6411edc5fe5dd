import { DataTypes, type QueryInterface } from 'sequelize';

/** How makers name their files, remembered; summaries of instruments are worked out anew, for they tell of vibrato now. */
export async function makers(query: QueryInterface): Promise<void> {
  await query.createTable(
    'remembered_names',
    {
      studio_id: {
        type: DataTypes.CHAR(36),
        allowNull: false,
        primaryKey: true,
        references: { model: 'studios', key: 'id' },
        onDelete: 'CASCADE',
      },
      maker: { type: DataTypes.STRING(120), allowNull: false, primaryKey: true },
      pattern: { type: DataTypes.STRING(200), allowNull: false },
      middle_c: { type: DataTypes.INTEGER, allowNull: false },
    },
    { charset: 'utf8mb4' },
  );
  await query.bulkUpdate('instruments', { summary: null }, {});
}

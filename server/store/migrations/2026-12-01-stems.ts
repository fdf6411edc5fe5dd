import { DataTypes, type QueryInterface } from 'sequelize';

/** The stem that a position goes to. */
export async function stems(query: QueryInterface): Promise<void> {
  await query.addColumn('position_mixes', 'stem', {
    type: DataTypes.STRING(60),
    allowNull: false,
    defaultValue: '',
  });
}

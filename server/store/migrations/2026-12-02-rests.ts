import { DataTypes, type QueryInterface } from 'sequelize';

/** Where controllers rest that mean something to one instrument alone. */
export async function rests(query: QueryInterface): Promise<void> {
  await query.addColumn('instruments', 'rests', {
    // As JSON; 127 numbers at most.
    type: DataTypes.STRING(4000),
    allowNull: false,
    defaultValue: '',
  });
}

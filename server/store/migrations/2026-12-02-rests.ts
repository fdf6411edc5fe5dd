import { DataTypes, type QueryInterface } from 'sequelize';

/** Where controllers rest that mean something to one instrument alone. */
export async function rests(query: QueryInterface): Promise<void> {
  await query.addColumn('instruments', 'rests', { type: DataTypes.TEXT('long'), allowNull: true });
}

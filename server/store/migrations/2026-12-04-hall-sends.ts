import { DataTypes, type QueryInterface } from 'sequelize';

/** How loud makers send their instruments to a hall. */
export async function hallSends(query: QueryInterface): Promise<void> {
  await query.addColumn('instruments', 'hall_send_db', { type: DataTypes.DOUBLE, allowNull: true });
}

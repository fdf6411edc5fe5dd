import { Sequelize } from 'sequelize';
import { Umzug } from 'umzug';
import type { Config } from '../config.ts';
import { migrations } from './migrations/index.ts';
import { defineModels, type Models } from './models.ts';

/** An open database with its tables. */
export interface Store {
  sequelize: Sequelize;
  models: Models;
  close(): Promise<void>;
}

/** Connects and brings the tables up to date. @throws when the database does not answer or a migration fails */
export async function openStore(config: Config['database']): Promise<Store> {
  const sequelize = new Sequelize(config.name, config.user, config.password, {
    dialect: 'mariadb',
    host: config.host,
    port: config.port,
    logging: false,
    pool: { max: 12, min: 0, idle: 5000 },
    define: { underscored: true, timestamps: false },
    dialectOptions: { connectTimeout: 5000 },
  });
  await migrate(sequelize);
  const models = defineModels(sequelize);
  return { sequelize, models, close: () => sequelize.close() };
}

async function migrate(sequelize: Sequelize): Promise<void> {
  const query = sequelize.getQueryInterface();
  const done = {
    logMigration: async ({ name }: { name: string }) => {
      await query.bulkInsert('migrations', [{ name }]);
    },
    unlogMigration: async ({ name }: { name: string }) => {
      await query.bulkDelete('migrations', { name });
    },
    executed: async () => {
      const rows = await query.select(null, 'migrations', {});
      return rows.map((row) => (row as unknown as { name: string }).name);
    },
  };
  const umzug = new Umzug({
    migrations: migrations.map(({ name, up }) => ({ name, up: () => up(query) })),
    storage: done,
    logger: undefined,
  });
  await query.createTable('migrations', { name: { type: 'VARCHAR(120)', primaryKey: true } });
  const known = new Set(migrations.map(({ name }) => name));
  const stranger = (await done.executed()).find((name) => !known.has(name));
  if (stranger)
    throw new Error(
      `The database was made by a newer Farlo (“${stranger}”). Start that version, or choose another data folder.`,
    );
  await umzug.up();
}

import { join, resolve, dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkNode, ensureDebian, ensureNpmPackages } from './install.mjs';
import { leftOverDatabase, portTaken, startMariadb } from './mariadb.mjs';
import { secretsOf } from './server.mjs';

export const root = dirname(dirname(dirname(fileURLToPath(import.meta.url))));
export const dataFolder = () => resolve(process.env.FARLO_DATA || join(root, '.farlo'));
export const DATABASE = 'farlo';

/**
 * Runs work on the database of a data folder: on the running one when Farlo is up, else on one that is started for it.
 * @param {string} folder
 * @param {(access: {port: number, password: string, socket: string}) => Promise<void>} work
 */
export async function withDatabase(folder, work) {
  checkNode();
  ensureDebian([{ command: 'mariadbd', name: 'mariadb-server' }]);
  ensureNpmPackages(root);
  const secrets = secretsOf(folder);
  const port = Number(process.env.FARLO_DB_PORT || 4871);
  const access = { port, password: secrets.database, socket: join(folder, 'database.sock') };
  if (leftOverDatabase(folder) !== undefined && (await portTaken(port))) return work(access);
  const database = await startMariadb({ folder, port, name: DATABASE, password: secrets.database });
  try {
    await work(access);
  } finally {
    await database.stop();
  }
}

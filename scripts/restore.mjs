// Brings a backup back into an empty data folder: FARLO_DATA=/new/folder npm run restore -- FILE.tar
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, openSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { DATABASE, dataFolder, withDatabase } from './lib/offline.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';
import { checkFolder } from './lib/server.mjs';

/** Packs that are not what their names say. */
function damagedPacks(folder) {
  const packs = join(folder, 'packs');
  if (!existsSync(packs)) return [];
  return readdirSync(packs).flatMap((part) =>
    readdirSync(join(packs, part)).filter((name) => {
      const digest = createHash('sha256')
        .update(readFileSync(join(packs, part, name)))
        .digest('hex');
      return name.endsWith('.pack') && name !== `${digest}.pack`;
    }),
  );
}

await runScript(async () => {
  const [file] = process.argv.slice(2);
  if (!file || !existsSync(file))
    throw new Trouble('Say which file: npm run restore -- /path/to/farlo-backup.tar');
  const folder = dataFolder();
  if (existsSync(folder) && readdirSync(folder).length > 0)
    throw new Trouble(
      `${folder} is not empty, and nothing in it is written over. Set FARLO_DATA to a new folder for what comes back.`,
    );
  checkFolder(folder);
  let done = false;
  try {
    say('Reading the recordings …');
    mkdirSync(folder, { recursive: true });
    const read = spawnSync('tar', ['-xf', resolve(file), '-C', folder, '--no-same-owner'], {
      encoding: 'utf8',
    });
    const dump = join(folder, 'database.sql');
    if (read.status !== 0 || !existsSync(dump) || !existsSync(join(folder, 'secrets.json')))
      throw new Trouble(
        `${file} is not a whole backup of Farlo: ${read.stderr.trim().split('\n')[0] || 'parts are missing'}.`,
      );
    await withDatabase(folder, async ({ port, password }) => {
      say('Reading the database …');
      const filled = spawnSync(
        'mariadb',
        ['--no-defaults', '--protocol=tcp', '--host=127.0.0.1', `--port=${port}`, '--user=farlo', DATABASE],
        {
          stdio: [openSync(dump, 'r'), 'ignore', 'pipe'],
          encoding: 'utf8',
          env: { ...process.env, MYSQL_PWD: password },
        },
      );
      if (filled.status !== 0) throw new Trouble(`The database could not be read: ${filled.stderr.trim()}`);
    });
    rmSync(dump);
    const damaged = damagedPacks(folder);
    if (damaged.length > 0)
      say(
        `${damaged.length} of the recordings' files were damaged in the backup; Farlo will say which libraries they belong to.`,
      );
    done = true;
  } finally {
    // Half a Farlo would be taken for a whole one at the next start.
    if (!done)
      for (const name of readdirSync(folder)) rmSync(join(folder, name), { recursive: true, force: true });
  }
  say(`Everything is back in ${folder}. Start with FARLO_DATA=${folder} npm start.`);
});

// Writes everything a Farlo keeps into one file: npm run backup -- FILE.tar. Farlo may be running meanwhile.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, openSync, closeSync, renameSync, rmSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { DATABASE, dataFolder, withDatabase } from './lib/offline.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';

const KEPT = ['packs', 'references', 'secrets.json'];

await runScript(async () => {
  const [file] = process.argv.slice(2);
  if (!file) throw new Trouble('Say where to: npm run backup -- /path/to/farlo-backup.tar');
  const target = resolve(file);
  if (existsSync(target)) throw new Trouble(`${target} is there already; it is not written over.`);
  const folder = dataFolder();
  if (!existsSync(join(folder, 'secrets.json')))
    throw new Trouble(`There is no Farlo in ${folder}. Set FARLO_DATA to its data folder.`);
  await withDatabase(folder, async ({ port, password }) => {
    const work = mkdtempSync(join(dirname(target), '.farlo-backup-'));
    try {
      say('Writing the database …');
      const dump = openSync(join(work, 'database.sql'), 'w');
      const dumped = spawnSync(
        'mariadb-dump',
        [
          '--no-defaults',
          '--protocol=tcp',
          '--host=127.0.0.1',
          `--port=${port}`,
          '--user=farlo',
          '--single-transaction',
          '--quick',
          '--hex-blob',
          DATABASE,
        ],
        { stdio: ['ignore', dump, 'pipe'], encoding: 'utf8', env: { ...process.env, MYSQL_PWD: password } },
      );
      closeSync(dump);
      if (dumped.status !== 0)
        throw new Trouble(`The database could not be written: ${dumped.stderr.trim()}`);
      say('Writing the recordings …');
      const there = KEPT.filter((name) => existsSync(join(folder, name)));
      const draft = join(work, 'backup.tar');
      // Packs never change once they are written, so that copying them while Farlo runs is safe.
      const packed = spawnSync('tar', ['-cf', draft, '-C', work, 'database.sql', '-C', folder, ...there], {
        encoding: 'utf8',
      });
      if (packed.status !== 0)
        throw new Trouble(`The file could not be written: ${packed.stderr.trim().split('\n')[0]}`);
      renameSync(draft, target);
    } finally {
      rmSync(work, { recursive: true, force: true });
    }
  });
  say(
    `${basename(target)}: ${Math.ceil(statSync(target).size / 1e6)} MB. Keep it away from this machine; it holds password hashes and keys.`,
  );
});

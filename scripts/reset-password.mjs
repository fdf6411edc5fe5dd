// Gives somebody a new password where Farlo is kept: npm run reset-password -- ADDRESS. For an owner who lost theirs.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { DATABASE, dataFolder, root, withDatabase } from './lib/offline.mjs';
import { runScript, Trouble } from './lib/say.mjs';

await runScript(async () => {
  const [address] = process.argv.slice(2);
  if (!address) throw new Trouble('Say whose: npm run reset-password -- somebody@studio.example');
  const folder = dataFolder();
  if (!existsSync(join(folder, 'secrets.json')))
    throw new Trouble(`There is no Farlo in ${folder}. Set FARLO_DATA to its data folder.`);
  await withDatabase(folder, async ({ port, password }) => {
    const done = spawnSync(
      process.execPath,
      ['--import', 'tsx', join(root, 'server/reset-password.ts'), address],
      {
        cwd: root,
        stdio: ['ignore', 'inherit', 'inherit'],
        env: {
          ...process.env,
          FARLO_DATA: folder,
          FARLO_DB_PORT: String(port),
          FARLO_DB_NAME: DATABASE,
          FARLO_DB_PASSWORD: password,
          FARLO_SESSION_SECRET: 'not used by this command, yet asked for',
        },
      },
    );
    if (done.status !== 0) throw new Trouble(`Nothing was changed.`);
  });
});

// Plants faults in libraries made by seed, takes each in as a user would, and prints what the report finds, misses and invents:
// npm run faults -- [--seeds 40] [--from 1] [--planted 6]. Meant for the night: about half a minute a library.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureNpmPackages } from './lib/install.mjs';
import { root } from './lib/offline.mjs';
import { runScript, Trouble } from './lib/say.mjs';

await runScript(async () => {
  const number = (name, usual) => {
    const at = process.argv.indexOf(`--${name}`);
    const value = at < 0 ? usual : Number(process.argv[at + 1]);
    if (!Number.isInteger(value) || value < 1) throw new Trouble(`--${name} takes a whole number from 1 on.`);
    return String(value);
  };
  const order = [number('from', 1), number('seeds', 40), number('planted', 6)];
  await ensureNpmPackages(root);
  const done = spawnSync(
    process.execPath,
    ['--import', 'tsx', join(root, 'server/testing/faults-by-seed.ts'), ...order],
    {
      cwd: root,
      stdio: 'inherit',
    },
  );
  process.exitCode = done.status ?? 1;
});

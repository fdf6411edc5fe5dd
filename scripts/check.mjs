// Everything that can be said of the code without running it: format, lint, layering, dead code, types.
import { spawnSync } from 'node:child_process';
import { dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ensureNpmPackages } from './lib/install.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const LEAST_MODULES = 100;

function check(name, args, accept = () => undefined) {
  say(`${name} …`);
  const done = spawnSync(process.execPath, args, { cwd: root, encoding: 'utf8', maxBuffer: 1 << 26 });
  const complaint = done.status === 0 ? accept(done.stdout) : 'failed';
  if (complaint) throw new Trouble(`${name}: ${complaint}\n${done.stdout}${done.stderr}`);
}

await runScript(async () => {
  ensureNpmPackages(root);
  check('Format', ['node_modules/prettier/bin/prettier.cjs', '--check', '.', '--log-level', 'warn']);
  check('Lint', ['node_modules/oxlint/bin/oxlint', '--deny-warnings']);
  check(
    'Layering',
    [
      'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
      'core',
      'api',
      'server',
      'web',
      '--config',
      '.dependency-cruiser.cjs',
    ],
    (out) => {
      const modules = Number(/\((\d+) modules/.exec(out)?.[1] ?? 0);
      return modules < LEAST_MODULES ? `saw only ${modules} modules, so it proves nothing` : undefined;
    },
  );
  check('Dead code', ['node_modules/knip/bin/knip.js']);
  check('Types', ['node_modules/typescript7/bin/tsc', '-p', '.']);
  check('Types of the core, without browser and Node', ['node_modules/typescript7/bin/tsc', '-p', 'core']);
  check('Types of the worklet', [
    'node_modules/typescript7/bin/tsc',
    '-p',
    'web/sound/tsconfig.worklet.json',
  ]);
  say('All good.');
});

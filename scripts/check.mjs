// Everything that can be said of the code without running it: format, lint, layering, dead code, types.
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { ensureNpmPackages, ensureWebBuild } from './lib/install.mjs';
import { ensureKernel } from './lib/kernel.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const LEAST_MODULES = 100;

function check(name, args, accept = () => undefined) {
  say(`${name} …`);
  const done = spawnSync(process.execPath, args, { cwd: root, encoding: 'utf8', maxBuffer: 1 << 26 });
  const complaint = done.status === 0 ? accept(done.stdout) : 'failed';
  if (complaint) throw new Trouble(`${name}: ${complaint}\n${done.stdout}${done.stderr}`);
}

/** Share of test lines that must not be gone below; it rises, and never falls. */
const LEAST_TEST_SHARE = 25;

function checkShareOfTests() {
  say('Share of tests …');
  const files = spawnSync('git', ['ls-files'], { cwd: root, encoding: 'utf8' })
    .stdout.split('\n')
    .filter((file) => /\.(tsx?|mjs)$/.test(file) && existsSync(join(root, file)));
  const lines = (list) =>
    list.reduce((sum, file) => sum + readFileSync(join(root, file), 'utf8').split('\n').length - 1, 0);
  const tests = lines(files.filter((file) => /\.(test|spec)\.tsx?$|^e2e\//.test(file)));
  const share = (100 * tests) / lines(files);
  say(`  ${tests} lines of tests, ${share.toFixed(1)} % of all`);
  if (share < LEAST_TEST_SHARE)
    throw new Trouble(`Tests are ${share.toFixed(1)} % of the lines; ${LEAST_TEST_SHARE} % is the least.`);
}

/** Script, packed, that a page may need before a view is chosen. */
const MOST_FIRST_KB = 250;

/** What the page loads before its first view: the entry, the shell, and what both import at once. */
function checkFirstScripts() {
  say('Size of the first scripts …');
  ensureWebBuild(root);
  const manifest = JSON.parse(readFileSync(join(root, 'dist/web/.vite/manifest.json'), 'utf8'));
  const needed = new Set();
  const add = (key) => {
    if (needed.has(key)) return;
    needed.add(key);
    for (const next of manifest[key].imports ?? []) add(next);
  };
  add('index.html');
  add('web/app/studio-app.tsx');
  const kb =
    [...needed].reduce(
      (sum, key) => sum + gzipSync(readFileSync(join(root, 'dist/web', manifest[key].file))).length,
      0,
    ) / 1000;
  say(`  ${kb.toFixed(0)} kB packed`);
  if (kb > MOST_FIRST_KB)
    throw new Trouble(`The first scripts are ${kb.toFixed(0)} kB packed; ${MOST_FIRST_KB} is the most.`);
}

await runScript(async () => {
  ensureNpmPackages(root);
  ensureKernel(root);
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
  checkShareOfTests();
  checkFirstScripts();
  say('All good.');
});

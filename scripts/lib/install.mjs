import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { say, Trouble } from './say.mjs';

const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0;

/** How apt may be called here: as root, with sudo that asks for nothing, or not at all. */
function aptPrefix() {
  if (process.getuid?.() === 0) return [];
  return spawnSync('sudo', ['-n', 'true'], { stdio: 'ignore' }).status === 0 ? ['sudo', '-n'] : undefined;
}

/** Node must be new enough. */
export function checkNode() {
  if (Number(process.versions.node.split('.')[0]) < 20)
    throw new Trouble(`Farlo needs Node 20 or newer; this is ${process.versions.node}.`);
}

/**
 * Installs Debian packages whose commands, or files, are missing.
 * @param {{command?: string, file?: string, name: string}[]} wanted
 */
export function ensureDebian(wanted) {
  const missing = wanted
    .filter(({ command, file }) => (file ? !existsSync(file) : !has(command)))
    .map(({ name }) => name);
  if (missing.length === 0) return;
  const prefix = aptPrefix();
  const byHand = `apt-get install ${missing.join(' ')}`;
  if (!has('apt-get') || !prefix)
    throw new Trouble(
      `Missing on this machine: ${missing.join(', ')}. Install them as root (${byHand}), then try again.`,
    );
  say(`Installing ${missing.join(', ')} from Debian's packages (this can take a minute) …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const run = (args) =>
    spawnSync([...prefix, 'apt-get', ...args][0], [...prefix, 'apt-get', ...args].slice(1), {
      env,
      encoding: 'utf8',
    });
  run(['update']);
  const done = run(['install', '-y', '--no-install-recommends', ...missing]);
  if (done.status !== 0)
    throw new Trouble(
      `Installing failed (${done.stderr?.trim().split('\n').at(-1)}). Try by hand: ${byHand}`,
    );
}

/** Runs `npm ci` unless the installed packages are those of the lock file. */
export function ensureNpmPackages(root) {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.farlo-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say('Installing npm packages (about a minute) …');
  try {
    execFileSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
      cwd: root,
      stdio: ['ignore', 'ignore', 'inherit'],
    });
  } catch {
    throw new Trouble(
      'npm ci failed; what it said stands above. Check the connection to the package registry, then try again.',
    );
  }
  writeFileSync(stamp, lock);
}

/** Builds the pages into `dist/web` when anything they are made of has changed. */
export function ensureWebBuild(root) {
  const stampFile = join(root, 'dist', 'web.stamp');
  const stamp = sourceStamp(root);
  if (existsSync(stampFile) && readFileSync(stampFile, 'utf8') === stamp) return;
  say('Building the pages …');
  const built = spawnSync(
    process.execPath,
    ['node_modules/vite/bin/vite.js', 'build', '--logLevel', 'warn'],
    { cwd: root, encoding: 'utf8' },
  );
  if (built.status !== 0) throw new Trouble(`Building the pages failed:\n${built.stdout}${built.stderr}`);
  writeFileSync(stampFile, stamp);
}

function sourceStamp(root) {
  const hash = createHash('sha256');
  const list = execFileSync(
    'find',
    ['web', 'core', 'api', 'index.html', 'vite.config.ts', 'package-lock.json', '-type', 'f'],
    { cwd: root, encoding: 'utf8' },
  );
  for (const file of list.trim().split('\n').sort()) {
    const { mtimeMs, size } = statSync(join(root, file));
    hash.update(`${file} ${mtimeMs} ${size}\n`);
  }
  return hash.digest('hex');
}

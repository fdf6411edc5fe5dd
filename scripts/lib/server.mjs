import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Trouble } from './say.mjs';

/** Farlo starts with at least this much room, so that the database can write. */
const LEAST_FREE_BYTES = 200 * 2 ** 20;

/** Makes sure that a data folder can be written into and has room. @throws Trouble that says what to do */
export function checkFolder(folder) {
  const probe = join(folder, `.probe-${process.pid}`);
  try {
    mkdirSync(folder, { recursive: true });
    writeFileSync(probe, 'x');
    rmSync(probe);
  } catch (error) {
    const reasons = {
      ENOSPC: 'the disk is full. Free some space, then start again',
      EROFS: 'it lies on a disk that can only be read. Make it writable, or set FARLO_DATA to another folder',
      ENOTDIR: 'a file stands where the folder should be. Set FARLO_DATA to another folder',
      EEXIST: 'a file stands where the folder should be. Set FARLO_DATA to another folder',
    };
    throw new Trouble(
      `The data folder ${folder} cannot be written: ${reasons[error.code] ?? `you have no right to it (${error.code}). Give it to yourself, or set FARLO_DATA to another folder`}.`,
    );
  }
  const { bavail, bsize } = statfsSync(folder);
  const free = bavail * bsize;
  if (free < LEAST_FREE_BYTES)
    throw new Trouble(
      `Only ${Math.floor(free / 2 ** 20)} MB are free on the disk of ${folder}; Farlo needs ${LEAST_FREE_BYTES / 2 ** 20} MB to keep your edits safe. Free some space, then start again.`,
    );
}

/** Passwords of this installation, made once and kept readable only by its owner. @throws Trouble when the folder cannot be used */
export function secretsOf(folder) {
  checkFolder(folder);
  const file = join(folder, 'secrets.json');
  if (!existsSync(file)) {
    writeFileSync(
      file,
      JSON.stringify({
        database: randomBytes(18).toString('hex'),
        session: randomBytes(32).toString('hex'),
      }),
      { mode: 0o600 },
    );
  }
  try {
    const secrets = JSON.parse(readFileSync(file, 'utf8'));
    if (typeof secrets.database === 'string' && typeof secrets.session === 'string') return secrets;
  } catch {
    // Told below.
  }
  throw new Trouble(
    `${file} cannot be read. Bring it back from a backup; without one, delete this one file: a new one is made, and everybody signs in again. Nothing else is lost.`,
  );
}

/**
 * Starts the server process and waits until it answers.
 * @param {{root: string, env: Record<string, string>, onLine?: (line: string) => void, onExit?: () => void}} options
 */
export async function startServer({ root, env, onLine, onExit }) {
  const child = fork(join(root, 'server/main.ts'), {
    cwd: root,
    execArgv: ['--import', 'tsx', '--max-old-space-size=4096'],
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'pipe', 'ipc'],
  });
  let errors = '';
  child.stderr.on('data', (chunk) => {
    errors = (errors + chunk).slice(-4000);
    process.stderr.write(chunk);
  });
  let exited = false;
  const gone = new Promise((resolve) =>
    child.once('exit', () => {
      exited = true;
      resolve();
    }),
  );
  await new Promise((resolve, reject) => {
    child.on('message', ({ line }) => (line === 'ready' ? resolve() : onLine?.(line)));
    void gone.then(() =>
      reject(
        new Trouble(
          errors.includes('EADDRINUSE')
            ? 'The port is taken. Set FARLO_PORT to a free one.'
            : 'The server did not start; what it said stands above.',
        ),
      ),
    );
  });
  if (onExit) void gone.then(onExit);
  return {
    pid: child.pid,
    kill: () => child.kill('SIGKILL'),
    stop: async () => {
      if (!exited) child.kill('SIGTERM');
      await gone;
    },
  };
}

import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Trouble } from './say.mjs';

/** Passwords of this installation, made once and kept readable only by its owner. */
export function secretsOf(folder) {
  const file = join(folder, 'secrets.json');
  if (!existsSync(file)) {
    try {
      mkdirSync(folder, { recursive: true });
      writeFileSync(
        file,
        JSON.stringify({
          database: randomBytes(18).toString('hex'),
          session: randomBytes(32).toString('hex'),
        }),
        { mode: 0o600 },
      );
    } catch (error) {
      throw new Trouble(
        `The data folder ${folder} cannot be written (${error.code}). Give yourself the right to it, or set FARLO_DATA to another folder.`,
      );
    }
  }
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    throw new Trouble(
      `${file} is damaged. Restore it from a copy, or delete it (everyone will have to sign in again).`,
    );
  }
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

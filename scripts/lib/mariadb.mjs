import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, openSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { say, Trouble } from './say.mjs';

const READY_SECONDS = 60;
/** A database that does not end by itself in this time is killed: it comes back from that by its log. */
const END_SECONDS = 15;

/** True when something listens on a loopback port. */
export function portTaken(port) {
  return new Promise((resolve) => {
    const socket = connect({ port, host: '127.0.0.1' });
    socket.once('connect', () => {
      socket.destroy();
      resolve(true);
    });
    socket.once('error', () => resolve(false));
  });
}

/** Process id of a database that an earlier start left running over a data folder, or undefined. */
export function leftOverDatabase(folder) {
  try {
    const pid = Number(readFileSync(join(folder, 'database.pid'), 'utf8').trim());
    // The id may belong to somebody else by now: only a database over this very folder is ours.
    const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0');
    return command.some((word) => word === `--datadir=${join(folder, 'database')}`) ? pid : undefined;
  } catch {
    return undefined;
  }
}

/** True while a process has its files open: neither gone nor only waiting for its parent to take notice. */
function isAlive(pid) {
  try {
    return !/^State:\s+[ZX]/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'));
  } catch {
    return false;
  }
}

/** Ends a database that a closed terminal or a killed start left behind, so that its folder can be opened again. */
async function endLeftOver(folder) {
  const pid = leftOverDatabase(folder);
  if (pid === undefined) return;
  say('A database of an earlier start is still running; it is ended first …');
  process.kill(pid, 'SIGTERM');
  // It takes its pid file away before it lets go of the folder: the process itself must be gone.
  let killed = false;
  for (let waited = 0; isAlive(pid); waited += 0.1) {
    if (waited > END_SECONDS && !killed) {
      process.kill(pid, 'SIGKILL');
      killed = true;
    }
    if (waited > READY_SECONDS)
      throw new Trouble(
        `The database of an earlier start (process ${pid}) does not end. Wait a moment, then start again.`,
      );
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/**
 * Starts a private MariaDB on loopback, makes its tables' database and user, and waits until it answers.
 * @param {{folder: string, port: number, name: string, password: string, onExit?: () => void}} options
 * @returns {Promise<{stop: () => Promise<void>, kill: () => void, pid: number}>}
 */
export async function startMariadb({ folder, port, name, password, onExit }) {
  await endLeftOver(folder);
  if (await portTaken(port))
    throw new Trouble(
      `Port ${port} is taken by another program, so the database cannot listen there. Set FARLO_DB_PORT to a free port.`,
    );
  const data = join(folder, 'database');
  const log = join(folder, 'database.log');
  mkdirSync(folder, { recursive: true });
  if (!existsSync(join(data, 'mysql'))) {
    say('Making the database …');
    rmSync(data, { recursive: true, force: true });
    const made = spawnSync(
      'mariadb-install-db',
      [
        '--no-defaults',
        `--datadir=${data}`,
        '--auth-root-authentication-method=normal',
        '--skip-test-db',
        ...asUser(),
      ],
      { encoding: 'utf8' },
    );
    if (made.status !== 0)
      throw new Trouble(
        `The database could not be made in ${data}: ${lastLine(made.stderr || made.stdout)}. Is the folder writable, and is there space on the disk?`,
      );
  }
  // Run at every start: it makes what is missing and gives the present password.
  const init = join(folder, 'database-init.sql');
  writeFileSync(
    init,
    `CREATE DATABASE IF NOT EXISTS \`${name}\` CHARACTER SET utf8mb4;\nCREATE USER IF NOT EXISTS farlo@'127.0.0.1';\nALTER USER farlo@'127.0.0.1' IDENTIFIED BY '${password}';\nGRANT ALL ON \`${name}\`.* TO farlo@'127.0.0.1';\nGRANT ALL ON \`${name}\\_%\`.* TO farlo@'127.0.0.1';\nFLUSH PRIVILEGES;\n`,
    { mode: 0o600 },
  );
  const out = openSync(log, 'a');
  const logged = statSync(log).size;
  const child = spawn(
    mariadbd(),
    [
      '--no-defaults',
      `--datadir=${data}`,
      `--socket=${join(folder, 'database.sock')}`,
      `--pid-file=${join(folder, 'database.pid')}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      `--init-file=${init}`,
      '--character-set-server=utf8mb4',
      '--innodb-flush-log-at-trx-commit=1',
      '--max-allowed-packet=128M',
      '--skip-name-resolve',
      ...asUser(),
    ],
    // A group of its own: Ctrl-C in the terminal must reach the server first.
    { stdio: ['ignore', out, out], detached: true },
  );
  let exited = false;
  const gone = new Promise((resolve) =>
    child.once('exit', () => {
      exited = true;
      resolve();
    }),
  );
  // Its port is open before it is done with its first statements; told to end in between, it would never do so.
  const isReady = async () =>
    (await portTaken(port)) && readFileSync(log).subarray(logged).includes('ready for connections');
  for (let waited = 0; !(await isReady()); waited += 0.1) {
    if (exited)
      throw new Trouble(
        `The database does not start: ${errorLine(log)}. Nothing was changed. If the disk is full, free some space and start again; if ${data} is damaged, bring back your last backup into a new folder (npm run restore), and keep this one until all is well. The whole story is in ${log}.`,
      );
    if (waited > READY_SECONDS)
      throw new Trouble(`The database does not answer after ${READY_SECONDS} s; see ${log}.`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
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

const mariadbd = () => (existsSync('/usr/sbin/mariadbd') ? '/usr/sbin/mariadbd' : 'mariadbd');
const asUser = () => (process.getuid?.() === 0 ? ['--user=root'] : []);
const lastLine = (text) => text.trim().split('\n').at(-1) ?? '';

function errorLine(log) {
  const lines = readFileSync(log, 'utf8').trim().split('\n');
  const error = lines.filter((line) => line.includes('[ERROR]')).at(-2) ?? lines.at(-1) ?? '';
  return error.replace(/^.*\[ERROR\]\s*/, '').trim();
}

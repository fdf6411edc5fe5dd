// Starts Farlo: installs what is missing, starts the database and the server, serves the demo. Ctrl-C stops both.
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkNode, ensureDebian, ensureNpmPackages, ensureWebBuild } from './lib/install.mjs';
import { ensureKernel } from './lib/kernel.mjs';
import { portTaken, startMariadb } from './lib/mariadb.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';
import { secretsOf, startServer } from './lib/server.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const folder = resolve(process.env.FARLO_DATA ?? join(root, '.farlo'));
const port = Number(process.env.FARLO_PORT ?? 4870);
const databasePort = Number(process.env.FARLO_DB_PORT ?? 4871);
const host = process.env.FARLO_HOST || '127.0.0.1';
const isLoopback = (name) => name === 'localhost' || name === '::1' || name.startsWith('127.');
const DATABASE = 'farlo';
const RESTART_MS = 1000;

await runScript(async () => {
  console.log('\nFarlo');
  checkNode();
  for (const [name, value] of [
    ['FARLO_PORT', port],
    ['FARLO_DB_PORT', databasePort],
  ])
    if (!Number.isInteger(value) || value < 1 || value > 65535)
      throw new Trouble(`${name} must be a port between 1 and 65535.`);
  if (await portTaken(port))
    throw new Trouble(
      `Port ${port} is taken. Is Farlo running already (http://127.0.0.1:${port})? Otherwise set FARLO_PORT to a free port.`,
    );
  ensureDebian([{ command: 'mariadbd', name: 'mariadb-server' }]);
  ensureNpmPackages(root);
  ensureKernel(root);
  ensureWebBuild(root);
  const secrets = secretsOf(folder);
  let stopping = false;
  let database;
  let server;

  // Either process may die; it is started again, and what was acknowledged is still there.
  const keepDatabase = async () => {
    database = await startMariadb({
      folder,
      port: databasePort,
      name: DATABASE,
      password: secrets.database,
      onExit: () => again('database', keepDatabase),
    });
  };
  const keepServer = async () => {
    const env = {
      FARLO_DATA: folder,
      FARLO_PORT: String(port),
      FARLO_DB_PORT: String(databasePort),
      FARLO_DB_NAME: DATABASE,
      FARLO_DB_PASSWORD: secrets.database,
      FARLO_SESSION_SECRET: secrets.session,
      FARLO_WEB: join(root, 'dist/web'),
    };
    server = await startServer({
      root,
      env,
      onLine: (line) => line !== 'demo ready' && say(line),
      onExit: () => again('server', keepServer),
    });
  };
  const again = async (what, start) => {
    while (!stopping) {
      say(`The ${what} ended unexpectedly; starting it again …`);
      await new Promise((done) => setTimeout(done, RESTART_MS));
      try {
        return await start();
      } catch (error) {
        say(error.message);
      }
    }
  };

  const stop = async () => {
    if (stopping) return;
    stopping = true;
    say('Stopping …');
    await server?.stop();
    await database?.stop();
    process.exit(0);
  };
  // A closed terminal (SIGHUP) ends everything as Ctrl-C does. A killed start cannot: then the server, which notices,
  // ends the database.
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, stop);
  // Nobody reads what a closed terminal is told; that must not keep the children from being ended.
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);

  say('Starting the database …');
  await keepDatabase();
  say('Starting the server …');
  try {
    await keepServer();
  } catch (error) {
    stopping = true;
    await database.stop();
    throw error;
  }
  const shown = host === '0.0.0.0' || host === '::' ? '127.0.0.1' : host;
  console.log(`\n  Farlo is at  http://${shown}:${port}`);
  if (!isLoopback(host) && process.env.FARLO_TLS !== 'on')
    console.log('  Browsers on other machines need TLS to play sound: see docs/deployment.md.');
  if (process.env.FARLO_DEMO === 'off')
    console.log('  The first to open it founds the studio and becomes its owner.');
  if (process.env.FARLO_DEMO !== 'off') {
    console.log('  Sign in as one of the demo people (the sign-in page offers them in one press):');
    console.log('    owner   ilse@saltglass.example    lantern-and-tide');
    console.log('    editor  tomas@saltglass.example   ferry-at-nine');
    console.log('    viewer  wren@saltglass.example    listen-only');
  }
  console.log('  Stop with Ctrl-C.\n');
});

// Runs every test: unit, server (real MariaDB) and browser (real Chromium). Installs what is missing first.
// The last line is `N passed, N failed`, summed over all of them.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkNode, ensureDebian, ensureNpmPackages, ensureWebBuild } from './lib/install.mjs';
import { ensureKernel } from './lib/kernel.mjs';
import { startMariadb } from './lib/mariadb.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';
import { secretsOf, startServer } from './lib/server.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const DEMO_MINUTES = 6;

const freePort = () =>
  new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => resolve(port));
    });
  });

const run = (args, env = {}) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, args, {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, ...env },
    });
    child.on('exit', (code) => resolve(code ?? 1));
  });

/** Passed and failed of a Vitest report; a file that could not even be loaded counts as a failure. */
function vitestCounts(file, code) {
  try {
    const report = JSON.parse(readFileSync(file, 'utf8'));
    const broken = report.testResults.filter(
      (suite) => suite.status === 'failed' && suite.assertionResults.length === 0,
    ).length;
    const failed = report.numFailedTests + broken;
    return { passed: report.numPassedTests, failed: code !== 0 && failed === 0 ? 1 : failed };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

function playwrightCounts(file, code) {
  try {
    const { stats } = JSON.parse(readFileSync(file, 'utf8'));
    const failed = stats.unexpected + stats.skipped;
    return { passed: stats.expected + stats.flaky, failed: code !== 0 && failed === 0 ? 1 : failed };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

await runScript(async () => {
  checkNode();
  ensureDebian([
    { command: 'mariadbd', name: 'mariadb-server' },
    { command: 'chromium', name: 'chromium' },
    // A real SoundFont, taken in whole by the server's tests.
    { file: '/usr/share/sounds/sf2/TimGM6mb.sf2', name: 'timgm6mb-soundfont' },
  ]);
  ensureNpmPackages(root);
  ensureKernel(root);
  ensureWebBuild(root);
  const place = mkdtempSync(join(tmpdir(), 'farlo-tests-'));
  // Named as on a default install: a dot in front has been in the way before.
  const folder = join(place, '.farlo');
  const reports = { vitest: join(folder, 'vitest.json'), browser: join(folder, 'browser.json') };
  const secrets = secretsOf(folder);
  const [port, databasePort] = [await freePort(), await freePort()];
  let database;
  let server;
  let total;
  try {
    say('Starting Farlo for the browser tests …');
    database = await startMariadb({ folder, port: databasePort, name: 'farlo', password: secrets.database });
    const demo = Promise.withResolvers?.() ?? withResolvers();
    server = await startServer({
      root,
      env: {
        FARLO_DATA: folder,
        FARLO_PORT: String(port),
        FARLO_DB_PORT: String(databasePort),
        FARLO_DB_NAME: 'farlo',
        FARLO_DB_PASSWORD: secrets.database,
        FARLO_SESSION_SECRET: secrets.session,
        FARLO_WEB: join(root, 'dist/web'),
        FARLO_QUIET: 'on',
      },
      onLine: (line) => line === 'demo ready' && demo.resolve(),
    });
    say('Unit and server tests …');
    const vitest = await run([
      'node_modules/vitest/vitest.mjs',
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile=${reports.vitest}`,
    ]);
    say('Waiting for the demo libraries …');
    const late = setTimeout(
      () => demo.reject(new Trouble(`The demo libraries were not ready after ${DEMO_MINUTES} minutes.`)),
      DEMO_MINUTES * 60_000,
    );
    await demo.promise;
    clearTimeout(late);
    say('Browser tests …');
    const browser = await run(['node_modules/@playwright/test/cli.js', 'test'], {
      FARLO_E2E_URL: `http://127.0.0.1:${port}`,
      FARLO_E2E_REPORT: reports.browser,
    });
    const counts = [vitestCounts(reports.vitest, vitest), playwrightCounts(reports.browser, browser)];
    total = { passed: counts[0].passed + counts[1].passed, failed: counts[0].failed + counts[1].failed };
  } finally {
    await server?.stop();
    await database?.stop();
    rmSync(place, { recursive: true, force: true });
  }
  console.log(`${total.passed} passed, ${total.failed} failed`);
  process.exit(total.failed > 0 || total.passed === 0 ? 1 : 0);
});

function withResolvers() {
  const handle = {};
  handle.promise = new Promise((resolve, reject) => Object.assign(handle, { resolve, reject }));
  return handle;
}

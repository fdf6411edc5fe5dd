// Prints what Farlo reaches of the figures it is to reach, as a table, and writes them to bench/results.json.
import { chromium } from '@playwright/test';
import { build } from 'vite';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { CHROMIUM } from './lib/chromium.mjs';
import { ensureDebian, ensureNpmPackages, ensureWebBuild } from './lib/install.mjs';
import { ensureKernel } from './lib/kernel.mjs';
import { measureEditing, measureImport, measureSharing } from './lib/bench-editing.mjs';
import { startMariadb } from './lib/mariadb.mjs';
import { runScript, say } from './lib/say.mjs';
import { secretsOf, startServer } from './lib/server.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const LIVE_SECONDS = 60;
const BOUNCE_SECONDS = 180;
const HALF_BLOCK_MS = (128 / 48_000 / 2) * 1000;
const rows = [];
const row = (id, what, figure, unit, bar, met) =>
  rows.push({
    id,
    what,
    figure: typeof figure === 'number' ? Math.round(figure * 1000) / 1000 : figure,
    unit,
    bar,
    met: met ? 'met' : 'not met',
  });

async function bundle(entry, folder, format) {
  await build({
    root,
    configFile: false,
    logLevel: 'error',
    resolve: { conditions: ['import'] },
    build: {
      outDir: folder,
      emptyOutDir: false,
      target: 'es2022',
      minify: false,
      lib: {
        entry: join(root, entry),
        formats: [format],
        name: 'bench',
        fileName: () => entry.replace(/\W/g, '-') + '.mjs',
      },
    },
  });
  return join(folder, entry.replace(/\W/g, '-') + '.mjs');
}

/** Brings a large instrument in by the page's own dialog, then measures in a fresh page how soon it sounds. */
async function measureLarge(page, folder, port, inPage) {
  say('A 200 MB instrument …');
  const files = join(folder, 'large');
  mkdirSync(files);
  execFileSync(process.execPath, ['--import', 'tsx', join(root, 'bench/large-instrument.ts'), files], {
    cwd: root,
  });
  await page.goto(`http://127.0.0.1:${port}/shelf`);
  await page.getByRole('button', { name: 'Bring in sounds' }).click();
  await page.getByLabel('Choose files').setInputFiles(readdirSync(files).map((name) => join(files, name)));
  // Nothing tells the family of a section without a name, so that it is asked.
  await page.getByLabel('Family of Large section').selectOption('strings', { timeout: 120_000 });
  await page.getByRole('button', { name: 'Take in' }).click({ timeout: 120_000 });
  await page.getByPlaceholder('Find a sound').fill('large section');
  await page.getByRole('button', { name: 'Large section', exact: true }).click({ timeout: 240_000 });
  await page.reload();
  await page.getByPlaceholder('Find a sound').fill('lamp bells');
  await page.getByRole('button', { name: 'Lamp bells', exact: true }).click();
  // Another sound first: the audio thread is awake, as it is for whoever has heard anything at all.
  await page.getByRole('button', { name: /^Hear/ }).first().click();
  await page.waitForTimeout(8000);
  await page.getByPlaceholder('Find a sound').fill('large section');
  await page.getByRole('button', { name: 'Large section', exact: true }).click();
  await page.waitForTimeout(1500);
  await page.addScriptTag({ path: inPage });
  const times = [];
  for (const technique of ['long', 'tremolo', 'staccato'])
    times.push(await page.evaluate((name) => window.bench.pressToSound(name), technique));
  const rate = await page.evaluate(() => window.bench.loadRate());
  return { pressed: times.sort((a, b) => a - b)[1], rate };
}

await runScript(async () => {
  ensureDebian([
    { command: 'mariadbd', name: 'mariadb-server' },
    { command: 'chromium', name: 'chromium' },
  ]);
  ensureNpmPackages(root);
  ensureKernel(root);
  ensureWebBuild(root);
  const folder = mkdtempSync(join(tmpdir(), 'farlo-bench-'));
  let database;
  let server;
  try {
    say('First start: recording the demo libraries …');
    const secrets = secretsOf(folder);
    const [port, databasePort] = [4890, 4891];
    const base = `http://127.0.0.1:${port}`;
    const begun = Date.now();
    database = await startMariadb({ folder, port: databasePort, name: 'farlo', password: secrets.database });
    const times = {};
    let ready;
    const demo = new Promise((resolve) => (ready = resolve));
    server = await startServer({
      root,
      env: {
        FARLO_DATA: folder,
        FARLO_PORT: String(port),
        FARLO_DB_PORT: String(databasePort),
        FARLO_DB_PASSWORD: secrets.database,
        FARLO_SESSION_SECRET: secrets.session,
        FARLO_WEB: join(root, 'dist/web'),
      },
      onLine: (line) => {
        if (line.includes('can be played')) times.first = (Date.now() - begun) / 1000;
        if (line === 'demo ready') ready((times.all = (Date.now() - begun) / 1000));
      },
    });
    await demo;
    say('In Node …');
    const node = JSON.parse(
      execFileSync(process.execPath, [await bundle('bench/in-node.ts', folder, 'es')], { encoding: 'utf8' }),
    );
    const binary = join(folder, 'inner-loop');
    const compiled =
      spawnSync('gcc', ['-O3', '-march=native', '-o', binary, join(root, 'bench/inner-loop.c'), '-lm'])
        .status === 0;
    const inC = compiled
      ? [1, 2, 3]
          .map(() => Number(execFileSync(binary, { encoding: 'utf8' }).split(' ')[0]))
          .sort((a, b) => a - b)[1]
      : undefined;

    say(`In Chromium (${LIVE_SECONDS} s of live playing among it) …`);
    // A window with a folder of its own, as people's are: a private one keeps its files in memory.
    const browser = await chromium.launchPersistentContext(join(folder, 'browser'), {
      ...CHROMIUM,
      viewport: { width: 1280, height: 800 },
      bypassCSP: true,
      baseURL: base,
    });
    const page = await browser.newPage();
    await page.goto(`http://127.0.0.1:${port}/`);
    await page.getByRole('button', { name: 'Ilse Marrow' }).click();
    await page.waitForFunction(() => {
      const loads = Object.values(window.farloMeasuring?.useInstruments.getState().loads ?? {});
      return loads.length > 1 && loads.every((load) => load.complete);
    });
    const inPage = await bundle('bench/in-page.ts', folder, 'iife');
    await page.addScriptTag({ path: inPage });
    const memory = await page.evaluate(() => window.bench.memory());
    const ratio = await page.evaluate(() => window.bench.engineAgainstGraph());
    const speeds = [];
    for (let n = 0; n < 3; n++)
      speeds.push(await page.evaluate((seconds) => window.bench.bounceSpeed(seconds), BOUNCE_SECONDS));
    const bounceSpeed = speeds.sort((a, b) => a - b)[1];
    const live = await page.evaluate((seconds) => window.bench.live(seconds), LIVE_SECONDS);
    say('A template of 60 tracks from five positions …');
    const stress = [];
    for (const notes of [1, 2, 3, 4])
      stress.push({ notes: 60 * notes, ...(await page.evaluate((n) => window.bench.stress(n, 8), notes)) });
    const large = await measureLarge(page, folder, port, inPage);
    say('A report of 24 techniques from five positions …');
    await page.goto(`http://127.0.0.1:${port}/shelf`);
    await page.getByText('instruments · ').waitFor();
    await page.addScriptTag({ path: inPage });
    const report = await page.evaluate(() => window.bench.report('Wrenlow Strings, large', 'Violins I'));
    say('Twenty thousand notes in one part …');
    const made = measureImport(root, base, 20_000);
    const editing = await measureEditing(page, made.id);
    await browser.close();
    say('Fifty browsers at one template …');
    const sharing = measureSharing(root, base);

    row(
      'P1',
      'engine against the audio graph of the browser, everything on',
      ratio,
      '× its voices',
      '≥ 4',
      ratio >= 4,
    );
    const loops = [
      ['one layer', node.oneLayer, 0.9],
      ['two layers that blend, each of them', node.twoLayers / 2, 1.6],
    ];
    for (const [what, nanoseconds, least] of loops) {
      const name = `inner loop against C (gcc -O3 -march=native), ${what}`;
      if (inC === undefined) row('P1b', name, 'no gcc here', '', `≥ ${least}`, false);
      else row('P1b', name, inC / nanoseconds, '× C', `≥ ${least}`, inC / nanoseconds >= least);
    }
    row(
      'P2',
      'live, 256 stereo position-voices: block p99, median of 3 stretches',
      live.p99Milliseconds,
      'ms',
      `≤ ${HALF_BLOCK_MS.toFixed(2)}`,
      live.p99Milliseconds <= HALF_BLOCK_MS,
    );
    row(
      'P2',
      `live, ${LIVE_SECONDS} s: sound behind the clock (under-runs)`,
      live.behindSeconds,
      's',
      '≤ 0.05',
      live.behindSeconds <= 0.05,
    );
    row(
      'P3',
      'bounce of 40 tracks with two notes each, 3 minutes, with hall and all tracks as files, median of 3',
      bounceSpeed,
      '× real time',
      '≥ 8',
      bounceSpeed >= 8,
    );
    row('P7', 'clashes of the keymaps of 1,000 tracks', node.keymaps, 'ms', '≤ 1000', node.keymaps <= 1000);
    row('P4', 'plan 100,000 notes from cold', node.large.cold, 'ms', '≤ 1000', node.large.cold <= 1000);
    row('P4', 'plan after an edit of one note', node.large.edit, 'ms', '≤ 10', node.large.edit <= 10);
    row(
      'P4',
      'growth from 10,000 to 100,000 notes',
      node.large.cold / node.small.cold,
      '×',
      '≤ 11',
      node.large.cold / node.small.cold <= 11,
    );
    for (const [what, figure] of Object.entries(editing))
      row(
        'P5',
        `part of 20,000 notes, ${what}: script time of two frames, p95`,
        figure,
        'ms',
        '≤ 16 (8 a frame)',
        figure <= 16,
      );
    row(
      'P9',
      '50 browsers edit one template for 30 s: an edit, p99',
      sharing.p99,
      'ms',
      '≤ 100',
      sharing.p99 <= 100,
    );
    row(
      'P9',
      `of ${sharing.edits} edits lost, or not told to somebody`,
      sharing.lost + sharing.untold,
      '',
      '0',
      sharing.lost + sharing.untold === 0,
    );
    row('Edits', 'bring in 20,000 notes, slowest piece', made.slowest, 'ms', '≤ 2000', made.slowest <= 2000);
    row(
      'P6',
      'press a technique of a 200 MB instrument: first sound',
      large.pressed,
      'ms',
      '≤ 300',
      large.pressed <= 300,
    );
    row('P6', 'load rate on loopback', large.rate / 1e6, 'MB/s', '≥ 150', large.rate >= 150e6);
    row('P8', 'first start to first playable notes', times.first, 's', '≤ 10', times.first <= 10);
    row('P8', 'first start to all demo libraries', times.all, 's', '≤ 120', times.all <= 120);
    row('Listen', 'report of 24 techniques × 5 positions', report.seconds, 's', '≤ 60', report.seconds <= 60);
    row(
      'Listen',
      'frame while scrolling meanwhile, p95',
      report.frame,
      'ms',
      '≤ 34 (two frames)',
      report.frame <= 34,
    );
    const off = (Math.abs(memory.held - memory.counted) / memory.held) * 100;
    row('P10', 'memory counted against memory held', off, '% off', '≤ 2', off <= 2);
    console.table(rows.map(({ id, what, figure, unit, bar, met }) => ({ id, what, figure, unit, bar, met })));
    const percent = (share) => `${(share * 100).toFixed(1)} %`;
    say('60 tracks from five positions, two layers each, with low-pass and hall, live:');
    console.table(
      stress.map(({ notes, sounding, audioShare, workerShares, lateShare, givenUp }) => ({
        'notes written': notes,
        sounding,
        'audio thread': percent(audioShare),
        workers: workerShares.map(percent).join(', '),
        'blocks late': percent(lateShare),
        'given up': givenUp,
      })),
    );
    rows.push({ id: 'Stress', what: 'live template, by notes written', figure: stress });
    writeFileSync(join(root, 'bench', 'results.json'), JSON.stringify(rows, null, 2) + '\n');
  } finally {
    await server?.stop();
    await database?.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  process.exit(0);
});

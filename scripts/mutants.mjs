// How many small changes of the code the tests notice: npm run mutants -- FOLDER [FOLDER …] [--sample N] [--seed N].
// A seeded sample of the changes of each folder is tried; prints a table and writes reports/mutants/FOLDER.json.
import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { ensureDebian, ensureNpmPackages } from './lib/install.mjs';
import { ensureKernel } from './lib/kernel.mjs';
import { runScript, say, Trouble } from './lib/say.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const BAR = 75;
const MOST_WITHIN = 12;
/** Tests that are asked for a folder beside its own: those of the routes speak to the store as well. */
const TESTS = {
  // Lines that are played and heard take minutes; what they hear is worked out here in small.
  'core/performance': [
    'clicks',
    'filters',
    'heard',
    'keymapped',
    'leads',
    'levels',
    'live-queue',
    'moves',
    'performance',
    'plan-summary',
    'to-events',
  ].map((name) => `core/performance/${name}.test.ts`),
  // What an SFZ says is checked by what becomes of it.
  'core/formats': ['core/formats/**/*.test.ts', 'core/intake/sfz.test.ts', 'core/intake/coverage.test.ts'],
  // What is read back from a performance is checked against what was written.
  'core/intake': ['core/intake/**/*.test.ts', 'core/deliver/round-trip.test.ts'],
  'server/store': ['server/store/**/*.test.ts', 'server/http/**/*.test.ts'],
  'server/http': ['server/http/**/*.test.ts', 'server/store/**/*.test.ts', 'server/samples/import.test.ts'],
};

/** A generator of numbers in [0, 1) that gives the same ones for the same seed (mulberry32, public domain). */
function seeded(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const sourcesOf = (folder) =>
  readdirSync(join(root, folder), { recursive: true })
    .map((name) => join(folder, name))
    .filter(
      (file) =>
        file.endsWith('.ts') &&
        !/\.(test|d)\.ts$|\/kernel\/(assembly\/|code\.ts)/.test(file) &&
        statSync(join(root, file)).isFile(),
    )
    .sort();

/** Every place that can be changed. */
async function placesIn(files) {
  const { createInstrumenter } = await import('@stryker-mutator/instrumenter');
  const { createInjector } = await import('typed-inject');
  const quiet = () => undefined;
  const logger = {
    isDebugEnabled: () => false,
    isTraceEnabled: () => false,
    debug: quiet,
    trace: quiet,
    info: quiet,
    warn: quiet,
    error: quiet,
  };
  const instrumenter = createInjector().provideValue('logger', logger).injectFunction(createInstrumenter);
  const { mutants } = await instrumenter.instrument(
    files.map((name) => ({
      name: join(root, name),
      mutate: true,
      content: readFileSync(join(root, name), 'utf8'),
    })),
    { ignorers: [], excludedMutations: [], noHeader: true, plugins: null },
  );
  return mutants.map(({ fileName, location: { start, end } }) => ({
    file: fileName.slice(root.length + 1),
    from: start.line * 1000 + start.column,
    to: end.line * 1000 + end.column,
    range: `${start.line + 1}:${start.column}-${end.line + 1}:${end.column}`,
  }));
}

/** Places drawn by a seed until about `count` changes lie in them: a place brings along those that lie within it. */
function sampled(places, count, seed) {
  const random = seeded(seed);
  const left = [...places].sort((a, b) =>
    a.file < b.file ? -1 : a.file > b.file ? 1 : a.from - b.from || a.to - b.to,
  );
  const chosen = new Set();
  const ranges = new Set();
  while (left.length > 0 && chosen.size < count) {
    const [place] = left.splice(Math.floor(random() * left.length), 1);
    const within = places.filter(
      (one) => one.file === place.file && one.from >= place.from && one.to <= place.to,
    );
    // Whole functions would fill the sample with one neighbourhood.
    if (within.length > MOST_WITHIN) continue;
    for (const one of within) chosen.add(one);
    ranges.add(`${place.file}:${place.range}`);
  }
  return [...ranges];
}

/** Tries the sample of a folder. @returns counts by outcome */
async function tryFolder(folder, { sample, seed }) {
  const places = sampled(await placesIn(sourcesOf(folder)), sample, seed);
  const work = join(root, 'reports', 'mutants');
  mkdirSync(work, { recursive: true });
  const name = folder.replaceAll('/', '-');
  const report = join(work, `${name}.json`);
  const server = folder.startsWith('server/');
  const include = TESTS[folder] ?? [`${folder}/**/*.test.ts`];
  const vitestConfig = `.mutants-${name}.vitest.config.mjs`;
  const config = `.mutants-${name}.json`;
  writeFileSync(
    join(root, vitestConfig),
    `export default { test: ${JSON.stringify({
      include,
      setupFiles: ['server/testing/setup.ts'],
      testTimeout: 60_000,
      hookTimeout: 120_000,
      ...(server ? { globalSetup: ['server/testing/global-setup.ts'] } : {}),
    })} };\n`,
  );
  writeFileSync(
    join(root, config),
    JSON.stringify({
      testRunner: 'vitest',
      vitest: { configFile: vitestConfig, related: false },
      plugins: ['@stryker-mutator/vitest-runner'],
      coverageAnalysis: 'perTest',
      ignoreStatic: true,
      mutate: places,
      ignorePatterns: ['.farlo', 'dist', 'reports', 'test-results', 'docs', '.git'],
      concurrency: 2,
      timeoutMS: 20_000,
      reporters: ['json', 'clear-text'],
      clearTextReporter: { allowColor: false, logTests: false, reportScoreTable: false },
      jsonReporter: { fileName: `reports/mutants/${name}.json` },
      tempDirName: `.mutants-${name}`,
      checkers: [],
      disableTypeChecks: false,
    }),
  );
  try {
    const done = spawnSync(
      process.execPath,
      ['node_modules/@stryker-mutator/core/bin/stryker.js', 'run', config],
      {
        cwd: root,
        stdio: ['ignore', process.env.CI ? 'ignore' : 'inherit', 'inherit'],
      },
    );
    if (done.status !== 0)
      throw new Trouble(`The changes of ${folder} could not be tried; what it said stands above.`);
  } finally {
    for (const file of [vitestConfig, config, `.mutants-${name}`])
      rmSync(join(root, file), { recursive: true, force: true });
  }
  const counts = {};
  for (const { mutants } of Object.values(JSON.parse(readFileSync(report, 'utf8')).files))
    for (const { status } of mutants) counts[status] = (counts[status] ?? 0) + 1;
  return counts;
}

await runScript(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { sample: { type: 'string', default: '300' }, seed: { type: 'string', default: '9' } },
  });
  if (positionals.length === 0)
    throw new Trouble('Say which folders: npm run mutants -- server/store web/state');
  ensureNpmPackages(root);
  ensureKernel(root);
  ensureDebian([{ command: 'mariadbd', name: 'mariadb-server' }]);
  const rows = [];
  for (const folder of positionals) {
    say(`${folder} …`);
    const counts = await tryFolder(folder.replace(/\/$/, ''), {
      sample: Number(values.sample),
      seed: Number(values.seed),
    });
    const caught = (counts.Killed ?? 0) + (counts.Timeout ?? 0);
    const tried = caught + (counts.Survived ?? 0) + (counts.NoCoverage ?? 0);
    rows.push({
      folder,
      tried,
      caught,
      survived: counts.Survived ?? 0,
      'no test': counts.NoCoverage ?? 0,
      share: `${((caught / tried) * 100).toFixed(1)} %`,
      met: caught / tried >= BAR / 100,
    });
  }
  console.table(rows);
});

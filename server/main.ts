import 'reflect-metadata';
import { randomBytes } from 'node:crypto';
import type { Server } from 'node:http';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pino from 'pino';
import { isLoopback, readConfig } from './config.ts';
import { DemoLibraries } from './demo/libraries.ts';
import { seedDemo } from './demo/seed.ts';
import { buildApp } from './http/app.ts';
import { ThreadQueue } from './jobs/jobs.ts';
import { removePacks } from './samples/pack-writer.ts';
import { removeUnusedPacks } from './samples/unused-packs.ts';
import { Catalogue } from './store/catalogue.ts';
import { openStore } from './store/database.ts';
import { People } from './store/people.ts';

const config = readConfig(process.env);
const log = pino({ level: config.quiet ? 'error' : 'warn' });
const store = await openStore(config.database);
const catalogue = new Catalogue(store);
await catalogue.fillSummaries();
// Packs that a killed import left, or that nothing refers to any more, go before anything new is written.
removePacks(config.dataFolder, await catalogue.sweep());
const jobs = new ThreadQueue(2);
await removeUnusedPacks(catalogue, jobs, config.dataFolder);
const people = new People(store);
// Whoever comes first founds the studio; where others can reach the server, they must have seen this line.
const foundingCode =
  !config.demo && !isLoopback(config.host) && (await people.isEmpty())
    ? randomBytes(5).toString('hex')
    : undefined;
const app = buildApp(config, store, jobs, log, foundingCode);

const server = await new Promise<Server>((resolve, reject) => {
  const listening = app.express.listen(config.port, config.host, (error?: Error) =>
    error ? reject(error) : resolve(listening),
  );
});
const tell = (line: string) => {
  process.send?.({ line });
  if (!process.send) console.log(line);
};

if (foundingCode) tell(`Code to found the first studio: ${foundingCode}`);
let stopping = false;
if (config.demo) {
  const studioId = await seedDemo(store);
  tell('ready');
  new DemoLibraries(catalogue, jobs, config.dataFolder, studioId, tell)
    .make()
    .then(() => tell('demo ready'))
    .catch((error: unknown) => {
      if (!stopping) log.error({ err: error }, 'the demo libraries could not be made');
    });
} else tell('ready');

async function stop(afterwards: () => void = () => undefined): Promise<void> {
  if (stopping) return;
  stopping = true;
  await app.close();
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await store.close();
  afterwards();
  process.exit(0);
}

/** Ends the database of a data folder by the process id it wrote down. */
function stopOwnDatabase(folder: string): void {
  try {
    process.kill(Number(readFileSync(join(folder, 'database.pid'), 'utf8').trim()), 'SIGTERM');
  } catch {
    // It wrote none, or is gone already.
  }
}
process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
process.on('SIGHUP', () => void stop());
// The start command is gone: nobody could stop this process any more, nor the database that it started.
process.on('disconnect', () => void stop(() => stopOwnDatabase(config.dataFolder)));

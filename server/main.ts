import 'reflect-metadata';
import type { Server } from 'node:http';
import pino from 'pino';
import { readConfig } from './config.ts';
import { DemoLibraries } from './demo/libraries.ts';
import { seedDemo } from './demo/seed.ts';
import { buildApp } from './http/app.ts';
import { ThreadQueue } from './jobs/jobs.ts';
import { packsOnDisk, removePacks } from './samples/pack-writer.ts';
import { Catalogue } from './store/catalogue.ts';
import { openStore } from './store/database.ts';

const config = readConfig(process.env);
if (config.sessionSecret.length < 24)
  throw new Error('FARLO_SESSION_SECRET must have at least 24 characters; the start command makes one.');
const log = pino({ level: config.quiet ? 'error' : 'warn' });
const store = await openStore(config.database);
const catalogue = new Catalogue(store);
await catalogue.fillSummaries();
// Packs that a killed import left, or that nothing refers to any more, go before anything new is written.
removePacks(config.dataFolder, await catalogue.sweep());
const known = await catalogue.packIds();
removePacks(
  config.dataFolder,
  packsOnDisk(config.dataFolder).filter((id) => !known.has(id)),
);
const jobs = new ThreadQueue(2);
const app = buildApp(config, store, jobs, log);

const server = await new Promise<Server>((resolve, reject) => {
  const listening = app.express.listen(config.port, '127.0.0.1', (error?: Error) =>
    error ? reject(error) : resolve(listening),
  );
});
const tell = (line: string) => {
  process.send?.({ line });
  if (!process.send) console.log(line);
};

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

async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await app.close();
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await store.close();
  process.exit(0);
}
process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
// The start command is gone: nobody could stop this process any more.
process.on('disconnect', () => void stop());

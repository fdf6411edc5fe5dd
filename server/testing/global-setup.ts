import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { startMariadb } from '../../scripts/lib/mariadb.mjs';

declare module 'vitest' {
  interface ProvidedContext {
    databasePort: number;
    databasePassword: string;
  }
}

/** A port that is free now. */
export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}

/** One real MariaDB for all server tests, in a folder of its own that goes with it. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'farlo-test-db-'));
  const databasePort = await freePort();
  const databasePassword = 'for-tests-only';
  const database = await startMariadb({
    folder,
    port: databasePort,
    name: 'farlo',
    password: databasePassword,
  });
  project.provide('databasePort', databasePort);
  project.provide('databasePassword', databasePassword);
  return async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}

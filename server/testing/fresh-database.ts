import mariadb from 'mariadb';
import { randomUUID } from 'node:crypto';
import { inject } from 'vitest';
import type { Config } from '../config.ts';

/** Makes an empty database in the server of the tests, and tells how to reach it. */
export async function freshDatabase(): Promise<Config['database']> {
  const name = `farlo_${randomUUID().slice(0, 8)}`;
  const access = {
    host: '127.0.0.1',
    port: inject('databasePort'),
    user: 'farlo',
    password: inject('databasePassword'),
  };
  const connection = await mariadb.createConnection(access);
  await connection.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`);
  await connection.end();
  return { ...access, name };
}

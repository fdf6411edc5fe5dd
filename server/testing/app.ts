import mariadb from 'mariadb';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import request from 'supertest';
import { inject } from 'vitest';
import type { Role, SessionInfo } from '#api/index.ts';
import { seedDemo } from '../demo/seed.ts';
import { buildApp, type FarloApp } from '../http/app.ts';
import { ThreadQueue } from '../jobs/jobs.ts';
import { openStore, type Store } from '../store/database.ts';
import { People } from '../store/people.ts';

/** A whole application over a database of its own. */
export interface TestApp {
  app: FarloApp;
  store: Store;
  studioId: string;
  templateId: string;
  cueId: string;
  dataFolder: string;
  /** A signed-in caller; `outsider` is owner of another studio, `nobody` is not signed in. */
  as(who: Role | 'outsider' | 'nobody'): Promise<Caller>;
  close(): Promise<void>;
}

/** Calls routes with cookie and guard. */
export interface Caller {
  get(path: string): request.Test;
  post(path: string, body?: object): request.Test;
  delete(path: string): request.Test;
}

const PASSWORD = 'only-in-tests';

export async function startApp(): Promise<TestApp> {
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
  const dataFolder = mkdtempSync(join(tmpdir(), '.farlo-test-data-'));
  const store = await openStore({ ...access, name });
  const config = {
    port: 1,
    host: '127.0.0.1',
    proxies: 0,
    secure: false,
    dataFolder,
    database: { ...access, name },
    sessionSecret: 'a secret of at least 24 characters',
    demo: true,
    webFolder: undefined,
    quiet: true,
  };
  const app = buildApp(config, store, new ThreadQueue(2), pino({ level: 'silent' }));
  const studioId = await seedDemo(store);
  const people = new People(store);
  const other = await people.addStudio('Another studio');
  await people.addMember(other, {
    name: 'Out Sider',
    email: 'out@elsewhere.example',
    password: PASSWORD,
    role: 'owner',
  });
  const first = async (kind: 'template' | 'cue') =>
    (await store.models.records[kind].findOne({ raw: true })) as unknown as { id: string };
  const emails = {
    owner: 'ilse@saltglass.example',
    editor: 'tomas@saltglass.example',
    viewer: 'wren@saltglass.example',
    outsider: 'out@elsewhere.example',
  };
  const passwords = {
    owner: 'lantern-and-tide',
    editor: 'ferry-at-nine',
    viewer: 'listen-only',
    outsider: PASSWORD,
  };
  return {
    app,
    store,
    studioId,
    templateId: (await first('template')).id,
    cueId: (await first('cue')).id,
    dataFolder,
    as: async (who) => {
      const agent = request.agent(app.express);
      let { guard } = (await agent.get('/api/session')).body as SessionInfo;
      if (who !== 'nobody') {
        const answer = await agent
          .post('/api/session')
          .set('x-farlo-guard', guard)
          .send({ email: emails[who], password: passwords[who] });
        guard = (answer.body as SessionInfo).guard;
      }
      return {
        get: (path) => agent.get(`/api${path}`),
        post: (path, body) => {
          const call = agent.post(`/api${path}`).set('x-farlo-guard', guard);
          return body ? call.send(body) : call;
        },
        delete: (path) => agent.delete(`/api${path}`).set('x-farlo-guard', guard),
      };
    },
    close: async () => {
      await app.close();
      await store.close();
      rmSync(dataFolder, { recursive: true, force: true });
    },
  };
}

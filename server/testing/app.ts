import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import request from 'supertest';
import type { Role, SessionInfo } from '#api/index.ts';
import type { Config } from '../config.ts';
import { Documents } from '../store/documents.ts';
import { seedDemo } from '../demo/seed.ts';
import { buildApp, type FarloApp } from '../http/app.ts';
import { ThreadQueue } from '../jobs/jobs.ts';
import { openStore, type Store } from '../store/database.ts';
import { People } from '../store/people.ts';
import { freshDatabase } from './fresh-database.ts';

/** A whole application over a database of its own. */
export interface TestApp {
  app: FarloApp;
  store: Store;
  studioId: string;
  templateId: string;
  cueId: string;
  dataFolder: string;
  /** Ids of things of another studio, whose owner is the `outsider`. */
  elsewhere: { studioId: string; templateId: string; cueId: string; shelfId: string; houseId: string };
  people: People;
  /** A signed-in caller; `outsider` is owner of another studio, `nobody` is not signed in. */
  as(who: Role | 'outsider' | 'nobody'): Promise<Caller>;
  /** A caller who signs in with an address and a password. */
  signIn(email: string, password: string): Promise<Caller>;
  close(): Promise<void>;
}

/** Calls routes with cookie and guard. */
export interface Caller {
  get(path: string): request.Test;
  post(path: string, body?: object): request.Test;
  delete(path: string): request.Test;
  /** Keeps cookies, for calls of other kinds. */
  agent: ReturnType<typeof request.agent>;
  /** Takes up the guard of a session that was made anew. */
  renew(): Promise<void>;
}

const PASSWORD = 'only-in-tests';

/** What a test may want otherwise. */
interface TestSettings {
  /** False for an empty server with nobody. */
  demo?: boolean;
  foundingCode?: string;
  config?: Partial<Config>;
}

export async function startApp({
  demo = true,
  foundingCode,
  config: wanted,
}: TestSettings = {}): Promise<TestApp> {
  const database = await freshDatabase();
  const dataFolder = mkdtempSync(join(tmpdir(), '.farlo-test-data-'));
  const store = await openStore(database);
  const config = {
    port: 1,
    host: '127.0.0.1',
    proxies: 0,
    secure: false,
    dataFolder,
    database,
    sessionSecret: 'a secret of at least 24 characters',
    demo,
    webFolder: undefined,
    quiet: true,
    ...wanted,
  };
  const app = buildApp(config, store, new ThreadQueue(2), pino({ level: 'silent' }), foundingCode);
  const people = new People(store);
  const studioId = demo ? await seedDemo(store) : '';
  const elsewhere = { studioId: '', templateId: '', cueId: '', shelfId: '', houseId: '' };
  if (demo) await furnish(store, people, elsewhere);
  // The demo's small cue comes first by name; the orchestra's is another.
  const small = ((await store.models.records.cue.findOne({
    where: { studioId },
    order: [['name', 'ASC']],
    raw: true,
  })) as unknown as { id: string; templateId: string } | null) ?? { id: '', templateId: '' };
  const callerOf = async (who?: { email: string; password: string }): Promise<Caller> => {
    const agent = request.agent(app.express);
    let guard = 'none';
    if (who) {
      const answer = await agent.post('/api/session').set('x-farlo-guard', guard).send(who);
      guard = (answer.body as SessionInfo).guard;
    }
    return {
      agent,
      get: (path) => agent.get(`/api${path}`),
      post: (path, body) => {
        const call = agent.post(`/api${path}`).set('x-farlo-guard', guard);
        return body ? call.send(body) : call;
      },
      delete: (path) => agent.delete(`/api${path}`).set('x-farlo-guard', guard),
      renew: async () => {
        guard = ((await agent.get('/api/session')).body as SessionInfo).guard || 'none';
      },
    };
  };
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
    templateId: small.templateId,
    cueId: small.id,
    dataFolder,
    elsewhere,
    people,
    as: (who) => callerOf(who === 'nobody' ? undefined : { email: emails[who], password: passwords[who] }),
    signIn: (email, password) => callerOf({ email, password }),
    close: async () => {
      await app.close();
      await store.close();
      rmSync(dataFolder, { recursive: true, force: true });
    },
  };
}

/** Another studio with an owner, a template, a cue, a shelf and a house. */
async function furnish(store: Store, people: People, into: TestApp['elsewhere']): Promise<void> {
  const documents = new Documents(store);
  into.studioId = await people.addStudio('Another studio');
  await people.addMember(into.studioId, {
    name: 'Out Sider',
    email: 'out@elsewhere.example',
    password: PASSWORD,
    role: 'owner',
  });
  into.templateId = await documents.newTemplate(into.studioId, 'Their template');
  into.cueId = await documents.newCue(into.studioId, 'Their cue', into.templateId);
  into.shelfId = (await documents.heads('shelf', into.studioId))[0].id;
  into.houseId = (await documents.heads('house', into.studioId))[0].id;
}

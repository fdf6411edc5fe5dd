import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { DocumentContent, SessionInfo, StudioOverview } from '#api/index.ts';
import { startMariadb } from '../scripts/lib/mariadb.mjs';
import { secretsOf, startServer } from '../scripts/lib/server.mjs';
import { freePort } from './testing/global-setup.ts';

const EDITS = 1000;
const VICTIMS = ['server', 'database', 'server', 'database'] as const;
const folder = mkdtempSync(join(tmpdir(), 'farlo-durability-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Talks to a server process over real sockets. */
class Client {
  private cookie = '';
  private guard = 'none';
  constructor(private readonly base: string) {}
  async call<T>(method: string, path: string, body?: unknown): Promise<T> {
    const response = await fetch(`${this.base}/api${path}`, {
      method,
      headers: { cookie: this.cookie, 'x-farlo-guard': this.guard, 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const set = response.headers.getSetCookie()[0];
    if (set) this.cookie = set.split(';')[0];
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    return (await response.json()) as T;
  }
  async signIn(): Promise<void> {
    this.guard = (
      await this.call<SessionInfo>('POST', '/session', {
        email: 'tomas@saltglass.example',
        password: 'ferry-at-nine',
      })
    ).guard;
  }
}

describe('after kill -9 of server and database', () => {
  it('every acknowledged edit is there', async () => {
    const [port, databasePort] = [await freePort(), await freePort()];
    const secrets = secretsOf(folder);
    const env = {
      FARLO_DATA: folder,
      FARLO_PORT: String(port),
      FARLO_DB_PORT: String(databasePort),
      FARLO_DB_PASSWORD: secrets.database,
      FARLO_SESSION_SECRET: secrets.session,
      FARLO_QUIET: 'on',
    };
    const database = () =>
      startMariadb({ folder, port: databasePort, name: 'farlo', password: secrets.database });
    const server = () => startServer({ root: resolve('.'), env });
    const acknowledged: string[] = [];
    for (const victim of VICTIMS) {
      const db = await database();
      const srv = await server();
      const client = new Client(`http://127.0.0.1:${port}`);
      await client.signIn();
      const { cues } = await client.call<StudioOverview>('GET', '/studio');
      const path = `/documents/cue/${cues[0].id}`;
      const { records } = await client.call<DocumentContent>('GET', path);
      for (const id of acknowledged) expect(records.note?.some((note) => note.id === id)).toBe(true);
      const partId = records.part?.[0].id;
      let killed = false;
      const kill = () => {
        killed = true;
        (victim === 'server' ? srv : db).kill();
      };
      // A thousand edits in all, and the end comes at an unforeseen moment after each of the first hundreds.
      const last = Math.floor(EDITS / VICTIMS.length);
      for (let i = 0; !killed && i < last + 500; i++) {
        const id = randomUUID();
        try {
          await client.call('POST', `${path}/patches`, {
            id: randomUUID(),
            label: 'Note',
            changes: [
              {
                kind: 'note',
                id,
                op: 'add',
                fields: { partId, startTick: i, endTick: i + 1, key: 20, velocity: 1 },
              },
            ],
          });
          acknowledged.push(id);
          // At an unforeseen moment of one of the next edits.
          if (i === last) setTimeout(kill, Math.random() * 60);
        } catch (error) {
          if (!killed) throw error;
        }
      }
      srv.kill();
      db.kill();
      await Promise.all([srv.stop(), db.stop()]);
    }
    expect(acknowledged.length).toBeGreaterThanOrEqual(EDITS);
    const db = await database();
    const srv = await server();
    const client = new Client(`http://127.0.0.1:${port}`);
    await client.signIn();
    const { cues } = await client.call<StudioOverview>('GET', '/studio');
    const { records } = await client.call<DocumentContent>('GET', `/documents/cue/${cues[0].id}`);
    const there = new Set(records.note?.map((note) => note.id));
    expect(acknowledged.filter((id) => !there.has(id))).toEqual([]);
    await srv.stop();
    await db.stop();
  });
});

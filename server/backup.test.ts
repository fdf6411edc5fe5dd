import { spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import 'reflect-metadata';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from './testing/hooks.ts';
import { checkFolder, secretsOf } from '../scripts/lib/server.mjs';
import { leftOverDatabase, portTaken, startMariadb } from '../scripts/lib/mariadb.mjs';
import { packPath, writePack } from './samples/pack-writer.ts';
import { openStore } from './store/database.ts';
import { Documents } from './store/documents.ts';
import { People } from './store/people.ts';
import { freePort } from './testing/global-setup.ts';

const root = mkdtempSync(join(tmpdir(), '.farlo-backup-test-'));
const folder = join(root, '.farlo');
const file = join(root, 'backup.tar');
let port: number;
const EMAIL = 'ada@wick.example';

const script = (name: string, args: string[], env: Record<string, string> = {}) => {
  const done = spawnSync(process.execPath, [resolve(`scripts/${name}.mjs`), ...args], {
    encoding: 'utf8',
    env: { ...process.env, FARLO_DATA: folder, FARLO_DB_PORT: String(port), ...env },
  });
  return { code: done.status, out: done.stdout + done.stderr };
};
/** Opens the database of a data folder, does something, and ends it again. */
async function inside<T>(
  data: string,
  work: (store: Awaited<ReturnType<typeof openStore>>) => Promise<T>,
): Promise<T> {
  const password = secretsOf(data).database;
  const database = await startMariadb({ folder: data, port, name: 'farlo', password });
  try {
    const store = await openStore({ host: '127.0.0.1', port, name: 'farlo', user: 'farlo', password });
    const result = await work(store);
    await store.close();
    return result;
  } finally {
    await database.stop();
  }
}
let cueId = '';
let pack = '';

beforeAll(async () => {
  port = await freePort();
  await inside(folder, async (store) => {
    const people = new People(store);
    await people.found('Lamp House', { name: 'Ada Wick', email: EMAIL, password: 'a lamp in the fog' });
    const [{ id: studioId }] = (await store.models.studios.findAll({ raw: true })) as unknown as {
      id: string;
    }[];
    const documents = new Documents(store);
    cueId = await documents.newCue(studioId, 'Kept ♩ cue', await documents.newTemplate(studioId, 'T'));
    await documents.apply('cue', cueId, randomUUID(), 'Ada', {
      id: randomUUID(),
      label: 'Mark',
      changes: [
        { kind: 'marker', id: randomUUID(), op: 'add', fields: { tick: 7, text: 'Ufer, “nah” — 岸' } },
      ],
    });
  });
  const sound = {
    id: 'a'.repeat(64),
    bytes: new Uint8Array(4000).fill(7),
    frames: 1000,
    channels: 2,
    rate: 48_000,
    format: 'i16',
  } as const;
  pack = writePack(folder, 'long', 'close', [sound]).pack.id;
});
afterAll(() => rmSync(root, { recursive: true, force: true }));

describe('a backup', () => {
  it('brings everything back into a new folder', async () => {
    expect(script('backup', [file])).toMatchObject({ code: 0 });
    const next = join(root, 'restored');
    expect(script('restore', [file], { FARLO_DATA: next })).toMatchObject({ code: 0 });
    expect(readFileSync(packPath(next, pack))).toEqual(readFileSync(packPath(folder, pack)));
    expect(secretsOf(next)).toEqual(secretsOf(folder));
    expect(readdirSync(next)).not.toContain('database.sql');
    await inside(next, async (store) => {
      const { records, revision } = await new Documents(store).open('cue', cueId);
      expect([revision, records.cue?.[0].name, records.marker?.[0].text]).toEqual([
        1,
        'Kept ♩ cue',
        'Ufer, “nah” — 岸',
      ]);
      expect(await new People(store).signIn(EMAIL, 'a lamp in the fog')).toBeDefined();
    });
  });
  it('is not written over another file, nor of a folder without a Farlo', () => {
    expect(script('backup', [file])).toMatchObject({
      code: 1,
      out: expect.stringContaining('is there already; it is not written over'),
    });
    expect(script('backup', [join(root, 'x.tar')], { FARLO_DATA: join(root, 'nothing') }).out).toContain(
      'There is no Farlo in',
    );
    expect(script('backup', []).out).toContain('Say where to');
    expect(existsSync(join(root, 'x.tar'))).toBe(false);
  });
  it('is not read into a folder that holds something', () => {
    const before = readdirSync(folder).sort();
    expect(script('restore', [file])).toMatchObject({
      code: 1,
      out: expect.stringContaining('is not empty, and nothing in it is written over'),
    });
    expect(readdirSync(folder).sort()).toEqual(before);
  });
  it('that is cut or something else is refused, and leaves nothing half there', () => {
    for (const [name, bytes] of [
      ['cut.tar', readFileSync(file).subarray(0, 40_000)],
      ['other.tar', Buffer.from('not a backup at all')],
    ] as const) {
      const next = join(root, `from ${name}`);
      writeFileSync(join(root, name), bytes);
      expect(script('restore', [join(root, name)], { FARLO_DATA: next })).toMatchObject({
        code: 1,
        out: expect.stringContaining('is not a whole backup of Farlo'),
      });
      expect(existsSync(next) ? readdirSync(next) : []).toEqual([]);
    }
    expect(script('restore', [join(root, 'missing.tar')]).out).toContain('Say which file');
  });
  it('whose recordings were damaged says so', () => {
    const next = join(root, 'rotten');
    const broken = join(root, 'broken.tar');
    const data = Buffer.from(readFileSync(file));
    const at = data.indexOf(Buffer.alloc(2000, 7));
    data[at + 100] = 8;
    writeFileSync(broken, data);
    const done = script('restore', [broken], { FARLO_DATA: next });
    expect([
      done.code,
      done.out.includes('1 of the recordings’ files') || done.out.includes("1 of the recordings' files"),
    ]).toEqual([0, true]);
  });
});

describe('a lost password', () => {
  it('is replaced by a new one, and the old one and all sessions end', async () => {
    const done = script('reset-password', [EMAIL.toUpperCase()]);
    const password = /New password of .*: ([a-z2-9-]{23})/.exec(done.out)?.[1] ?? '';
    expect([done.code, password.length]).toEqual([0, 23]);
    await inside(folder, async (store) => {
      const people = new People(store);
      expect(await people.signIn(EMAIL, password)).toBeDefined();
      expect(await people.signIn(EMAIL, 'a lamp in the fog')).toBeUndefined();
    });
  });
  it('of nobody changes nothing', () => {
    expect(script('reset-password', ['who@wick.example'])).toMatchObject({
      code: 1,
      out: expect.stringContaining('Nobody here has the address'),
    });
    expect(script('reset-password', []).out).toContain('Say whose');
  });
});

describe('starting', () => {
  it('ends a database that an earlier start left behind, and only that', async () => {
    const { database: password } = secretsOf(folder);
    const left = await startMariadb({ folder, port, name: 'farlo', password });
    expect(leftOverDatabase(folder)).toBe(left.pid);
    expect(leftOverDatabase(join(root, 'restored'))).toBeUndefined();
    const next = await startMariadb({ folder, port, name: 'farlo', password });
    expect(next.pid).not.toBe(left.pid);
    await left.stop();
    await next.stop();
    expect([leftOverDatabase(folder), await portTaken(port)]).toEqual([undefined, false]);
  });
  it('does not take another process for it because of its number', () => {
    const strange = join(root, 'strange');
    mkdirSync(strange);
    writeFileSync(join(strange, 'database.pid'), String(process.pid));
    expect(leftOverDatabase(strange)).toBeUndefined();
    writeFileSync(join(strange, 'database.pid'), 'nonsense');
    expect(leftOverDatabase(strange)).toBeUndefined();
  });
  it('says what to do about a folder that cannot be used, and never to throw anything away', () => {
    const blocked = join(root, 'a file');
    writeFileSync(blocked, 'x');
    expect(() => checkFolder(blocked)).toThrow(
      'a file stands where the folder should be. Set FARLO_DATA to another folder.',
    );
    expect(() => checkFolder(join(blocked, 'below'))).toThrow(
      'a file stands where the folder should be. Set FARLO_DATA to another folder.',
    );
    const rotten = join(root, 'rotten secrets');
    mkdirSync(rotten);
    writeFileSync(join(rotten, 'secrets.json'), '{"database":');
    expect(() => secretsOf(rotten)).toThrow('Bring it back from a backup');
    writeFileSync(join(rotten, 'secrets.json'), '{"database":5}');
    expect(() => secretsOf(rotten)).toThrow('Nothing else is lost.');
  });
});

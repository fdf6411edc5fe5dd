import { QueryTypes, Sequelize } from 'sequelize';
import { afterAll, describe, expect, it } from 'vitest';
import { freshDatabase } from '../../testing/fresh-database.ts';
import { beforeAll } from '../../testing/hooks.ts';
import { footing } from './2026-11-27-footing.ts';
import { migrations } from './index.ts';

let sequelize: Sequelize;
const run = (sql: string, values: unknown[] = []) =>
  sequelize.query(sql, { type: QueryTypes.INSERT, replacements: values });
const rows = (sql: string) =>
  sequelize.query(sql, { type: QueryTypes.SELECT }) as Promise<Record<string, unknown>[]>;
const id = (n: number) => `${String(n).padStart(8, '0')}-0000-4000-8000-000000000000`;

beforeAll(async () => {
  const { name, user, password, host, port } = await freshDatabase();
  sequelize = new Sequelize(name, user, password, { dialect: 'mariadb', host, port, logging: false });
  // Only what came before it.
  const before = migrations.slice(
    0,
    migrations.findIndex(({ name: step }) => step.endsWith('footing')),
  );
  for (const { up } of before) await up(sequelize.getQueryInterface());
});
afterAll(() => sequelize.close());

describe('a database of an earlier version', () => {
  it('keeps what was written twice, once', async () => {
    await run(`INSERT INTO studios VALUES ('${id(1)}', 'S')`);
    await run(`INSERT INTO templates VALUES ('${id(2)}', '${id(1)}', 0, 1, 'T', 0, 0, 4)`);
    await run(`INSERT INTO cues VALUES ('${id(3)}', '${id(1)}', '${id(2)}', 0, 1, 'C', 960, 0, 0)`);
    // Two people had made the same part at once: each wrote into their own.
    for (const part of [4, 5])
      await run(`INSERT INTO parts VALUES ('${id(part)}', '${id(3)}', 1, '${id(9)}')`);
    for (const [note, part] of [
      [10, 4],
      [11, 5],
      [12, 5],
    ])
      await run(`INSERT INTO notes VALUES ('${id(note)}', '${id(3)}', '${id(part)}', 1, 0, 9, 60, 80)`);
    await run(`INSERT INTO points VALUES ('${id(13)}', '${id(3)}', '${id(5)}', 1, 1, 0, 64)`);
    for (const [tempo, bpm] of [
      [20, 90],
      [21, 120],
    ])
      await run(`INSERT INTO tempos VALUES ('${id(tempo)}', '${id(3)}', 1, 0, ${bpm})`);
    for (const library of [30, 31])
      await run(
        `INSERT INTO libraries (id, studio_id, name, maker, room, recipe, unsupported, facts, report) VALUES ('${id(library)}', '${id(1)}', 'L', 'm', 'r', '', '', '{}', '{}')`,
      );
    await run(
      `INSERT INTO instruments (id, library_id, name, family, kind, players, positions, tags, recipe) VALUES ('${id(40)}', '${id(31)}', 'I', 'strings', 'solo', 1, '[]', '', '')`,
    );
    await run(
      `INSERT INTO history (document_id, revision, patch_id, user_id, label, time, changes) VALUES ('${id(3)}', 1, '${id(50)}', '${id(60)}', 'x', NOW(), '[]')`,
    );

    await footing(sequelize.getQueryInterface());

    expect((await rows('SELECT id FROM parts')).map((row) => row.id)).toEqual([id(4)]);
    expect((await rows('SELECT DISTINCT part_id p FROM notes')).map((row) => row.p)).toEqual([id(4)]);
    expect(await rows('SELECT id FROM notes')).toHaveLength(3);
    expect(await rows(`SELECT id FROM points WHERE part_id = '${id(4)}'`)).toHaveLength(1);
    expect(await rows('SELECT bpm FROM tempos')).toEqual([{ bpm: 90 }]);
    expect(await rows('SELECT id FROM libraries')).toEqual([{ id: id(30) }]);
    expect(await rows('SELECT library_id l FROM instruments')).toEqual([{ l: id(30) }]);
  });
  it('refuses from then on what there can be only one of', async () => {
    const twice = [
      `INSERT INTO parts VALUES ('${id(70)}', '${id(3)}', 1, '${id(9)}')`,
      `INSERT INTO tempos VALUES ('${id(71)}', '${id(3)}', 1, 0, 100)`,
      `INSERT INTO libraries (id, studio_id, name, maker, room, recipe, unsupported, facts, report) VALUES ('${id(72)}', '${id(1)}', 'L', 'm', 'r', '', '', '{}', '{}')`,
      `INSERT INTO history (document_id, revision, patch_id, user_id, label, time, changes) VALUES ('${id(3)}', 2, '${id(50)}', '${id(60)}', 'x', NOW(), '[]')`,
    ];
    for (const sql of twice)
      await expect(run(sql), sql).rejects.toMatchObject({ name: 'SequelizeUniqueConstraintError' });
    // The same patch id of another person, or to another document, is another patch.
    await run(
      `INSERT INTO history (document_id, revision, patch_id, user_id, label, time, changes) VALUES ('${id(3)}', 2, '${id(50)}', '${id(61)}', 'x', NOW(), '[]')`,
    );
    await run(
      `INSERT INTO history (document_id, revision, patch_id, user_id, label, time, changes) VALUES ('${id(2)}', 1, '${id(50)}', '${id(60)}', 'x', NOW(), '[]')`,
    );
  });
  it('names each key after the kind of record that it keeps single', async () => {
    const keys = await rows(
      "SELECT DISTINCT index_name name FROM information_schema.statistics WHERE table_schema = DATABASE() AND index_name LIKE 'unique\\_%'",
    );
    expect(keys.map((key) => key.name).sort()).toEqual(
      [
        'library',
        'metre',
        'part',
        'patch',
        'positionMix',
        'preference',
        'score',
        'shelfMark',
        'tempo',
        'trigger',
      ].map((name) => `unique_${name}`),
    );
  });
  it('has no solo in its tracks, and sessions that know their person', async () => {
    const columns = (
      await rows(
        'SELECT table_name t, column_name c FROM information_schema.columns WHERE table_schema = DATABASE()',
      )
    ).map((row) => `${String(row.t)}.${String(row.c)}`);
    expect(columns).not.toContain('tracks.soloed');
    expect(columns).toContain('tracks.muted');
    expect(columns).toContain('sessions.user_id');
    expect(columns).toContain('invitations.token_hash');
  });
});

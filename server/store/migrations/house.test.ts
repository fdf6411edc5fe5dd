import { QueryTypes, Sequelize } from 'sequelize';
import { afterAll, describe, expect, it } from 'vitest';
import { freshDatabase } from '../../testing/fresh-database.ts';
import { beforeAll } from '../../testing/hooks.ts';
import { house } from './2026-11-28-house.ts';
import { migrations } from './index.ts';

let sequelize: Sequelize;
const run = (sql: string) => sequelize.query(sql, { type: QueryTypes.INSERT });
const rows = (sql: string) =>
  sequelize.query(sql, { type: QueryTypes.SELECT }) as Promise<Record<string, unknown>[]>;
const id = (n: number) => `${String(n).padStart(8, '0')}-0000-4000-8000-000000000000`;
const VIOLINS = id(100);
const HORNS = id(101);

beforeAll(async () => {
  const { name, user, password, host, port } = await freshDatabase();
  sequelize = new Sequelize(name, user, password, { dialect: 'mariadb', host, port, logging: false });
  const before = migrations.slice(
    0,
    migrations.findIndex(({ name: step }) => step.endsWith('house')),
  );
  for (const { up } of before) await up(sequelize.getQueryInterface());
  await run(`INSERT INTO studios VALUES ('${id(1)}', 'S')`);
  await run(`INSERT INTO templates VALUES ('${id(2)}', '${id(1)}', 0, 1, 'T', 0, 0, 4)`);
  const track = (n: number, name: string, instrument: string | null, place: number) =>
    run(
      `INSERT INTO tracks (id, template_id, version, name, family, place, instrument_id, articulation, mode, gain_db, pan, hall_send_db, muted)
       VALUES ('${id(n)}', '${id(2)}', 1, '${name}', 'strings', ${place}, ${instrument === null ? 'NULL' : `'${instrument}'`}, 'long', 'planned', 0, 0, 0, 0)`,
    );
  await track(10, 'Violins I', VIOLINS, 1);
  await track(11, 'Violins alike', VIOLINS, 2);
  await track(12, 'Violins otherwise', VIOLINS, 3);
  await track(13, 'Horns', HORNS, 4);
  await track(14, 'Empty', null, 5);
  await track(15, 'Nothing mapped', HORNS, 6);
  let n = 200;
  const trigger = (trackId: number, articulation: string, key: number, hold = 'latching') =>
    run(
      `INSERT INTO triggers (id, template_id, version, track_id, articulation, \`key\`, hold)
       VALUES ('${id(n++)}', '${id(2)}', 1, '${id(trackId)}', '${articulation}', ${key}, '${hold}')`,
    );
  for (const trackId of [10, 11]) {
    await trigger(trackId, 'staccato', 25);
    await trigger(trackId, 'long', 24);
  }
  await trigger(12, 'long', 24);
  await trigger(12, 'staccato', 30, 'held');
  await trigger(12, 'staccato', 31);
  await trigger(13, 'long', 12);
  await trigger(14, 'muted', 7);
  await house(sequelize.getQueryInterface());
});
afterAll(() => sequelize.close());

describe('keyswitches of an earlier version', () => {
  const all = () =>
    rows(
      `SELECT k.name, k.instruments, k.initial, k.variant_of variantOf, k.track_id trackId, e.articulation, t.number, t.hold, t.alternative
       FROM keymaps k JOIN keymap_entries e ON e.keymap_id = k.id LEFT JOIN keymap_triggers t ON t.entry_id = e.id
       ORDER BY k.name, e.place, t.alternative`,
    );
  it('become one keymap of the house per instrument, shared by tracks that agree', async () => {
    const found = (await all()).filter(({ name }) => name === 'Violins I');
    expect(found).toMatchObject([
      { instruments: VIOLINS, initial: 'long', variantOf: '', trackId: '', articulation: 'long', number: 24 },
      { articulation: 'staccato', number: 25, hold: 'latching' },
    ]);
    expect((await rows("SELECT name FROM keymaps WHERE name = 'Violins alike'")).length).toBe(0);
    expect(await rows(`SELECT keymap_id k FROM tracks WHERE id IN ('${id(10)}', '${id(11)}')`)).toEqual([
      { k: null },
      { k: null },
    ]);
  });
  it('that differ become a variant the track keeps, with every key', async () => {
    const found = (await all()).filter(({ name }) => name === 'Violins otherwise');
    const [base] = await rows("SELECT id FROM keymaps WHERE name = 'Violins I'");
    expect(found).toMatchObject([
      { variantOf: base.id, trackId: id(12), articulation: 'long', number: 24 },
      { articulation: 'staccato', number: 30, hold: 'held', alternative: 0 },
      { articulation: 'staccato', number: 31, hold: 'latching', alternative: 1 },
    ]);
    const [track] = await rows(`SELECT keymap_id k FROM tracks WHERE id = '${id(12)}'`);
    const [variant] = await rows("SELECT id FROM keymaps WHERE name = 'Violins otherwise'");
    expect(track.k).toBe(variant.id);
  });
  it('of a track without an instrument stay with the track; one without any gets none', async () => {
    expect((await all()).filter(({ name }) => name === 'Empty')).toMatchObject([
      { instruments: '', articulation: 'muted', number: 7 },
      { articulation: 'long', number: null },
    ]);
    const [empty] = await rows(`SELECT keymap_id k FROM tracks WHERE id = '${id(14)}'`);
    expect(empty.k).not.toBeNull();
    expect(await rows("SELECT id FROM keymaps WHERE name = 'Nothing mapped'")).toEqual([]);
    expect(await rows("SHOW TABLES LIKE 'triggers'")).toEqual([]);
  });
  it('lie in a house of the studio, with rules to begin with', async () => {
    expect(await rows('SELECT studio_id s, rule_side r, rule_guard_keys g FROM houses')).toEqual([
      { s: id(1), r: 'below', g: 2 },
    ]);
  });
});

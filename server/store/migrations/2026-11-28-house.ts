import { randomUUID } from 'node:crypto';
import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const whole = { type: DataTypes.INTEGER, allowNull: false };
const fraction = { type: DataTypes.DOUBLE, allowNull: false };
const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const to = (table: string) => ({
  type: DataTypes.CHAR(36),
  allowNull: false,
  references: { model: table, key: 'id' },
  onDelete: 'CASCADE',
});

interface OldTrigger {
  trackId: string;
  articulation: string;
  key: number;
  hold: string;
}
interface OldTrack {
  id: string;
  name: string;
  instrumentId: string | null;
  articulation: string;
  studioId: string;
}

/** The house: what a studio has agreed on. Keyswitches of tracks become keymaps of their instruments, where tracks differ variants of them. */
export async function house(query: QueryInterface): Promise<void> {
  const options = { charset: 'utf8mb4' };
  const inHouse = { id, house_id: to('houses'), version };
  await query.createTable(
    'houses',
    {
      id,
      studio_id: { ...to('studios'), unique: true },
      revision: whole,
      version,
      name: text(120),
      rule_side: text(8),
      rule_guard_keys: whole,
      rule_same_keys: { type: DataTypes.BOOLEAN, allowNull: false },
      rule_nearest: text(8),
    },
    options,
  );
  await query.createTable(
    'terms',
    {
      ...inHouse,
      articulation: text(60),
      group: text(12),
      tab: text(4),
      written: text(40),
      notated: text(80),
      hints: text(400),
      stand_ins: text(600),
    },
    options,
  );
  await query.addIndex('terms', ['house_id', 'articulation'], { unique: true, name: 'unique_term' });
  await query.createTable(
    'keymaps',
    {
      ...inHouse,
      name: text(120),
      instruments: text(2000),
      initial: text(60),
      variant_of: text(36),
      track_id: text(36),
      long_velocity_db: fraction,
      hard_attack_from: whole,
      slide_below: whole,
      bow_from: whole,
      short_dynamics: text(8),
    },
    options,
  );
  await query.createTable(
    'keymap_rides',
    {
      ...inHouse,
      keymap_id: to('keymaps'),
      parameter: text(12),
      controller: whole,
      curve: fraction,
      low: whole,
      high: whole,
      rest: whole,
      follows: text(12),
    },
    options,
  );
  await query.addIndex('keymap_rides', ['keymap_id', 'parameter'], { unique: true, name: 'unique_ride' });
  await query.createTable(
    'keymap_entries',
    { ...inHouse, keymap_id: to('keymaps'), articulation: text(60), place: fraction, morph: whole },
    options,
  );
  await query.addIndex('keymap_entries', ['keymap_id', 'articulation'], {
    unique: true,
    name: 'unique_entry',
  });
  await query.createTable(
    'keymap_sources',
    {
      ...inHouse,
      entry_id: to('keymap_entries'),
      articulation: text(60),
      place: fraction,
      level_db: fraction,
      velocity_low: whole,
      velocity_high: whole,
      part: text(8),
      morph_at: whole,
    },
    options,
  );
  await query.createTable(
    'keymap_triggers',
    {
      ...inHouse,
      entry_id: to('keymap_entries'),
      kind: text(12),
      alternative: whole,
      number: whole,
      low: whole,
      high: whole,
      hold: text(12),
    },
    options,
  );
  await query.createTable(
    'translations',
    {
      ...inHouse,
      instrument_id: { type: DataTypes.CHAR(36), allowNull: false },
      articulation: text(60),
      term: text(60),
      level_db: fraction,
      velocity_low: whole,
      velocity_high: whole,
    },
    options,
  );
  await query.addIndex('translations', ['house_id', 'instrument_id', 'articulation', 'term'], {
    unique: true,
    name: 'unique_translation',
  });
  await query.addColumn('tracks', 'keymap_id', { type: DataTypes.CHAR(36), allowNull: true });
  const houses = await makeHouses(query);
  await moveTriggers(query, houses);
  const run = (sql: string) => query.sequelize.query(sql, { type: QueryTypes.UPDATE });
  await run('DROP TABLE triggers');
  // Summaries now tell the keys that makers suggest; the next start works them out anew.
  await run('UPDATE instruments SET summary = NULL');
}

/** @returns ids of the houses by studio */
async function makeHouses(query: QueryInterface): Promise<Map<string, string>> {
  const studios = await query.sequelize.query<{ id: string }>('SELECT id FROM studios', {
    type: QueryTypes.SELECT,
  });
  const houses = new Map(studios.map((studio) => [studio.id, randomUUID()]));
  for (const [studioId, houseId] of houses)
    await query.bulkInsert('houses', [
      {
        id: houseId,
        studio_id: studioId,
        revision: 0,
        version: 1,
        name: 'House',
        rule_side: 'below',
        rule_guard_keys: 2,
        rule_same_keys: true,
        rule_nearest: 'used',
      },
    ]);
  return houses;
}

async function moveTriggers(query: QueryInterface, houses: ReadonlyMap<string, string>): Promise<void> {
  const select = <T extends object>(sql: string) =>
    query.sequelize.query<T>(sql, { type: QueryTypes.SELECT });
  const tracks = await select<OldTrack>(
    `SELECT t.id, t.name, t.instrument_id instrumentId, t.articulation, p.studio_id studioId
     FROM tracks t JOIN templates p ON t.template_id = p.id ORDER BY p.id, t.place, t.id`,
  );
  const triggers = await select<OldTrigger>(
    'SELECT track_id trackId, articulation, `key`, hold FROM triggers ORDER BY `key`, id',
  );
  const byTrack = new Map<string, OldTrigger[]>();
  for (const one of triggers) byTrack.set(one.trackId, [...(byTrack.get(one.trackId) ?? []), one]);
  const made = new Map<string, { id: string; sign: string }>();
  for (const track of tracks) {
    const own = byTrack.get(track.id);
    const houseId = houses.get(track.studioId);
    if (!own || houseId === undefined) continue;
    const sign = JSON.stringify(own.map(({ articulation, key, hold }) => [articulation, key, hold]));
    const base = made.get(`${houseId} ${track.instrumentId}`);
    // The first track of an instrument gives the house its keymap; others that agree share it.
    if (base?.sign === sign && track.instrumentId) continue;
    const keymapId = await addKeymap(query, houseId, track, own, track.instrumentId ? base?.id : undefined);
    if (!base && track.instrumentId) made.set(`${houseId} ${track.instrumentId}`, { id: keymapId, sign });
    else
      await query.sequelize.query('UPDATE tracks SET keymap_id = ? WHERE id = ?', {
        type: QueryTypes.UPDATE,
        replacements: [keymapId, track.id],
      });
  }
}

async function addKeymap(
  query: QueryInterface,
  houseId: string,
  track: OldTrack,
  triggers: readonly OldTrigger[],
  variantOf: string | undefined,
): Promise<string> {
  const keymapId = randomUUID();
  await query.bulkInsert('keymaps', [
    {
      id: keymapId,
      house_id: houseId,
      version: 1,
      name: track.name,
      instruments: track.instrumentId ?? '',
      initial: track.articulation,
      variant_of: variantOf ?? '',
      track_id: variantOf === undefined ? '' : track.id,
      long_velocity_db: 0,
      hard_attack_from: 0,
      slide_below: 0,
      bow_from: 0,
      short_dynamics: 'none',
    },
  ]);
  const names = [...new Set([...triggers.map((one) => one.articulation), track.articulation])];
  for (const [place, articulation] of names.entries()) {
    const entryId = randomUUID();
    await query.bulkInsert('keymap_entries', [
      { id: entryId, house_id: houseId, version: 1, keymap_id: keymapId, articulation, place, morph: -1 },
    ]);
    for (const [alternative, { key, hold }] of triggers
      .filter((one) => one.articulation === articulation)
      .slice(0, 16)
      .entries())
      await query.bulkInsert('keymap_triggers', [
        {
          id: randomUUID(),
          house_id: houseId,
          version: 1,
          entry_id: entryId,
          kind: 'key',
          alternative,
          number: key,
          low: 0,
          high: 127,
          hold,
        },
      ]);
  }
  return keymapId;
}

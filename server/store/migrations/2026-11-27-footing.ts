import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';

/** Columns that tell one record of a table from all others, named for the sentence that is said when there are two. */
const UNIQUE_KEYS: [table: string, name: string, columns: string[]][] = [
  ['position_mixes', 'positionMix', ['track_id', 'position_id']],
  ['triggers', 'trigger', ['track_id', 'key']],
  ['tempos', 'tempo', ['cue_id', 'tick']],
  ['metres', 'metre', ['cue_id', 'tick']],
  ['parts', 'part', ['cue_id', 'track_id']],
  ['shelf_marks', 'shelfMark', ['shelf_id', 'instrument_id']],
  ['preferences', 'preference', ['line_up_id', 'phrase', 'contender_id']],
  ['scores', 'score', ['criterion_id', 'instrument_id']],
];

/**
 * What can be there only once is so by a key; a patch id counts with its document and person; solo is no part of a
 * template any more; sessions know their person; invitations.
 */
export async function footing(query: QueryInterface): Promise<void> {
  const run = (sql: string) => query.sequelize.query(sql, { type: QueryTypes.UPDATE });
  // Two parts of one track become one: what is written in the second moves into the first.
  for (const child of ['notes', 'marks', 'points'])
    await run(
      `UPDATE ${child} c JOIN parts p ON c.part_id = p.id
       JOIN (SELECT cue_id, track_id, MIN(id) id FROM parts GROUP BY cue_id, track_id) first
         ON first.cue_id = p.cue_id AND first.track_id = p.track_id SET c.part_id = first.id`,
    );
  for (const [table, name, columns] of UNIQUE_KEYS) {
    const same = columns.map((column) => `a.\`${column}\` = b.\`${column}\``).join(' AND ');
    await run(`DELETE a FROM \`${table}\` a JOIN \`${table}\` b ON ${same} AND a.id > b.id`);
    await query.addIndex(table, columns, { unique: true, name: `unique_${name}` });
  }
  // Libraries of one name in a studio become one.
  await run(
    `UPDATE instruments i JOIN libraries l ON i.library_id = l.id
     JOIN (SELECT studio_id, name, MIN(id) id FROM libraries GROUP BY studio_id, name) first
       ON first.studio_id = l.studio_id AND first.name = l.name SET i.library_id = first.id`,
  );
  await run(
    'DELETE a FROM libraries a JOIN libraries b ON a.studio_id = b.studio_id AND a.name = b.name AND a.id > b.id',
  );
  await query.addIndex('libraries', ['studio_id', 'name'], { unique: true, name: 'unique_library' });
  await query.addIndex('history', ['document_id', 'user_id', 'patch_id'], {
    unique: true,
    name: 'unique_patch',
  });
  await run('ALTER TABLE history DROP INDEX patch_id');
  await run('ALTER TABLE tracks DROP COLUMN soloed');
  await query.addColumn('sessions', 'user_id', { type: DataTypes.CHAR(36) });
  await query.addIndex('sessions', ['user_id']);
  await query.createTable(
    'invitations',
    {
      id: { type: DataTypes.CHAR(36), primaryKey: true },
      studio_id: {
        type: DataTypes.CHAR(36),
        allowNull: false,
        references: { model: 'studios', key: 'id' },
        onDelete: 'CASCADE',
      },
      token_hash: { type: DataTypes.CHAR(64), allowNull: false, unique: true },
      role: { type: DataTypes.STRING(12), allowNull: false },
      expires: { type: DataTypes.DATE, allowNull: false },
    },
    { charset: 'utf8mb4' },
  );
}

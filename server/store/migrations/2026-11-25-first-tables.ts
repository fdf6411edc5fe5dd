import { DataTypes, type ModelAttributes, type QueryInterface } from 'sequelize';

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const uuid = { type: DataTypes.CHAR(36), allowNull: false };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const whole = { type: DataTypes.INTEGER, allowNull: false };
const number = { type: DataTypes.DOUBLE, allowNull: false };
const flag = { type: DataTypes.BOOLEAN, allowNull: false };
const long = { type: DataTypes.TEXT('long'), allowNull: false };
const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const to = (table: string) => ({ ...uuid, references: { model: table, key: 'id' }, onDelete: 'CASCADE' });

/** Users, studios, catalogue, templates, cues and history. */
export async function firstTables(query: QueryInterface): Promise<void> {
  const tables: [string, ModelAttributes][] = [
    ['users', { id, email: { ...text(200), unique: true }, name: text(120), password_hash: text(200) }],
    ['studios', { id, name: text(120) }],
    [
      'memberships',
      {
        user_id: { ...to('users'), primaryKey: true },
        studio_id: { ...to('studios'), primaryKey: true },
        role: text(12),
      },
    ],
    [
      'sessions',
      {
        sid: { type: DataTypes.STRING(64), primaryKey: true },
        expires: DataTypes.DATE,
        data: DataTypes.TEXT,
        created_at: DataTypes.DATE,
        updated_at: DataTypes.DATE,
      },
    ],
    [
      'libraries',
      {
        id,
        studio_id: to('studios'),
        name: text(200),
        maker: text(120),
        room: text(120),
        recipe: text(120),
        unsupported: long,
      },
    ],
    [
      'instruments',
      {
        id,
        library_id: to('libraries'),
        name: text(120),
        family: text(20),
        kind: text(20),
        players: whole,
        positions: long,
      },
    ],
    [
      'articulations',
      {
        id,
        instrument_id: to('instruments'),
        term: text(60),
        name: text(120),
        place: whole,
        suggested_key: { type: DataTypes.INTEGER },
        zones: long,
      },
    ],
    [
      'packs',
      {
        id: { type: DataTypes.CHAR(64), primaryKey: true },
        articulation: text(60),
        position: text(40),
        head_bytes: { type: DataTypes.BIGINT, allowNull: false },
        bytes: { type: DataTypes.BIGINT, allowNull: false },
      },
    ],
    [
      'samples',
      {
        id: { type: DataTypes.CHAR(64), primaryKey: true },
        pack_id: { type: DataTypes.CHAR(64), allowNull: false, references: { model: 'packs', key: 'id' } },
        frames: whole,
        channels: whole,
        rate: whole,
        format: text(4),
        head_offset: { type: DataTypes.BIGINT, allowNull: false },
        head_frames: whole,
        tail_offset: { type: DataTypes.BIGINT, allowNull: false },
      },
    ],
    [
      'templates',
      {
        id,
        studio_id: to('studios'),
        revision: whole,
        version,
        name: text(120),
        hall_early_db: number,
        hall_tail_db: number,
        middle_c: whole,
      },
    ],
    [
      'tracks',
      {
        id,
        template_id: to('templates'),
        version,
        name: text(120),
        family: text(20),
        place: number,
        instrument_id: { type: DataTypes.CHAR(36) },
        articulation: text(60),
        mode: text(12),
        gain_db: number,
        pan: number,
        hall_send_db: number,
        muted: flag,
        soloed: flag,
      },
    ],
    [
      'position_mixes',
      {
        id,
        template_id: to('templates'),
        version,
        track_id: to('tracks'),
        position_id: text(40),
        level_db: number,
        pan: number,
        width: number,
        delay_ms: number,
        muted: flag,
        inverted: flag,
      },
    ],
    [
      'triggers',
      {
        id,
        template_id: to('templates'),
        version,
        track_id: to('tracks'),
        articulation: text(60),
        key: whole,
        hold: text(12),
      },
    ],
    [
      'cues',
      {
        id,
        studio_id: to('studios'),
        template_id: to('templates'),
        revision: whole,
        version,
        name: text(120),
        end_tick: whole,
        loop_start_tick: whole,
        loop_end_tick: whole,
      },
    ],
    ['tempos', { id, cue_id: to('cues'), version, tick: whole, bpm: number }],
    ['metres', { id, cue_id: to('cues'), version, tick: whole, numerator: whole, denominator: whole }],
    ['markers', { id, cue_id: to('cues'), version, tick: whole, text: text(400) }],
    ['parts', { id, cue_id: to('cues'), version, track_id: uuid }],
    [
      'notes',
      {
        id,
        cue_id: to('cues'),
        part_id: to('parts'),
        version,
        start_tick: whole,
        end_tick: whole,
        key: whole,
        velocity: whole,
      },
    ],
    [
      'marks',
      {
        id,
        cue_id: to('cues'),
        part_id: to('parts'),
        version,
        start_tick: whole,
        end_tick: whole,
        articulation: text(60),
      },
    ],
    [
      'points',
      {
        id,
        cue_id: to('cues'),
        part_id: to('parts'),
        version,
        controller: whole,
        tick: whole,
        value: number,
      },
    ],
    [
      'history',
      {
        id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
        document_id: uuid,
        revision: whole,
        patch_id: { ...uuid, unique: true },
        user_id: uuid,
        label: text(200),
        time: { type: DataTypes.DATE(3), allowNull: false },
        changes: long,
      },
    ],
  ];
  for (const [name, attributes] of tables) await query.createTable(name, attributes, { charset: 'utf8mb4' });
  await query.addIndex('history', ['document_id', 'revision']);
}

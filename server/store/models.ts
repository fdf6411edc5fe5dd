import { DataTypes, Model, type ModelStatic, type Sequelize } from 'sequelize';
import { RECORD_KINDS, type DocumentKind, type RecordKind } from '#api/index.ts';

type Row = Model<Record<string, unknown>, Record<string, unknown>>;
export type Table = ModelStatic<Row>;

/** Columns of each record kind beside id, version and its document; names as in `api/records`. */
const RECORD_COLUMNS: Record<RecordKind, { table: string; columns: string[] }> = {
  template: {
    table: 'templates',
    columns: [
      'name',
      'hallEarlyDb',
      'hallTailDb',
      'middleC',
      'hall',
      'hallSize',
      'hallDecaySeconds',
      'hallDamping',
      'hallPreDelayMs',
      'hallLowCutHz',
      'hallHighCutHz',
      'listenerMetres',
    ],
  },
  track: {
    table: 'tracks',
    columns: [
      'name',
      'family',
      'place',
      'instrumentId',
      'keymapId',
      'articulation',
      'mode',
      'gainDb',
      'pan',
      'hallSendDb',
      'muted',
    ],
  },
  positionMix: {
    table: 'position_mixes',
    columns: [
      'trackId',
      'positionId',
      'levelDb',
      'pan',
      'width',
      'delayMs',
      'muted',
      'inverted',
      'sendDb',
      'stem',
    ],
  },
  eqBand: {
    table: 'eq_bands',
    columns: ['trackId', 'positionId', 'shape', 'hertz', 'gainDb', 'q', 'active'],
  },
  link: { table: 'links', columns: ['name', 'trackIds', 'active'] },
  snapshot: { table: 'snapshots', columns: ['slot', 'mix'] },
  seat: { table: 'seats', columns: ['trackId', 'x', 'y'] },
  aim: { table: 'aims', columns: ['trackId', 'loudnessDb', 'depthDb', 'sideDb'] },
  cue: { table: 'cues', columns: ['name', 'endTick', 'loopStartTick', 'loopEndTick'] },
  tempo: { table: 'tempos', columns: ['tick', 'bpm', 'ramp'] },
  metre: { table: 'metres', columns: ['tick', 'numerator', 'denominator'] },
  signature: { table: 'signatures', columns: ['tick', 'fifths'] },
  marker: { table: 'markers', columns: ['tick', 'text'] },
  part: { table: 'parts', columns: ['trackId'] },
  note: { table: 'notes', columns: ['partId', 'startTick', 'endTick', 'key', 'velocity', 'syllable'] },
  mark: { table: 'marks', columns: ['partId', 'startTick', 'endTick', 'articulation'] },
  levelPoint: { table: 'level_points', columns: ['trackId', 'positionId', 'tick', 'levelDb'] },
  take: { table: 'takes', columns: ['trackId', 'name', 'place', 'fromTick', 'toTick', 'written'] },
  point: { table: 'points', columns: ['partId', 'controller', 'tick', 'value'] },
  shelf: { table: 'shelves', columns: ['name'] },
  shelfMark: {
    table: 'shelf_marks',
    columns: ['instrumentId', 'starred', 'verdict', 'note', 'off', 'replaces'],
  },
  sound: {
    table: 'sounds',
    columns: ['name', 'tags', 'instrumentId', 'articulation', 'dynamics', 'vibrato', 'levels'],
  },
  lineUp: { table: 'line_ups', columns: ['name'] },
  contender: { table: 'contenders', columns: ['lineUpId', 'instrumentId', 'articulation', 'place'] },
  preference: { table: 'preferences', columns: ['lineUpId', 'phrase', 'contenderId'] },
  blindRound: { table: 'blind_rounds', columns: ['lineUpId', 'phrase', 'ranking'] },
  ownPhrase: { table: 'own_phrases', columns: ['name', 'suits', 'bpm', 'written'] },
  remark: { table: 'remarks', columns: ['instrumentId', 'phrase', 'atSeconds', 'text'] },
  criterion: { table: 'criteria', columns: ['name', 'weight', 'place'] },
  score: { table: 'scores', columns: ['criterionId', 'instrumentId', 'score'] },
  gap: { table: 'gaps', columns: ['name', 'filledBy'] },
  house: {
    table: 'houses',
    columns: ['name', 'ruleSide', 'ruleGuardKeys', 'ruleSameKeys', 'ruleNearest'],
  },
  term: {
    table: 'terms',
    columns: ['articulation', 'group', 'tab', 'written', 'notated', 'hints', 'standIns'],
  },
  keymap: {
    table: 'keymaps',
    columns: [
      'name',
      'instruments',
      'initial',
      'variantOf',
      'trackId',
      'longVelocityDb',
      'hardAttackFrom',
      'slideBelow',
      'bowFrom',
      'shortDynamics',
    ],
  },
  ride: {
    table: 'keymap_rides',
    columns: ['keymapId', 'parameter', 'controller', 'curve', 'low', 'high', 'rest', 'follows'],
  },
  entry: { table: 'keymap_entries', columns: ['keymapId', 'articulation', 'place', 'morph'] },
  source: {
    table: 'keymap_sources',
    columns: [
      'entryId',
      'articulation',
      'place',
      'levelDb',
      'velocityLow',
      'velocityHigh',
      'part',
      'morphAt',
    ],
  },
  trigger: {
    table: 'keymap_triggers',
    columns: ['entryId', 'kind', 'alternative', 'number', 'low', 'high', 'hold'],
  },
  translation: {
    table: 'translations',
    columns: ['instrumentId', 'articulation', 'term', 'levelDb', 'velocityLow', 'velocityHigh'],
  },
  keptSeating: { table: 'kept_seatings', columns: ['name', 'seats'] },
  keptMix: { table: 'kept_mixes', columns: ['name', 'mix'] },
};

const TEXT = new Set([
  'name',
  'family',
  'instrumentId',
  'articulation',
  'mode',
  'trackId',
  'positionId',
  'hold',
  'text',
  'partId',
  'verdict',
  'note',
  'off',
  'tags',
  'levels',
  'replaces',
  'shape',
  'lineUpId',
  'phrase',
  'contenderId',
  'ranking',
  'suits',
  'written',
  'criterionId',
  'filledBy',
  'keymapId',
  'ruleSide',
  'ruleNearest',
  'group',
  'tab',
  'notated',
  'hints',
  'standIns',
  'instruments',
  'initial',
  'variantOf',
  'entryId',
  'part',
  'kind',
  'term',
  'shortDynamics',
  'parameter',
  'follows',
  'hall',
  'trackIds',
  'slot',
  'mix',
  'seats',
  'syllable',
]);
const FLAGS = new Set(['muted', 'inverted', 'starred', 'active', 'ruleSameKeys', 'ramp']);
const FRACTIONS = new Set([
  'hallEarlyDb',
  'hallTailDb',
  'place',
  'gainDb',
  'pan',
  'hallSendDb',
  'levelDb',
  'width',
  'delayMs',
  'bpm',
  'value',
  'hertz',
  'q',
  'atSeconds',
  'weight',
  'score',
  'longVelocityDb',
  'curve',
  'hallSize',
  'hallDecaySeconds',
  'hallDamping',
  'hallPreDelayMs',
  'hallLowCutHz',
  'hallHighCutHz',
  'sendDb',
  'loudnessDb',
  'depthDb',
  'sideDb',
  'listenerMetres',
  'x',
  'y',
]);

/** Columns a record kind has beside id and version. */
export function columnsOf(kind: RecordKind): readonly string[] {
  return RECORD_COLUMNS[kind].columns;
}

/** Column that ties a record to its document. */
export function documentColumn(kind: DocumentKind): 'templateId' | 'cueId' | 'shelfId' | 'houseId' {
  return `${kind}Id`;
}

/** True for columns that hold yes or no. */
export function isFlag(column: string): boolean {
  return FLAGS.has(column);
}

function columnType(name: string) {
  if (TEXT.has(name)) return DataTypes.STRING;
  if (FLAGS.has(name)) return DataTypes.BOOLEAN;
  return FRACTIONS.has(name) ? DataTypes.DOUBLE : DataTypes.INTEGER;
}

export interface Models {
  users: Table;
  studios: Table;
  memberships: Table;
  invitations: Table;
  sessions: Table;
  libraries: Table;
  instruments: Table;
  articulations: Table;
  rememberedWords: Table;
  rememberedNames: Table;
  reports: Table;
  references: Table;
  ownHalls: Table;
  packs: Table;
  samples: Table;
  history: Table;
  records: Record<RecordKind, Table>;
}

/** Declares the tables to Sequelize; the columns themselves are made by the migrations. */
export function defineModels(sequelize: Sequelize): Models {
  // A fresh object each time: Sequelize writes into attribute definitions.
  const key = () => ({ type: DataTypes.STRING, primaryKey: true });
  const text = DataTypes.STRING;
  const whole = DataTypes.INTEGER;
  const long = DataTypes.TEXT('long');
  const define = (tableName: string, attributes: Record<string, unknown>): Table =>
    sequelize.define<Row>(tableName, attributes as never, {
      tableName,
      timestamps: false,
      underscored: true,
    });
  const records = Object.fromEntries(
    Object.entries(RECORD_COLUMNS).map(([kind, { table, columns }]) => {
      const attributes: Record<string, unknown> = { id: key(), version: whole };
      for (const column of columns) attributes[column] = columnType(column);
      const { document } = RECORD_KINDS[kind as RecordKind];
      if (kind === document) Object.assign(attributes, { studioId: text, revision: whole });
      else attributes[documentColumn(document)] = text;
      if (kind === 'cue') attributes.templateId = text;
      return [kind, define(table, attributes)];
    }),
  ) as Record<RecordKind, Table>;
  return {
    users: define('users', { id: key(), email: text, name: text, passwordHash: text }),
    studios: define('studios', { id: key(), name: text }),
    memberships: define('memberships', { userId: key(), studioId: key(), role: text }),
    sessions: define('sessions', {
      sid: key(),
      userId: text,
      expires: DataTypes.DATE,
      data: DataTypes.TEXT,
      createdAt: DataTypes.DATE,
      updatedAt: DataTypes.DATE,
    }),
    invitations: define('invitations', {
      id: key(),
      studioId: text,
      tokenHash: text,
      role: text,
      expires: DataTypes.DATE,
    }),
    libraries: define('libraries', {
      id: key(),
      studioId: text,
      name: text,
      maker: text,
      room: text,
      recipe: text,
      facts: long,
      report: long,
    }),
    instruments: define('instruments', {
      id: key(),
      libraryId: text,
      name: text,
      family: text,
      kind: text,
      players: whole,
      positions: long,
      rests: text,
      hallSendDb: { type: DataTypes.DOUBLE, allowNull: true },
      tags: text,
      recipe: text,
      summary: long,
      packs: long,
    }),
    rememberedWords: define('remembered_words', {
      studioId: key(),
      maker: key(),
      word: key(),
      meaning: long,
    }),
    rememberedNames: define('remembered_names', {
      studioId: key(),
      maker: key(),
      pattern: text,
      middleC: whole,
    }),
    reports: define('reports', { instrumentId: key(), articulation: key(), digest: text, report: long }),
    references: define('references_heard', {
      id: key(),
      studioId: text,
      name: text,
      frames: whole,
      rate: whole,
      outline: long,
    }),
    ownHalls: define('own_halls', {
      id: key(),
      studioId: text,
      name: text,
      channels: whole,
      frames: whole,
      decaySeconds: DataTypes.DOUBLE,
      remarks: long,
    }),
    articulations: define('articulations', {
      id: key(),
      instrumentId: text,
      term: text,
      name: text,
      place: whole,
      suggestedKey: whole,
      zones: long,
    }),
    packs: define('packs', {
      id: key(),
      articulation: text,
      position: text,
      headBytes: DataTypes.BIGINT,
      bytes: DataTypes.BIGINT,
    }),
    samples: define('samples', {
      id: key(),
      packId: text,
      frames: whole,
      channels: whole,
      rate: whole,
      format: text,
      headOffset: DataTypes.BIGINT,
      headFrames: whole,
      tailOffset: DataTypes.BIGINT,
    }),
    history: define('history', {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      documentId: text,
      revision: whole,
      patchId: text,
      userId: text,
      label: text,
      time: DataTypes.DATE(3),
      changes: long,
    }),
    records,
  };
}

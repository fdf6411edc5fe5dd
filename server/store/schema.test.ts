import { randomUUID } from 'node:crypto';
import { QueryTypes } from 'sequelize';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { ChangeShape, DocumentContent, RecordKind } from '#api/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
let editor: Caller;
let shelfId: string;
let houseId: string;
beforeAll(async () => {
  test = await startApp();
  editor = await test.as('editor');
  ({ shelfId, houseId } = (await editor.get('/studio')).body as { shelfId: string; houseId: string });
});
afterAll(() => test.close());
const rows = (sql: string) =>
  test.store.sequelize.query(sql, { type: QueryTypes.SELECT }) as Promise<Record<string, string>[]>;

/** Columns that may hold nothing, and why. Everything else must hold something. */
const MAY_BE_EMPTY = [
  'aims.depth_db', // no aim
  'aims.loudness_db',
  'aims.side_db',
  'articulations.suggested_key', // none was wished for
  'instruments.packs', // worked out after the samples are known
  'instruments.summary',
  'libraries.facts', // of libraries taken in by the first version
  'instruments.hall_send_db', // its maker does not say
  'libraries.report',
  'libraries.unsupported', // no longer used
  'sessions.created_at', // written by the session package
  'sessions.data',
  'sessions.expires',
  'sessions.updated_at',
  'sessions.user_id', // nobody yet
  'tracks.instrument_id', // no instrument yet
  'tracks.keymap_id', // the house's own
];
/** What may point at something that is gone: an edit of another document, or of nobody who is still here. */
const MAY_POINT_NOWHERE = [
  'blind_rounds.line_up_id',
  'contenders.instrument_id',
  'contenders.line_up_id',
  'eq_bands.position_id',
  'history.document_id',
  'history.patch_id',
  'history.user_id',
  'keymaps.track_id',
  'level_points.position_id',
  'level_points.track_id',
  'takes.track_id',
  'parts.track_id',
  'position_mixes.position_id',
  'preferences.contender_id',
  'preferences.line_up_id',
  'remarks.instrument_id',
  'scores.criterion_id',
  'scores.instrument_id',
  'sessions.user_id',
  'shelf_marks.instrument_id',
  'sounds.instrument_id',
  'tracks.instrument_id',
  'tracks.keymap_id',
  'translations.instrument_id',
];

describe('the tables', () => {
  it('hold something in every column, but for a few with a reason', async () => {
    const found = await rows(
      "SELECT CONCAT(table_name, '.', column_name) c FROM information_schema.columns WHERE table_schema = DATABASE() AND is_nullable = 'YES'",
    );
    expect(found.map(({ c }) => c).sort()).toEqual([...MAY_BE_EMPTY].sort());
  });
  it('each know their rows by a key', async () => {
    const all = await rows(
      'SELECT table_name t FROM information_schema.tables WHERE table_schema = DATABASE()',
    );
    const keyed = await rows(
      "SELECT DISTINCT table_name t FROM information_schema.table_constraints WHERE table_schema = DATABASE() AND constraint_type = 'PRIMARY KEY'",
    );
    expect(keyed.map(({ t }) => t).sort()).toEqual(all.map(({ t }) => t).sort());
    expect(all.length).toBe(58);
  });
  it('point at what they belong to, and go with it', async () => {
    const ids = await rows(
      "SELECT CONCAT(table_name, '.', column_name) c FROM information_schema.columns WHERE table_schema = DATABASE() AND column_name LIKE '%\\_id'",
    );
    const pointing = await rows(
      "SELECT CONCAT(k.table_name, '.', k.column_name) c, r.delete_rule d, k.referenced_table_name t FROM information_schema.key_column_usage k JOIN information_schema.referential_constraints r ON r.constraint_schema = k.constraint_schema AND r.constraint_name = k.constraint_name WHERE k.table_schema = DATABASE() AND k.referenced_table_name IS NOT NULL",
    );
    const loose = ids.map(({ c }) => c).filter((c) => !pointing.some((one) => one.c === c));
    expect(loose.sort()).toEqual([...MAY_POINT_NOWHERE].sort());
    // A pack goes when no sample of it is used any more, not the other way round.
    expect(pointing.filter(({ d }) => d !== 'CASCADE').map(({ c }) => c)).toEqual(['samples.pack_id']);
    for (const { c, t } of pointing) {
      const singular = (c.split('.')[1] ?? '').replace(/_id$/, '');
      expect(t, c).toMatch(
        singular === 'shelf'
          ? /^shelves$/
          : singular === 'library'
            ? /^libraries$/
            : singular === 'entry'
              ? /^keymap_entries$/
              : new RegExp(`^${singular}s$`),
      );
    }
  });
  it('keep any sign that people write', async () => {
    const plain = await rows(
      "SELECT CONCAT(table_name, '.', column_name) c FROM information_schema.columns WHERE table_schema = DATABASE() AND character_set_name IS NOT NULL AND character_set_name <> 'utf8mb4'",
    );
    expect(plain).toEqual([]);
  });
});

describe('a record', () => {
  const long = (length: number) => '岸'.repeat(length);
  const id = randomUUID();
  const path = {
    cue: () => test.cueId,
    shelf: () => shelfId,
    template: () => test.templateId,
    house: () => houseId,
  };
  const cases: [RecordKind, keyof typeof path, Record<string, unknown>][] = [
    ['marker', 'cue', { tick: 2_000_000_000, text: long(400) }],
    ['tempo', 'cue', { tick: 77, bpm: 123.456, ramp: true }],
    ['metre', 'cue', { tick: 78, numerator: 7, denominator: 16 }],
    ['signature', 'cue', { tick: 79, fifths: -7 }],
    [
      'take',
      'cue',
      {
        trackId: id,
        name: long(120),
        place: 2.5,
        fromTick: 5,
        toTick: 2_000_000_000,
        written: 'x'.repeat(400_000),
      },
    ],
    [
      'sound',
      'shelf',
      {
        name: long(120),
        tags: long(400),
        instrumentId: id,
        articulation: long(60),
        dynamics: 127,
        vibrato: 0,
        levels: long(400),
      },
    ],
    [
      'shelfMark',
      'shelf',
      {
        instrumentId: id,
        starred: true,
        verdict: 'reserve',
        note: long(2000),
        off: long(2000),
        replaces: id,
      },
    ],
    ['ownPhrase', 'shelf', { name: long(120), suits: 'long', bpm: 61.5, written: 'x'.repeat(60_000) }],
    ['remark', 'shelf', { instrumentId: id, phrase: long(60), atSeconds: 12.25, text: long(400) }],
    ['criterion', 'shelf', { name: long(60), weight: 0.5, place: 1.5 }],
    ['gap', 'shelf', { name: long(120), filledBy: id }],
    ['lineUp', 'shelf', { name: long(120) }],
    [
      'term',
      'house',
      {
        articulation: long(60),
        group: 'dynamic',
        tab: long(2),
        written: long(40),
        notated: long(80),
        hints: long(400),
        standIns: long(600),
      },
    ],
    [
      'keymap',
      'house',
      {
        name: long(120),
        instruments: long(2000),
        initial: long(60),
        variantOf: randomUUID(),
        trackId: randomUUID(),
        longVelocityDb: 12.5,
        hardAttackFrom: 100,
        slideBelow: 20,
        bowFrom: 110,
        shortDynamics: 'force',
      },
    ],
    [
      'translation',
      'house',
      {
        instrumentId: id,
        articulation: long(60),
        term: long(60),
        levelDb: -4.5,
        velocityLow: 2,
        velocityHigh: 126,
      },
    ],
    [
      'track',
      'template',
      {
        name: long(120),
        family: 'strings',
        place: 9.125,
        instrumentId: id,
        keymapId: randomUUID(),
        articulation: long(60),
        mode: 'immediate',
        gainDb: -1.5,
        pan: -0.25,
        hallSendDb: -60,
        muted: true,
      },
    ],
  ];
  it.each(cases)(
    'of kind %s keeps what it was given, as long as it may be',
    async (kind, document, fields) => {
      const recordId = randomUUID();
      const changes: ChangeShape[] = [{ kind, id: recordId, op: 'add', fields }];
      const answer = await editor.post(`/documents/${document}/${path[document]()}/patches`, {
        id: randomUUID(),
        label: long(200),
        changes,
      });
      expect([answer.status, answer.body]).toMatchObject([200, {}]);
      const { records } = (await editor.get(`/documents/${document}/${path[document]()}`))
        .body as DocumentContent;
      expect(records[kind]?.find((record) => record.id === recordId)).toEqual({
        ...fields,
        id: recordId,
        version: 1,
      });
    },
  );
  it('of signs that take three bytes each is kept as well', async () => {
    // Sixty thousand signs are allowed; they are counted as signs, not as bytes.
    const answer = await editor.post(`/documents/shelf/${shelfId}/patches`, {
      id: randomUUID(),
      label: 'x',
      changes: [
        {
          kind: 'ownPhrase',
          id: randomUUID(),
          op: 'add',
          fields: { name: 'x', suits: 'long', bpm: 60, written: long(60_000) },
        },
      ],
    });
    expect(answer.status).toBe(200);
  });
});

describe('what is deleted', () => {
  it('with a studio leaves nothing of it anywhere', async () => {
    const { studioId, cueId, templateId } = test.elsewhere;
    await test.store.models.studios.destroy({ where: { id: studioId } });
    for (const kind of ['template', 'cue', 'shelf', 'house'] as const)
      expect(await test.store.models.records[kind].count({ where: { studioId } })).toBe(0);
    expect(await test.store.models.memberships.count({ where: { studioId } })).toBe(0);
    expect((await editor.get(`/documents/cue/${cueId}`)).status).toBe(404);
    expect((await editor.get(`/documents/template/${templateId}`)).status).toBe(404);
    expect((await editor.get(`/documents/cue/${test.cueId}`)).status).toBe(200);
  });
});

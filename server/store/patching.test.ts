import { randomUUID } from 'node:crypto';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import {
  MOST_CHANGES,
  naturalId,
  type AppliedPatch,
  type ChangeShape,
  type DocumentContent,
  type HistoryEntry,
  type RecordKind,
} from '#api/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
let editor: Caller;
let owner: Caller;
let outsider: Caller;
let cueId: string;
let partId: string;
let houseId: string;
beforeAll(async () => {
  test = await startApp();
  [editor, owner, outsider] = await Promise.all([test.as('editor'), test.as('owner'), test.as('outsider')]);
  ({ houseId } = (await editor.get('/studio')).body as { houseId: string });
});
afterAll(() => test.close());
beforeEach(async () => {
  const made = await editor.post('/documents', { kind: 'cue', name: 'Fresh', templateId: test.templateId });
  cueId = (made.body as { id: string }).id;
  partId = naturalId('part', cueId, 'x');
  await patch([{ kind: 'part', id: partId, op: 'add', fields: { trackId: randomUUID() } }]);
});

const patch = (
  changes: ChangeShape[],
  { caller = editor, id = randomUUID() as string, path = `cue/${cueId}` } = {},
) => caller.post(`/documents/${path}/patches`, { id, label: 'Edit', changes });
const housePatch = (changes: ChangeShape[]) => patch(changes, { path: `house/${houseId}` });
const open = async (path = `cue/${cueId}`) =>
  (await editor.get(`/documents/${path}`)).body as DocumentContent;
const rows = async (kind: RecordKind, path?: string) =>
  ((await open(path)).records[kind] ?? []) as unknown as {
    id: string;
    version: number;
    [field: string]: unknown;
  }[];
const noteFields = (more: object = {}) => ({
  partId,
  startTick: 0,
  endTick: 960,
  key: 60,
  velocity: 80,
  ...more,
});
const addNote = (id: string, more: object = {}): ChangeShape => ({
  kind: 'note',
  id,
  op: 'add',
  fields: noteFields(more),
});
const code = (answer: { status: number; body: unknown }) => [
  answer.status,
  (answer.body as { code: string }).code,
];

describe('a patch', () => {
  it('is refused whole when one field is nothing, and stores nothing', async () => {
    const id = randomUUID();
    await patch([addNote(id)]);
    const answer = await patch([
      { kind: 'note', id, op: 'update', version: 1, fields: { key: null } },
      addNote(randomUUID()),
    ]);
    expect(code(answer)).toEqual([422, 'patch.invalid']);
    expect(await rows('note')).toMatchObject([{ id, key: 60, version: 1 }]);
  });
  it('cannot move an end before its start by two updates', async () => {
    const id = randomUUID();
    await patch([addNote(id)]);
    expect(
      (await patch([{ kind: 'note', id, op: 'update', version: 1, fields: { startTick: 900 } }])).status,
    ).toBe(200);
    expect(
      code(await patch([{ kind: 'note', id, op: 'update', version: 2, fields: { endTick: 800 } }])),
    ).toEqual([422, 'patch.invalid']);
  });
  it('cannot add one id twice, also not in another spelling', async () => {
    const id = randomUUID();
    expect((await patch([addNote(id), addNote(id)])).status).toBe(422);
    expect((await patch([addNote(id), addNote(id.toUpperCase())])).status).toBe(400);
    expect(await rows('note')).toEqual([]);
  });
  it('counts each change, and revisions go up by one', async () => {
    const before = (await open()).revision;
    const first = (await patch([addNote(randomUUID()), addNote(randomUUID())])).body as AppliedPatch;
    const second = (await patch([addNote(randomUUID())])).body as AppliedPatch;
    expect([first.revision, second.revision]).toEqual([before + 1, before + 2]);
    expect(first).toMatchObject({ author: 'Tomas Oake', label: 'Edit' });
    expect(first.changes.every((change) => !('before' in change))).toBe(true);
    expect((await open()).revision).toBe(before + 2);
  });
  it('of updates writes each record’s own fields and versions', async () => {
    const ids = Array.from({ length: 30 }, () => randomUUID() as string);
    await patch(ids.map((id, i) => addNote(id, { key: i })));
    const answer = await patch(
      ids.map((id, i): ChangeShape => ({
        kind: 'note',
        id,
        op: 'update',
        version: 1,
        fields: { velocity: i + 1 },
      })),
    );
    expect(answer.status).toBe(200);
    const after = new Map((await rows('note')).map((row) => [row.id, row]));
    ids.forEach((id, i) =>
      expect(after.get(id)).toMatchObject({ key: i, velocity: i + 1, version: 2, partId }),
    );
  });
  it(`holds ${MOST_CHANGES} changes at most, and says so`, async () => {
    const many = Array.from({ length: MOST_CHANGES + 1 }, (_, i) =>
      addNote(randomUUID(), { startTick: i, endTick: i + 1 }),
    );
    const refused = await patch(many);
    expect([refused.status, (refused.body as { title: string }).title]).toEqual([
      400,
      `A patch holds ${MOST_CHANGES} changes at most; send more in pieces.`,
    ]);
    expect((await patch(many.slice(1))).status).toBe(200);
    expect(await rows('note')).toHaveLength(MOST_CHANGES);
  });
});

describe('a patch id', () => {
  it('counts with its person: somebody else’s edit under the same id is taken', async () => {
    const [id, mine, theirs] = [randomUUID(), randomUUID(), randomUUID()];
    await patch([addNote(mine)], { id });
    const answer = await patch([addNote(theirs)], { id, caller: owner });
    expect((answer.body as AppliedPatch).changes.map((change) => change.id)).toEqual([theirs]);
    expect((await rows('note')).map((row) => row.id).sort()).toEqual([mine, theirs].sort());
  });
  it('counts with its document: who knows one is not shown what it did elsewhere', async () => {
    const [id, secret] = [randomUUID(), randomUUID()];
    await patch([addNote(secret)], { id });
    const own = await outsider.post(`/documents/cue/${test.elsewhere.cueId}/patches`, {
      id,
      label: 'x',
      changes: [{ kind: 'marker', id: randomUUID(), op: 'add', fields: { tick: 0, text: 'mine' } }],
    });
    expect(own.status).toBe(200);
    expect(JSON.stringify(own.body)).not.toContain(secret);
    const theirs = (await outsider.get(`/documents/cue/${test.elsewhere.cueId}`)).body as DocumentContent;
    expect(theirs.records.marker).toMatchObject([{ text: 'mine' }]);
  });
  it('sent again answers as before, whatever came in between', async () => {
    const [id, noteId] = [randomUUID(), randomUUID()];
    const first = await patch([addNote(noteId)], { id });
    await patch([{ kind: 'note', id: noteId, op: 'remove', version: 1 }]);
    const again = await patch([addNote(noteId)], { id });
    expect(again.body).toEqual(first.body);
    expect(await rows('note')).toEqual([]);
  });
});

describe('what belongs to something', () => {
  it('keeps it from being removed, unless it goes too', async () => {
    const [note, mark] = [randomUUID(), randomUUID()];
    await patch([
      addNote(note),
      {
        kind: 'mark',
        id: mark,
        op: 'add',
        fields: { partId, startTick: 0, endTick: 9, articulation: 'long' },
      },
    ]);
    const part = (await rows('part'))[0];
    const remove: ChangeShape = { kind: 'part', id: partId, op: 'remove', version: part.version };
    const refused = await patch([remove, { kind: 'note', id: note, op: 'remove', version: 1 }]);
    expect(code(refused)).toEqual([409, 'patch.in-use']);
    expect((refused.body as { title: string }).title).toBe(
      'The part is not empty any more: a mark was added to it meanwhile.',
    );
    expect(await rows('note')).toHaveLength(1);
    const done = await patch([
      remove,
      { kind: 'mark', id: mark, op: 'remove', version: 1 },
      { kind: 'note', id: note, op: 'remove', version: 1 },
    ]);
    expect(done.status).toBe(200);
    expect([await rows('part'), await rows('note'), await rows('mark')]).toEqual([[], [], []]);
  });
  it('may be added in one patch with it, in any order', async () => {
    const part = randomUUID();
    const answer = await patch([
      { kind: 'note', id: randomUUID(), op: 'add', fields: noteFields({ partId: part }) },
      { kind: 'part', id: part, op: 'add', fields: { trackId: randomUUID() } },
    ]);
    expect(answer.status).toBe(200);
  });
  it('cannot belong to another cue’s part', async () => {
    const other = (
      await editor.post('/documents', { kind: 'cue', name: 'Other', templateId: test.templateId })
    ).body as { id: string };
    const answer = await patch([addNote(randomUUID())], { path: `cue/${other.id}` });
    expect(code(answer)).toEqual([422, 'patch.invalid']);
    expect((answer.body as { title: string }).title).toBe(
      'A change refers to a part that is not in this document.',
    );
  });
  it('is not moved into another cue by an update', async () => {
    const id = randomUUID();
    await patch([addNote(id)]);
    const answer = await patch([
      { kind: 'note', id, op: 'update', version: 1, fields: { partId: randomUUID() } },
    ]);
    expect(code(answer)).toEqual([422, 'patch.invalid']);
  });
});

describe('what there can be only one of', () => {
  it('is refused a second time under another id, in words', async () => {
    const trackId = randomUUID();
    await patch([{ kind: 'part', id: randomUUID(), op: 'add', fields: { trackId } }]);
    const answer = await patch([{ kind: 'part', id: randomUUID(), op: 'add', fields: { trackId } }]);
    expect(code(answer)).toEqual([409, 'patch.twice']);
    expect((answer.body as { title: string }).title).toBe(
      'There can be only one part in this place, and there is one already.',
    );
  });
  it('two that are unique by what they say may change places in one patch', async () => {
    const ids = [randomUUID(), randomUUID()];
    const instrumentId = randomUUID();
    const translation = (term: string) => ({
      instrumentId,
      articulation: 'long',
      term,
      levelDb: 0,
      velocityLow: 1,
      velocityHigh: 127,
    });
    const terms = ['staccato', 'accented'];
    await housePatch(
      ids.map((id, i) => ({ kind: 'translation', id, op: 'add', fields: translation(terms[i]) })),
    );
    const swap = (id: string, term: string): ChangeShape => ({
      kind: 'translation',
      id,
      op: 'update',
      version: 1,
      fields: { term },
    });
    expect((await housePatch([swap(ids[0], terms[1]), swap(ids[1], terms[0])])).status).toBe(200);
    const after = new Map((await rows('translation', `house/${houseId}`)).map((row) => [row.id, row]));
    expect(ids.map((id) => after.get(id)?.term)).toEqual([...terms].reverse());
    expect(after.get(ids[0])).toMatchObject({ version: 2, articulation: 'long' });
  });
  it('may take the place of what goes in the same patch', async () => {
    const [tempo, next] = [randomUUID(), randomUUID()];
    const fields = { tick: 0, bpm: 90, ramp: false };
    await patch([{ kind: 'tempo', id: tempo, op: 'add', fields }]);
    const answer = await patch([
      { kind: 'tempo', id: next, op: 'add', fields: { tick: 0, bpm: 100, ramp: false } },
      { kind: 'tempo', id: tempo, op: 'remove', version: 1 },
    ]);
    expect(answer.status).toBe(200);
    expect(await rows('tempo')).toMatchObject([{ id: next, bpm: 100 }]);
  });
  it('two people who write the first note of a track make one part', async () => {
    const trackId = randomUUID();
    const id = naturalId('part', cueId, trackId);
    const first = (caller: Caller, note: string) =>
      patch([{ kind: 'part', id, op: 'add', fields: { trackId } }, addNote(note, { partId: id })], {
        caller,
      });
    const [one, two] = [randomUUID(), randomUUID()];
    const answers = await Promise.all([first(editor, one), first(owner, two)]);
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409]);
    expect((await rows('part')).filter((row) => row.trackId === trackId)).toHaveLength(1);
  });
});

describe('the history', () => {
  it('leads back to any of its lines, and on from there', async () => {
    const [a, b] = [randomUUID(), randomUUID()];
    const added = (await patch([addNote(a, { key: 50 })])).body as AppliedPatch;
    expect(added.changes.map((change) => change.version)).toEqual([1]);
    const first = added.revision;
    await patch([{ kind: 'note', id: a, op: 'update', version: 1, fields: { key: 70 } }, addNote(b)], {
      caller: owner,
    });
    const full = (
      (await patch([{ kind: 'note', id: b, op: 'update', version: 1, fields: { velocity: 1 } }]))
        .body as AppliedPatch
    ).revision;
    const state = await rows('note');
    const back = await editor.post(`/documents/cue/${cueId}/back`, { revision: first });
    expect([back.status, back.body]).toEqual([200, { revision: full + 1 }]);
    expect(await rows('note')).toMatchObject([{ id: a, key: 50, version: 3 }]);
    await editor.post(`/documents/cue/${cueId}/back`, { revision: full });
    const again = await rows('note');
    const plain = (list: typeof again) =>
      list.map(({ version: _version, ...row }) => row).sort((x, y) => (x.id < y.id ? -1 : 1));
    expect(plain(again)).toEqual(plain(state));
    const history = (await editor.get(`/documents/cue/${cueId}/history`)).body as HistoryEntry[];
    expect(history.map((line) => [line.label, line.author, line.count]).slice(0, 4)).toEqual([
      ['Back to “Edit”', 'Tomas Oake', 2],
      ['Back to “Edit”', 'Tomas Oake', 2],
      ['Edit', 'Tomas Oake', 1],
      ['Edit', 'Ilse Marrow', 2],
    ]);
  });
  it('leads back to the beginning, and nowhere that it does not know', async () => {
    await patch([addNote(randomUUID())]);
    expect((await editor.post(`/documents/cue/${cueId}/back`, { revision: 0 })).status).toBe(200);
    const { records, revision } = await open();
    expect([records.note, records.part]).toEqual([[], []]);
    const unknown = await editor.post(`/documents/cue/${cueId}/back`, { revision: revision + 5 });
    expect(code(unknown)).toEqual([404, 'not-found']);
    expect((await editor.post(`/documents/cue/${cueId}/back`, { revision: -1 })).status).toBe(400);
  });
  it('is told in pages', async () => {
    for (let i = 0; i < 3; i++) await patch([addNote(randomUUID())]);
    const all = (await editor.get(`/documents/cue/${cueId}/history`)).body as HistoryEntry[];
    const later = (await editor.get(`/documents/cue/${cueId}/history?before=${all[1].revision}`))
      .body as HistoryEntry[];
    expect(later).toEqual(all.slice(2));
    expect((await editor.get(`/documents/cue/${cueId}/history?before=x`)).status).toBe(400);
    expect(Date.parse(all[0].time)).toBeGreaterThan(Date.now() - 60_000);
  });
});

describe('documents', () => {
  it('are copied whole, with a life of their own', async () => {
    await patch([
      addNote(randomUUID(), { key: 44 }),
      {
        kind: 'mark',
        id: randomUUID(),
        op: 'add',
        fields: { partId, startTick: 0, endTick: 9, articulation: 'long' },
      },
      { kind: 'tempo', id: randomUUID(), op: 'add', fields: { tick: 0, bpm: 91, ramp: false } },
    ]);
    const made = await editor.post('/documents', { kind: 'cue', name: 'Copy', copyOf: cueId });
    expect(made.status).toBe(201);
    const copy = (await editor.get(`/documents/cue/${(made.body as { id: string }).id}`))
      .body as DocumentContent;
    const source = await open();
    expect(copy.revision).toBe(0);
    expect(copy.records.cue).toMatchObject([{ name: 'Copy', endTick: 16 * 4 * 960 }]);
    expect(copy.records.note).toMatchObject([{ key: 44, partId: copy.records.part?.[0].id, version: 1 }]);
    expect(copy.records.mark).toMatchObject([{ partId: copy.records.part?.[0].id }]);
    expect(copy.records.tempo).toMatchObject([{ bpm: 91 }]);
    expect(copy.records.note?.[0].id).not.toBe(source.records.note?.[0].id);
    expect((await editor.get(`/documents/cue/${copy.id}/history`)).body).toEqual([]);
    await editor.delete(`/documents/cue/${copy.id}`);
    expect(await rows('note')).toHaveLength(1);
  });
  it('a template’s copy has its tracks and mixes', async () => {
    const made = await editor.post('/documents', { kind: 'template', name: 'Twin', copyOf: test.templateId });
    const twin = (await editor.get(`/documents/template/${(made.body as { id: string }).id}`))
      .body as DocumentContent;
    const source = (await editor.get(`/documents/template/${test.templateId}`)).body as DocumentContent;
    for (const kind of ['track', 'positionMix'] as const)
      expect(twin.records[kind]?.length, kind).toBe(source.records[kind]?.length);
    const ids = new Set(twin.records.track?.map((track) => track.id));
    expect(twin.records.positionMix?.every((mix) => ids.has(String(mix.trackId)))).toBe(true);
  });
  it('are deleted with what is in them, and then are not there', async () => {
    expect((await editor.delete(`/documents/cue/${cueId}`)).status).toBe(204);
    expect((await editor.get(`/documents/cue/${cueId}`)).status).toBe(404);
    expect((await patch([addNote(randomUUID())])).status).toBe(404);
    expect(await test.store.models.records.part.count({ where: { id: partId } })).toBe(0);
    expect(await test.store.models.history.count({ where: { documentId: cueId } })).toBe(0);
  });
  it('a template without cues is deleted', async () => {
    const { id } = (await editor.post('/documents', { kind: 'template', name: 'Unused' })).body as {
      id: string;
    };
    expect((await editor.delete(`/documents/template/${id}`)).status).toBe(204);
    expect((await editor.get(`/documents/template/${id}`)).status).toBe(404);
  });
  it('a template stays while cues are made in it, and they are named', async () => {
    const template = (await editor.post('/documents', { kind: 'template', name: 'Bare' })).body as {
      id: string;
    };
    const one = (await editor.post('/documents', { kind: 'cue', name: 'Alone', templateId: template.id }))
      .body as {
      id: string;
    };
    const first = await editor.delete(`/documents/template/${template.id}`);
    expect((first.body as { title: string }).title).toBe(
      'A cue is made in this template: Alone. Delete it first.',
    );
    await editor.delete(`/documents/cue/${one.id}`);
    for (const name of ['One', 'Two'])
      await editor.post('/documents', { kind: 'cue', name, templateId: template.id });
    const refused = await editor.delete(`/documents/template/${template.id}`);
    expect(code(refused)).toEqual([409, 'document.in-use']);
    expect((refused.body as { title: string }).title).toMatch(
      /^2 cues are made in this template: (One, Two|Two, One)\. Delete them first\.$/,
    );
  });
  it('need a name and, for an empty cue, a template of the studio', async () => {
    expect(
      (await editor.post('/documents', { kind: 'cue', name: ' ', templateId: test.templateId })).status,
    ).toBe(400);
    expect((await editor.post('/documents', { kind: 'cue', name: 'x' })).status).toBe(400);
    expect((await editor.post('/documents', { kind: 'shelf', name: 'x' })).status).toBe(400);
    expect(
      (await editor.post('/documents', { kind: 'cue', name: 'x', templateId: test.elsewhere.templateId }))
        .status,
    ).toBe(404);
    expect(
      (await editor.post('/documents', { kind: 'cue', name: 'x', copyOf: test.elsewhere.cueId })).status,
    ).toBe(404);
    expect((await editor.delete(`/documents/shelf/${randomUUID()}`)).status).toBe(404);
  });
  it('are listed by name, and shelf and house are kept', async () => {
    const { body } = await editor.get('/studio');
    const names = (body as { cues: { name: string }[] }).cues.map((cue) => cue.name);
    expect(names).toEqual([...names].sort((a, b) => a.toLowerCase().localeCompare(b.toLowerCase())));
    const { shelfId } = body as { shelfId: string };
    expect((await editor.delete(`/documents/shelf/${shelfId}`)).status).toBe(400);
    expect((await editor.delete(`/documents/house/${houseId}`)).status).toBe(400);
  });
});

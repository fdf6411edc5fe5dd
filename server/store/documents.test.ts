import { randomUUID } from 'node:crypto';
import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import type { AppliedPatch, ChangeShape, Conflict, DocumentContent, HistoryEntry } from '#api/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';

let test: TestApp;
let editor: Caller;
let owner: Caller;
beforeAll(async () => {
  test = await startApp();
  editor = await test.as('editor');
  owner = await test.as('owner');
});
afterAll(() => test.close());

const content = async () => (await editor.get(`/documents/cue/${test.cueId}`)).body as DocumentContent;
const patch = (caller: Caller, changes: ChangeShape[], label = 'Edit', id: string = randomUUID()) =>
  caller.post(`/documents/cue/${test.cueId}/patches`, { id, label, changes });
const aNote = async () =>
  (await content()).records.note?.[0] as unknown as {
    id: string;
    version: number;
    key: number;
    velocity: number;
    partId: string;
  };

describe('the seeded cue', () => {
  it('holds eight bars that begin at once', async () => {
    const { records } = await content();
    expect(records.note?.length).toBeGreaterThan(20);
    expect(new Set(records.mark?.map((mark) => mark.articulation))).toEqual(
      new Set(['connected', 'pizzicato', 'staccato', 'tremolo', 'long']),
    );
    expect(records.cue?.[0]).toMatchObject({ endTick: 8 * 3840 });
  });
});

describe('patches', () => {
  it('are applied whole, with new versions and a history line', async () => {
    const note = await aNote();
    const added = randomUUID();
    const answer = await patch(
      editor,
      [
        { kind: 'note', id: note.id, op: 'update', version: note.version, fields: { velocity: 33 } },
        {
          kind: 'note',
          id: added,
          op: 'add',
          fields: { partId: note.partId, startTick: 0, endTick: 10, key: 60, velocity: 1 },
        },
      ],
      'Soften the first note',
    );
    const applied = answer.body as AppliedPatch;
    expect(answer.status).toBe(200);
    expect(applied.changes.map((change) => change.version)).toEqual([note.version + 1, 1]);
    const after = await content();
    expect(after.revision).toBe(applied.revision);
    expect(after.records.note?.find((n) => n.id === note.id)).toMatchObject({
      velocity: 33,
      version: note.version + 1,
    });
    const history = (await editor.get(`/documents/cue/${test.cueId}/history`)).body as HistoryEntry[];
    expect(history[0]).toMatchObject({
      revision: applied.revision,
      author: 'Tomas Oake',
      label: 'Soften the first note',
      count: 2,
    });
  });
  it('on an old version are refused with the present state, and change nothing', async () => {
    const note = await aNote();
    await patch(owner, [
      { kind: 'note', id: note.id, op: 'update', version: note.version, fields: { key: 61 } },
    ]);
    const answer = await patch(editor, [
      { kind: 'note', id: note.id, op: 'update', version: note.version, fields: { key: 62 } },
      {
        kind: 'note',
        id: randomUUID(),
        op: 'add',
        fields: { partId: note.partId, startTick: 0, endTick: 10, key: 99, velocity: 1 },
      },
    ]);
    expect(answer.status).toBe(409);
    const { conflicts } = answer.body as { conflicts: Conflict[] };
    expect(conflicts).toHaveLength(1);
    expect(conflicts[0].current).toMatchObject({ key: 61, version: note.version + 1 });
    const after = await content();
    expect(after.records.note?.some((n) => n.key === 99)).toBe(false);
  });
  it('sent twice are applied once', async () => {
    const note = await aNote();
    const id = randomUUID();
    const changes: ChangeShape[] = [
      { kind: 'note', id: note.id, op: 'update', version: note.version, fields: { velocity: 44 } },
    ];
    const first = await patch(editor, changes, 'Once', id);
    const second = await patch(editor, changes, 'Once', id);
    expect(second.body).toEqual(first.body);
    expect((await aNote()).version).toBe(note.version + 1);
  });
  it('taken back by the inverse leave things as they were', async () => {
    const note = await aNote();
    const { body } = await patch(editor, [
      { kind: 'note', id: note.id, op: 'remove', version: note.version },
    ]);
    expect((body as AppliedPatch).changes[0].op).toBe('remove');
    const { id, version: _version, ...fields } = note;
    expect((await patch(editor, [{ kind: 'note', id, op: 'add', fields }], 'Undo')).status).toBe(200);
    const back = (await content()).records.note?.find((n) => n.id === id);
    expect(back).toEqual({ ...note, version: 1 });
  });
  it('many at once lose nothing', async () => {
    const note = await aNote();
    const callers = [editor, owner];
    const answers = await Promise.all(
      Array.from({ length: 40 }, (_, i) =>
        patch(callers[i % 2], [
          {
            kind: 'note',
            id: randomUUID(),
            op: 'add',
            fields: { partId: note.partId, startTick: i * 10, endTick: i * 10 + 5, key: 30, velocity: 1 },
          },
        ]),
      ),
    );
    expect(answers.every((answer) => answer.status === 200)).toBe(true);
    expect((await content()).records.note?.filter((n) => n.key === 30)).toHaveLength(40);
    expect(new Set(answers.map((answer) => (answer.body as AppliedPatch).revision)).size).toBe(40);
  });
  it('of which exactly one of two on the same version wins', async () => {
    const note = await aNote();
    const answers = await Promise.all(
      [62, 63].map((key, i) =>
        patch([editor, owner][i], [
          { kind: 'note', id: note.id, op: 'update', version: note.version, fields: { key } },
        ]),
      ),
    );
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409]);
  });
  it.each<[string, (note: { id: string; version: number; partId: string }) => ChangeShape]>([
    [
      'a value out of range',
      (n) => ({ kind: 'note', id: n.id, op: 'update', version: n.version, fields: { velocity: 200 } }),
    ],
    [
      'an unknown field',
      (n) => ({ kind: 'note', id: n.id, op: 'update', version: n.version, fields: { revision: 1 } }),
    ],
    [
      'a missing field',
      (n) => ({ kind: 'note', id: randomUUID(), op: 'add', fields: { partId: n.partId, key: 3 } }),
    ],
    [
      'an end before its start',
      (n) => ({
        kind: 'note',
        id: randomUUID(),
        op: 'add',
        fields: { partId: n.partId, startTick: 10, endTick: 5, key: 3, velocity: 3 },
      }),
    ],
    [
      'a part of elsewhere',
      () => ({
        kind: 'note',
        id: randomUUID(),
        op: 'add',
        fields: { partId: randomUUID(), startTick: 1, endTick: 5, key: 3, velocity: 3 },
      }),
    ],
    ['a record of another document', () => ({ kind: 'track', id: randomUUID(), op: 'add', fields: {} })],
    ['the removal of the cue itself', () => ({ kind: 'cue', id: test.cueId, op: 'remove', version: 1 })],
  ])('with %s are refused with a sentence', async (_name, change) => {
    const before = (await content()).revision;
    const answer = await patch(editor, [change(await aNote())]);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect((answer.body as { title: string }).title.length).toBeGreaterThan(5);
    expect((await content()).revision).toBe(before);
  });
});

import { randomUUID } from 'node:crypto';
import { afterAll, describe, expect, it } from 'vitest';
import type { ChangeShape, DocumentContent } from '#api/index.ts';
import { PLAIN_TOUCH } from '#core/keymap/index.ts';
import { startApp, type Caller, type TestApp } from '../testing/app.ts';
import { beforeAll } from '../testing/hooks.ts';

let test: TestApp;
let editor: Caller;
let houseId: string;
beforeAll(async () => {
  test = await startApp();
  editor = await test.as('editor');
  ({ houseId } = (await editor.get('/studio')).body as { houseId: string });
});
afterAll(() => test.close());

const patch = (changes: ChangeShape[]) =>
  editor.post(`/documents/house/${houseId}/patches`, { id: randomUUID(), label: 'Edit', changes });
const content = async () => (await editor.get(`/documents/house/${houseId}`)).body as DocumentContent;
const add = (kind: ChangeShape['kind'], fields: Record<string, unknown>): ChangeShape & { id: string } => ({
  kind,
  id: randomUUID(),
  op: 'add',
  fields,
});
const keymap = () =>
  add('keymap', {
    name: 'Horns',
    instruments: '',
    initial: 'long',
    variantOf: '',
    trackId: '',
    ...PLAIN_TOUCH,
  });
const ride = (keymapId: string, fields: object) =>
  add('ride', {
    keymapId,
    parameter: 'vibrato',
    controller: 77,
    curve: 0.5,
    low: 0,
    high: 100,
    rest: 64,
    follows: 'dynamics',
    ...fields,
  });
const entry = (keymapId: string, articulation: string, place = 0) =>
  add('entry', { keymapId, articulation, place, morph: -1 });
const trigger = (entryId: string, fields: object) =>
  add('trigger', {
    entryId,
    kind: 'key',
    alternative: 0,
    number: 24,
    low: 0,
    high: 127,
    hold: 'latching',
    ...fields,
  });
const source = (entryId: string, velocityLow: number, velocityHigh: number) =>
  add('source', {
    entryId,
    articulation: 'long',
    place: 0,
    levelDb: 0,
    part: 'whole',
    morphAt: 0,
    velocityLow,
    velocityHigh,
  });
const answered = (response: { status: number; body: unknown }) => [
  response.status,
  (response.body as { code?: string }).code,
  (response.body as { title?: string }).title,
];

/** A keymap with two articulations on two keys. */
async function twoKeys() {
  const map = keymap();
  const [long, short] = [entry(map.id, 'long'), entry(map.id, 'staccato', 1)];
  const [a, b] = [trigger(long.id, { number: 24 }), trigger(short.id, { number: 25 })];
  expect((await patch([map, long, short, a, b])).status).toBe(200);
  return { map, long, short, a, b };
}

describe('a keymap of the house', () => {
  it('is kept with its parts, and comes with the seeded studio', async () => {
    const { map, a } = await twoKeys();
    const { records } = await content();
    expect(records.keymap?.find(({ id }) => id === map.id)).toMatchObject({ name: 'Horns', initial: 'long' });
    expect(records.trigger?.find(({ id }) => id === a.id)).toMatchObject({ number: 24, hold: 'latching' });
    expect(records.keymap?.some(({ name }) => name === 'Violins I')).toBe(true);
  });
  it('is not saved with two articulations on one trigger, whoever sends it', async () => {
    const { b } = await twoKeys();
    const before = (await content()).revision;
    const answer = await patch([
      { kind: 'trigger', id: b.id, op: 'update', version: 1, fields: { number: 24 } },
    ]);
    expect(answered(answer)).toEqual([
      422,
      'keymap.clash',
      'Horns: C1 already selects long; it cannot select staccato as well.',
    ]);
    expect((await content()).revision).toBe(before);
  });
  it('may let two triggers change places in one patch', async () => {
    const { a, b } = await twoKeys();
    const to = (id: string, number: number): ChangeShape => ({
      kind: 'trigger',
      id,
      op: 'update',
      version: 1,
      fields: { number },
    });
    expect((await patch([to(a.id, 25), to(b.id, 24)])).status).toBe(200);
  });
  it('is not saved with ranges that overlap, nor with velocities at which nothing sounds', async () => {
    const { long, short } = await twoKeys();
    const overlap = await patch([
      trigger(long.id, { kind: 'velocity', alternative: 1, low: 1, high: 80 }),
      trigger(short.id, { kind: 'velocity', alternative: 1, low: 80, high: 127 }),
    ]);
    expect(answered(overlap).slice(0, 2)).toEqual([422, 'keymap.clash']);
    const gap = await patch([source(long.id, 1, 63), source(long.id, 65, 127)]);
    expect(String(answered(gap)[2])).toContain('silent at velocities 64 to 64');
    const turned = await patch([source(long.id, 90, 20)]);
    expect(answered(turned).slice(0, 2)).toEqual([422, 'patch.invalid']);
    expect((await patch([source(long.id, 1, 63), source(long.id, 64, 127)])).status).toBe(200);
  });
  it('has one entry for an articulation', async () => {
    const { map } = await twoKeys();
    const answer = await patch([entry(map.id, 'long')]);
    expect(answered(answer)).toEqual([
      409,
      'patch.twice',
      'The keymap has an entry for this articulation already.',
    ]);
  });
  it('keeps how a parameter is ridden once, and nothing that is no parameter', async () => {
    const { map } = await twoKeys();
    const first = ride(map.id, {});
    expect((await patch([first])).status).toBe(200);
    const kept = (await content()).records.ride?.find(({ id }) => id === first.id);
    expect(kept).toMatchObject({ curve: 0.5, high: 100, follows: 'dynamics' });
    expect(answered(await patch([ride(map.id, {})]))[1]).toBe('patch.twice');
    expect(answered(await patch([ride(map.id, { parameter: 'volume' })]))[1]).toBe('patch.invalid');
    expect(answered(await patch([ride(map.id, { parameter: 'pace', controller: 128 })]))[1]).toBe(
      'patch.invalid',
    );
  });
  it('goes with what belongs to it only when all of it goes', async () => {
    const { map, long, short, a, b } = await twoKeys();
    const remove = ({ kind, id }: ChangeShape): ChangeShape => ({ kind, id, op: 'remove', version: 1 });
    expect(answered(await patch([remove(map)]))[1]).toBe('patch.in-use');
    expect((await patch([a, b, long, short, map].map(remove))).status).toBe(200);
    expect((await content()).records.entry?.some(({ id }) => id === long.id)).toBe(false);
  });
});

describe('the history of a template from before the house', () => {
  it('can be gone back through: what moved into the house stays as it is', async () => {
    const { templateId, store } = test;
    const path = `/documents/template/${templateId}`;
    const { revision } = (await editor.get(path)).body as DocumentContent;
    const trackId = ((await editor.get(path)).body as DocumentContent).records.track?.[0].id ?? '';
    const version = Number(
      ((await editor.get(path)).body as DocumentContent).records.track?.[0].version ?? 1,
    );
    const renamed = await editor.post(`${path}/patches`, {
      id: randomUUID(),
      label: 'Rename',
      changes: [{ kind: 'track', id: trackId, op: 'update', version, fields: { name: 'Other' } }],
    });
    expect(renamed.status).toBe(200);
    // A line as the version before wrote it.
    await store.models.history.update(
      {
        changes: JSON.stringify([
          ...(renamed.body as { changes: object[] }).changes.map((change) => ({
            ...change,
            before: { name: 'Violins I' },
          })),
          { kind: 'trigger', id: randomUUID(), op: 'add', version: 1, before: null, fields: { key: 24 } },
        ]),
      },
      { where: { documentId: templateId, revision: revision + 1 } },
    );
    expect((await editor.post(`${path}/back`, { revision })).status).toBe(200);
    const after = (await editor.get(path)).body as DocumentContent;
    expect(after.records.track?.find(({ id }) => id === trackId)?.name).toBe('Violins I');
  });
});

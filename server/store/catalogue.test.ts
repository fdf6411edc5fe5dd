import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import { NO_FACTS, type Articulation } from '#core/catalogue/index.ts';
import { startApp, type TestApp } from '../testing/app.ts';
import { Catalogue, NO_REPORT, type NewLibrary } from './catalogue.ts';

let test: TestApp;
let catalogue: Catalogue;
beforeAll(async () => {
  test = await startApp();
  catalogue = new Catalogue(test.store);
});
afterAll(() => test.close());

const articulation = (id: string, sample: string): Articulation => ({
  id,
  name: id,
  zones: [
    {
      role: 'attack',
      keyLow: 48,
      keyHigh: 60,
      rootKey: 54,
      velocityLow: 1,
      velocityHigh: 127,
      fades: [],
      modulations: [],
      take: 0,
      takes: 1,
      tuneCents: 0,
      gainDb: 0,
      velocityTrack: 0,
      startFrame: 0,
      oneShot: false,
      envelope: { attackSeconds: 0, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0 },
      samples: { mix: { sample } },
    },
  ],
});

const library = (recipe: string, articulations: Articulation[], packs = ['1'.repeat(64)]): NewLibrary => ({
  packsWritten: [],
  name: 'Buoys',
  maker: 'own',
  room: 'quay',
  recipe,
  facts: NO_FACTS,
  report: NO_REPORT,
  instruments: [
    {
      name: 'Buoy bells',
      family: 'percussion',
      kind: 'solo',
      players: 1,
      hallSendDb: -8.5,
      positions: [{ id: 'mix', name: 'Mix' }],
      articulations,
      samples: Object.fromEntries(
        packs.map((pack, i) => [
          `${i}`.repeat(64),
          {
            id: `${i}`.repeat(64),
            frames: 1000,
            channels: 2,
            rate: 48000,
            format: 'i16',
            pack,
            headOffset: 0,
            headFrames: 100,
            tailOffset: 400,
          },
        ]),
      ),
      packs: Object.fromEntries(
        packs.map((pack) => [
          pack,
          { id: pack, articulation: 'long', position: 'mix', headBytes: 400, bytes: 4000 },
        ]),
      ),
    },
  ],
});

describe('the catalogue', () => {
  it('gives an instrument back as it was saved, and sums it up for the shelf', async () => {
    await catalogue.save(test.studioId, library('r1', [articulation('long', '0'.repeat(64))]));
    const [summary] = (await catalogue.list(test.studioId)).filter((entry) => entry.name === 'Buoys');
    expect(summary.instruments[0]).toMatchObject({
      name: 'Buoy bells',
      bytes: 4000,
      articulations: [{ id: 'long', low: 48, high: 60, layers: 1, takes: 1, transitions: 0 }],
    });
    const instrument = await catalogue.instrument(summary.instruments[0].id);
    expect(instrument?.articulations).toEqual([articulation('long', '0'.repeat(64))]);
    expect(Object.keys(instrument?.packs ?? {})).toEqual(['1'.repeat(64)]);
    expect(instrument?.hallSendDb).toBe(-8.5);
  });
  it('keeps the ids of what is recorded anew, so that tracks go on playing', async () => {
    const before = (await catalogue.list(test.studioId)).find((entry) => entry.name === 'Buoys');
    const id = await catalogue.save(
      test.studioId,
      library(
        'r2',
        [articulation('long', '0'.repeat(64)), articulation('hit', '1'.repeat(64))],
        ['1'.repeat(64), '2'.repeat(64)],
      ),
      true,
    );
    const after = (await catalogue.list(test.studioId)).find((entry) => entry.name === 'Buoys');
    expect([id, after?.instruments[0].id]).toEqual([before?.id, before?.instruments[0].id]);
    expect(after?.instruments[0].articulations.map((a) => a.id)).toEqual(['long', 'hit']);
    expect(await catalogue.recipesOf(test.studioId, 'Buoys')).toEqual(new Map([['Buoy bells', '']]));
  });
  it('shows nothing of it to another studio', async () => {
    const outsider = await test.as('outsider');
    const id = (await catalogue.list(test.studioId)).find((entry) => entry.name === 'Buoys')?.instruments[0]
      .id;
    expect((await outsider.get('/libraries')).body).toEqual([]);
    expect((await outsider.get(`/instruments/${id}`)).status).toBe(404);
    expect((await outsider.get(`/packs/${'1'.repeat(64)}`)).status).toBe(404);
  });
  it('adds instruments one by one, sharing recordings that are stored already', async () => {
    const [shared] = library('r3', [articulation('long', '0'.repeat(64))]).instruments;
    const head = { ...library('r3', []), name: 'Buoys, light' };
    await catalogue.put(test.studioId, head, {
      ...shared,
      name: 'Light bells',
      samples: {},
      packs: {},
      recipe: 'l1',
    });
    await catalogue.put(test.studioId, head, { ...shared, name: 'More bells', samples: {}, packs: {} });
    const list = await catalogue.list(test.studioId);
    const light = list.find((entry) => entry.name === 'Buoys, light');
    expect(light?.instruments.map((one) => [one.name, one.bytes])).toEqual([
      ['Light bells', 4000],
      ['More bells', 4000],
    ]);
    // Both play the same recording: it is counted once.
    expect(light?.bytes).toBe(4000);
    expect((await catalogue.recipesOf(test.studioId, 'Buoys, light')).get('Light bells')).toBe('l1');
  });
  it('refuses an instrument whose shared recordings are gone', async () => {
    const [orphan] = library('r', [articulation('long', '9'.repeat(64))]).instruments;
    await expect(
      catalogue.put(
        test.studioId,
        { ...library('r', []), name: 'Orphans' },
        { ...orphan, samples: {}, packs: {} },
      ),
    ).rejects.toThrow(/shares recordings/);
    expect((await catalogue.list(test.studioId)).some((entry) => entry.name === 'Orphans')).toBe(false);
  });
  it('sweeps packs that nothing plays any more, and no others', async () => {
    expect(await catalogue.sweep()).toEqual([]);
    const list = await catalogue.list(test.studioId);
    await catalogue.remove(list.find((entry) => entry.name === 'Buoys')?.id ?? '');
    // The light edition still plays from the first pack.
    expect(await catalogue.sweep()).toEqual(['2'.repeat(64)]);
    expect([...(await catalogue.packIds())]).toEqual(['1'.repeat(64)]);
  });
  it('names a pack whose file is gone', async () => {
    const viewer = await test.as('viewer');
    const answer = await viewer.get(`/packs/${'1'.repeat(64)}`);
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([500, 'sample.missing']);
  });
});

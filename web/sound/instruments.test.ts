import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readsOf, type PackReadsShape } from '#api/index.ts';
import type { Instrument, SampleInfo } from '#core/catalogue/index.ts';
import { plainZone } from '#core/testing/fixtures.ts';
import {
  bytesFreedBy,
  bytesNeededFor,
  followHeard,
  followSwitches,
  forgetInstrument,
  loadInstrument,
  openInstrument,
  unloadArticulation,
  unloadInstrument,
  useInstruments,
  wantArticulation,
  wantOnce,
} from './instruments.ts';

const FRAMES = 100;
const BYTES = FRAMES * 4;
const ALL = ['connected', 'long', 'staccato'];

/** An instrument of three techniques; “connected” plays the recording of “long” and one of its own. */
function instrument(): Instrument {
  const info = (id: string, i: number): SampleInfo => ({
    id,
    frames: FRAMES,
    channels: 2,
    rate: 48_000,
    format: 'i16',
    pack: 'p',
    headFrames: 10,
    headOffset: i * 40,
    tailOffset: 120 + i * (BYTES - 40),
  });
  const zone = (...samples: string[]) => samples.map((sample) => plainZone({ samples: { mix: { sample } } }));
  return {
    id: 'i',
    name: 'I',
    family: 'other',
    kind: 'solo',
    players: 1,
    positions: [{ id: 'mix', name: 'Mix' }],
    articulations: [
      { id: 'connected', name: 'connected', zones: zone('a', 'b') },
      { id: 'long', name: 'long', zones: zone('a') },
      { id: 'staccato', name: 'staccato', zones: zone('c') },
    ],
    samples: { a: info('a', 0), b: info('b', 1), c: info('c', 2) },
    packs: { p: { id: 'p', articulation: 'long', position: 'mix', headBytes: 120, bytes: 3 * BYTES } },
  };
}

const realFetch = globalThis.fetch;
let requests: string[];
/** Where the first piece of each request for recordings begins. */
let firsts: number[];
let away = false;
beforeEach(() => {
  requests = [];
  away = false;
  firsts = [];
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    requests.push(path);
    if (away) return Promise.reject(new TypeError('away'));
    if (path.includes('/instruments/')) return Promise.resolve(new Response(JSON.stringify(instrument())));
    const reads = readsOf(JSON.parse(String(init?.body)) as PackReadsShape) ?? [];
    firsts.push(reads[0]?.start ?? -1);
    const length = reads.reduce((sum, { start, end }) => sum + end - start, 0);
    return Promise.resolve(new Response(new Uint8Array(length).fill(7)));
  }) as typeof fetch;
});
afterEach(() => {
  forgetInstrument('i');
  followSwitches(new Map());
  globalThis.fetch = realFetch;
});

const state = () => useInstruments.getState();
const wanted = () => [...(state().loads.i?.wanted ?? [])].sort();

describe('instruments in memory', () => {
  it('are loaded once as far as they are wanted, what is switched off aside', async () => {
    followSwitches(new Map([['i', new Set(['staccato'])]]));
    await wantOnce(await openInstrument('i'), ['long', 'staccato', 'connected']);
    expect(wanted()).toEqual(['connected', 'long']);
    expect(state().loads.i).toMatchObject({ complete: true, totalBytes: 2 * BYTES, loadedBytes: 2 * BYTES });
    expect([...state().loads.i.audio.keys()].sort()).toEqual(['a', 'b']);
    // The shared recording is held once.
    expect(state().heldBytes).toBe(2 * BYTES);
    const asked = requests.length;
    await wantOnce(await openInstrument('i'), ALL);
    expect(requests.length).toBe(asked);
  });
  it('give way one technique at a time, as far as nothing else plays the recording', async () => {
    await loadInstrument('i');
    expect(bytesFreedBy([{ id: 'i', articulation: 'long' }])).toBe(0);
    expect(bytesFreedBy([{ id: 'i', articulation: 'staccato' }])).toBe(BYTES);
    await unloadArticulation('i', 'staccato');
    await unloadArticulation('i', 'long');
    expect([wanted(), state().heldBytes]).toEqual([['connected'], 2 * BYTES]);
  });
  it('stay out once they were let go, until they are asked for', async () => {
    await wantOnce(await openInstrument('i'), ALL);
    unloadInstrument('i');
    await new Promise((resolve) => setTimeout(resolve, 0));
    expect([state().loads.i, state().heldBytes]).toEqual([undefined, 0]);
    // A track that plays it does not bring it back by itself; a press does.
    await wantOnce(await openInstrument('i'), ALL);
    expect(state().heldBytes).toBe(0);
    await wantArticulation('i', 'staccato');
    expect(wanted()).toEqual(['staccato']);
    await loadInstrument('i');
    expect(state().heldBytes).toBe(3 * BYTES);
  });
  it.each([
    [72, 120 + BYTES - 40],
    [60, 120],
  ])('bring what lies near key %i first, where somebody waits for it', async (key, tailOffset) => {
    const own = instrument();
    const [low, high] = own.articulations[0].zones;
    const roots = [
      { ...low, rootKey: 60 },
      { ...high, rootKey: 72 },
    ];
    const other = { ...own, articulations: [{ ...own.articulations[0], zones: roots }] };
    const served = globalThis.fetch;
    globalThis.fetch = ((path: string, init?: RequestInit) =>
      path.includes('/instruments/')
        ? Promise.resolve(new Response(JSON.stringify(other)))
        : served(path, init)) as typeof fetch;
    await wantArticulation('i', 'connected', key);
    // All beginnings come first, then the rests in the order in which they are needed.
    expect(firsts[1]).toBe(tailOffset);
  });
  it('say beforehand what a technique would take', async () => {
    const whole = await openInstrument('i');
    const [connected, long] = whole.articulations;
    expect(bytesNeededFor(whole, [connected])).toBe(2 * BYTES);
    await wantArticulation('i', long.id);
    expect(bytesNeededFor(whole, [connected])).toBe(BYTES);
  });
  it('follow what is switched off and on while they are loaded', async () => {
    await loadInstrument('i');
    followSwitches(new Map([['i', new Set(['staccato'])]]));
    await new Promise((resolve) => setTimeout(resolve, 10));
    expect(wanted()).toEqual(['connected', 'long']);
    followSwitches(new Map());
    await new Promise((resolve) => setTimeout(resolve, 30));
    expect(wanted()).toEqual(['connected', 'long', 'staccato']);
  });
  it('tell why they do not come, and come when the server is back', async () => {
    await openInstrument('i');
    away = true;
    await expect(wantArticulation('i', 'long')).rejects.toThrow(/does not answer/);
    expect(state().errors.i).toMatch(/does not answer/);
    expect(state().heldBytes).toBe(0);
    away = false;
    await wantArticulation('i', 'long');
    expect(state().errors.i).toBeUndefined();
    expect(wanted()).toEqual(['long']);
  });
});

describe('positions that nobody hears', () => {
  const NEAR_AND_FAR = ['near', 'far'];
  /** The instrument with a second position: one recording more for each technique. */
  const twoPositions = (): Instrument => {
    const one = instrument();
    const far = (sample: string) => `${sample} far`;
    return {
      ...one,
      positions: NEAR_AND_FAR.map((id) => ({ id, name: id })),
      articulations: one.articulations.map((articulation) => ({
        ...articulation,
        zones: articulation.zones.map((zone) => {
          const [own] = Object.values(zone.samples);
          return { ...zone, samples: { near: own, far: { ...own, sample: far(own.sample) } } };
        }),
      })),
      samples: Object.fromEntries(
        Object.entries(one.samples).flatMap(([id, info]) => [
          [id, info],
          [far(id), { ...info, id: far(id), pack: far(info.pack) }],
        ]),
      ),
    };
  };
  const audio = () => [...(state().loads.i?.audio.keys() ?? [])].sort();
  const settled = () => new Promise((resolve) => setTimeout(resolve, 30));
  beforeEach(() => {
    const plain = globalThis.fetch;
    globalThis.fetch = ((path: string, init?: RequestInit) =>
      path.includes('/instruments/')
        ? Promise.resolve(new Response(JSON.stringify(twoPositions())))
        : plain(path, init)) as typeof fetch;
  });
  afterEach(() => followHeard(new Map()));

  it('are not loaded for what tracks play, and come when they are heard', async () => {
    followHeard(new Map([['i', new Set(['near'])]]));
    await wantOnce(await openInstrument('i'), ['long']);
    expect([audio(), state().heldBytes]).toEqual([['a'], BYTES]);
    expect(state().loads.i).toMatchObject({ totalBytes: BYTES, complete: true });
    followHeard(new Map([['i', new Set(NEAR_AND_FAR)]]));
    await settled();
    expect([audio(), state().heldBytes]).toEqual([['a', 'a far'], 2 * BYTES]);
    expect(state().loads.i.complete).toBe(true);
    followHeard(new Map([['i', new Set(['far'])]]));
    await settled();
    expect([audio(), state().heldBytes, wanted()]).toEqual([['a far'], BYTES, ['long']]);
  });
  it('come all the same when somebody asks for the technique itself', async () => {
    followHeard(new Map([['i', new Set(['near'])]]));
    await wantOnce(await openInstrument('i'), ['long']);
    await wantArticulation('i', 'connected');
    await settled();
    expect(audio()).toEqual(['a', 'a far', 'b', 'b far']);
    // And stay, whatever the mixes do.
    followHeard(new Map([['i', new Set(['far'])]]));
    await settled();
    expect(audio()).toEqual(['a', 'a far', 'b', 'b far']);
  });
});

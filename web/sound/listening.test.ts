import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { readsOf, type PackReadsShape, type RecordKind } from '#api/index.ts';
import type { Rendering } from '#core/engine/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { plainZone } from '#core/testing/fixtures.ts';
import { useDocuments } from '../state/documents.ts';
import { Table } from '../state/tables.ts';
import type { RenderOrder } from './renderings.ts';
import { eventually } from '#core/testing/eventually.ts';

/** Renderings, listening to them, and figures of passages: workers run here, the engine stands still. */

const told = vi.hoisted(() => ({
  offered: [] as Map<string, unknown>[],
  kept: [] as string[][],
  heard: [] as unknown[][],
  changed: [] as string[],
  quiet: 0,
  live: [] as unknown[],
  hushed: [] as number[],
  listener: undefined as unknown,
}));
vi.mock('./host.ts', () => ({
  soundHost: {
    setInstrument: () => undefined,
    forget: () => Promise.resolve(),
    wake: () => Promise.resolve(),
    setRenderings: (map: Map<string, unknown>) => told.offered.push(map),
    keepRenderings: (names: string[]) => told.kept.push(names),
    hear: (...what: unknown[]) => {
      told.heard.push(what);
      return Promise.resolve();
    },
    changeRendering: (name: string) => told.changed.push(name),
    quiet: () => told.quiet++,
    stop: () => undefined,
    live: (events: unknown[]) => {
      told.live.push(...events);
      return Promise.resolve();
    },
    hush: (track: number) => told.hushed.push(track),
    listen: (listener: unknown) => {
      told.listener = listener;
      return () => undefined;
    },
    hall: null,
    ahead: { nextFrame: 0 },
  },
}));

type Handler = ((event: { data: unknown }) => void) | null;
let current: FakeWorker | undefined;
const works = (one: FakeWorker) => (current = one);
const scope = { onmessage: null as Handler, postMessage: (data: unknown) => current?.onmessage?.({ data }) };
const handlers = new Map<string, Handler>();
const made: FakeWorker[] = [];
let answers = true;
class FakeWorker {
  onmessage: Handler = null;
  onerror: ((event: { message: string }) => void) | null = null;
  ended = false;
  private readonly name: string;
  constructor(url: URL) {
    this.name = url.pathname.split('/').pop() ?? '';
    made.push(this);
  }
  asked: unknown;
  postMessage(data: unknown): void {
    this.asked = data;
    if (!answers) return;
    setImmediate(() => {
      works(this);
      handlers.get(this.name)?.({ data });
    });
  }
  terminate(): void {
    this.ended = true;
  }
}
vi.stubGlobal('self', scope);
vi.stubGlobal('Worker', FakeWorker);
vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined });

const FRAMES = 48_000;
const wave = (id: string) => {
  const hertz = id === 'a' ? 440 : 880;
  return Int16Array.from(
    { length: FRAMES * 2 },
    (_, i) => 8000 * Math.sin((2 * Math.PI * hertz * (i >> 1)) / 48_000),
  );
};
const bytes = new Uint8Array(FRAMES * 8);
bytes.set(new Uint8Array(wave('a').buffer), 0);
bytes.set(new Uint8Array(wave('b').buffer), FRAMES * 4);
const zone = (sample: string) =>
  plainZone({ rootKey: 60, keyLow: 48, keyHigh: 72, samples: { mix: { sample } } });
const info = (id: string, n: number) => ({
  id,
  frames: FRAMES,
  channels: 2,
  rate: 48_000,
  format: 'i16',
  pack: 'p'.repeat(64),
  headFrames: 0,
  headOffset: 0,
  tailOffset: n * FRAMES * 4,
});
const instrument = {
  id: 'i',
  name: 'Tide pipes',
  family: 'woodwind',
  kind: 'solo',
  players: 1,
  positions: [{ id: 'mix', name: 'Mix' }],
  articulations: [
    { id: 'long', name: 'long', zones: [zone('a')] },
    { id: 'staccato', name: 'short', zones: [zone('b')] },
    { id: 'noises', name: 'noises', zones: [] },
  ],
  samples: { a: info('a', 0), b: info('b', 1) },
  packs: {},
};
/** The same, 6 dB softer, without a short technique. */
const quieter = {
  ...instrument,
  id: 'quiet',
  name: 'Far pipes',
  articulations: [{ id: 'long', name: 'long', zones: [{ ...zone('a'), gainDb: -6 }] }],
};
let refusal: object | undefined;
let sound: typeof import('./renderings.ts') &
  typeof import('./renderings-state.ts') &
  typeof import('./listening.ts') &
  typeof import('./tone.ts') &
  typeof import('./audition.ts') &
  typeof import('./trial.ts') &
  typeof import('./instruments.ts') &
  typeof import('./performance-state.ts');
const real = globalThis.fetch;

beforeAll(async () => {
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    if (path.includes('/instruments/'))
      return Promise.resolve(new Response(JSON.stringify(path.endsWith('/quiet') ? quieter : instrument)));
    if (refusal) return Promise.resolve(new Response(JSON.stringify(refusal), { status: 409 }));
    const reads = readsOf(JSON.parse(String(init?.body)) as PackReadsShape) ?? [];
    const all = reads.map(({ start, end }) => bytes.slice(start, end));
    return Promise.resolve(new Response(Buffer.concat(all)));
  }) as typeof fetch;
  for (const name of ['render.worker.ts', 'tone.worker.ts']) {
    await import(`./${name.replace('.ts', '')}.ts`);
    handlers.set(name, scope.onmessage);
  }
  sound = Object.assign(
    {},
    await import('./renderings.ts'),
    await import('./renderings-state.ts'),
    await import('./listening.ts'),
    await import('./tone.ts'),
    await import('./audition.ts'),
    await import('./trial.ts'),
    await import('./instruments.ts'),
    await import('./performance-state.ts'),
  );
});
afterAll(() => {
  globalThis.fetch = real;
  vi.unstubAllGlobals();
});
beforeEach(() => {
  sound.stopListening();
  Object.assign(told, { offered: [], kept: [], heard: [], changed: [], quiet: 0, live: [], hushed: [] });
  refusal = undefined;
});

const mix = { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions: { mix: PLAIN_POSITION } };
const order = (name: string, articulation = 'long', more: Partial<RenderOrder> = {}): RenderOrder => ({
  name,
  instrumentId: 'i',
  articulation,
  phrase: {
    part: {
      notes: [{ id: 'n', startTick: 0, endTick: 1920, key: 60, velocity: 90 }],
      marks: [],
      points: [],
    },
    endTick: 1920,
  },
  bpm: 120,
  mix,
  ...more,
});
const report = (hearing: boolean, place = 0) =>
  (told.listener as (state: object) => void)({ hearing, place });
const listening = () => sound.useListening.getState();

describe('a rendering', () => {
  it('is made once, with its figures, and kept', async () => {
    const [one, two] = await Promise.all([sound.rendering(order('once')), sound.rendering(order('once'))]);
    expect(one).toBe(two);
    // A sine of 8,000 of 32,768: mean square −15.25 dB, twice that for two channels, less 0.69 (ITU-R BS.1770): −12.93. Of the 13
    // windows of 0.4 s that pass the gate seven are full, two each hold three quarters, a half and a quarter of the tone.
    expect(one.lufs).toBeCloseTo(-12.93 + 10 * Math.log10(10 / 13), 1);
    expect(one.truePeakDb).toBeCloseTo(20 * Math.log10(8000 / 32_768), 0);
    expect(one.left.buffer).toBeInstanceOf(SharedArrayBuffer);
    expect(one.outline).toHaveLength(64);
    const state = sound.useRenderings.getState().states.once;
    expect(state).toMatchObject({ kind: 'ready', lufs: one.lufs, seconds: one.left.length / 48_000 });
    expect(await sound.rendering(order('once'))).toBe(one);
    expect(sound.heldRendering('once')).toBe(one);
    expect(sound.useRenderings.getState().heldBytes).toBeGreaterThanOrEqual(2 * one.left.byteLength);
    expect(made).toHaveLength(1);
  });

  it('waits its turn: what is urgent comes first, what is no longer wanted is forgotten', async () => {
    const done: string[] = [];
    const wait = (name: string, rank: number) =>
      sound.rendering(order(name), rank).then(
        () => done.push(name),
        (error: Error) => done.push(`${name}: ${error.message}`),
      );
    const all = [wait('busy', 5), wait('late', 5), wait('dropped', 9), wait('urgent', 0)];
    expect(sound.useRenderings.getState().states.late).toEqual({ kind: 'waiting' });
    sound.dropWaiting(9);
    await Promise.all(all);
    expect(done.map((one) => one)).toEqual(['dropped: No longer wanted.', 'busy', 'urgent', 'late']);
    expect(sound.useRenderings.getState().states.dropped).toBeUndefined();
    sound.prepareRendering(order('behind'), 3);
    await eventually(() => expect(sound.useRenderings.getState().states.behind?.kind).toBe('ready'));
  });

  it('says what it lacks, in words', async () => {
    await expect(sound.rendering(order('none', 'tremolo'))).rejects.toThrow('Tide pipes has no tremolo.');
    expect(sound.useRenderings.getState().states.none).toEqual({
      kind: 'failed',
      message: 'Tide pipes has no tremolo.',
    });
    await sound.unloadArticulation('i', 'staccato');
    refusal = { code: 'sample.missing', message: 'gone', place: { record: 'p'.repeat(64) } };
    await expect(sound.rendering(order('gone', 'staccato'))).rejects.toThrow(
      /^Tide pipes, short: recordings of C4 are no longer on the disk\. Take the library in again\.$/,
    );
    refusal = undefined;
    // Asked for again, it is tried again.
    expect((await sound.rendering(order('gone', 'staccato'))).lufs).toBeGreaterThan(-30);
  });

  it('survives the end of its worker', async () => {
    const first = made.find(({ ended }) => !ended);
    answers = false;
    const failing = sound.rendering(order('breaks'));
    await eventually(() => expect(sound.useRenderings.getState().states.breaks?.kind).toBe('rendering'));
    answers = true;
    first?.onerror?.({ message: 'out of memory' });
    await expect(failing).rejects.toThrow('out of memory');
    expect(first?.ended).toBe(true);
    expect((await sound.rendering(order('breaks'))).left.length).toBeGreaterThan(0);
  });
});

describe('listening', () => {
  const set = () => [order('x'), order('y', 'staccato')];
  it('hands all of a set to the engine, matched, and goes over at the same place', async () => {
    for (const one of set()) await sound.rendering(one);
    await sound.hear(set(), 0, { matched: true, repeat: true, place: 100 });
    expect(told.heard).toEqual([['x', 100, true]]);
    expect(listening()).toEqual({ sounding: 'x', waiting: undefined, trouble: undefined });
    const offered = told.offered.at(-1) as Map<string, Rendering>;
    expect([...offered.keys()]).toEqual(['x', 'y']);
    const level = (name: string) =>
      (sound.heldRendering(name)?.lufs ?? 0) + 20 * Math.log10(offered.get(name)?.gain ?? 0);
    expect(level('x')).toBeCloseTo(level('y'), 1);
    expect(told.kept.at(-1)).toEqual(['x', 'y']);
    await sound.hear(set(), 1, { matched: false });
    expect(told.changed).toEqual(['y']);
    expect(told.heard).toHaveLength(1);
    const plain = told.offered.at(-1) as Map<string, Rendering>;
    expect(plain.get('x')?.gain).toBe(plain.get('y')?.gain);
    // Another set begins anew.
    await sound.hear([order('x')], 0, { matched: true });
    expect(told.heard.at(-1)).toEqual(['x', 0, false]);
    await sound.hear([], 0, { matched: true });
    expect(told.heard).toHaveLength(2);
  });

  it('knows its place, its end, and who ended it', async () => {
    const end = vi.fn();
    await sound.hear(set(), 0, { matched: true, place: 480, onEnd: end });
    expect(sound.listeningPlace()).toBeGreaterThanOrEqual(480);
    // Not told to play yet: nothing has ended.
    report(false);
    expect(listening().sounding).toBe('x');
    report(true, 9600);
    expect(sound.listeningPlace()).toBeGreaterThanOrEqual(9600);
    expect(sound.listeningPlace()).toBeLessThan(9600 + 24_000);
    report(false);
    expect([listening().sounding, end.mock.calls.length]).toEqual([undefined, 1]);
    expect(sound.listeningPlace()).toBe(0);
    await sound.hear(set(), 0, { matched: true, onEnd: end });
    report(true, 500);
    expect(sound.stopListening()).toBeGreaterThanOrEqual(500);
    expect([told.quiet, listening().sounding]).toEqual([1, undefined]);
    report(false);
    expect(end).toHaveBeenCalledTimes(1);
    // A cue that was started ends it too, which is not its own end.
    await sound.hear(set(), 0, { matched: true, onEnd: end });
    report(true, 500);
    sound.usePerformance.setState({ playing: true });
    report(false);
    sound.usePerformance.setState({ playing: false });
    expect([listening().sounding, end.mock.calls.length]).toEqual([undefined, 1]);
  });

  it('tells what cannot be heard, and hears sounds that were kept', async () => {
    await sound.hear([order('not there', 'tremolo')], 0, { matched: true });
    expect(listening().trouble).toEqual({ name: 'not there', sentence: 'Tide pipes has no tremolo.' });
    await sound.hear([{ name: 'passage', held: true }], 0, { matched: true });
    expect(listening().trouble?.sentence).toBe('This passage was let go. Compare again.');
    const passage = await sound.rendering(order('once'));
    sound.keepSound('passage', passage);
    await sound.hear([{ name: 'passage', held: true }], 0, { matched: true });
    expect(listening()).toMatchObject({ sounding: 'passage', trouble: undefined });
  });

  it('only the last press counts', async () => {
    const first = sound.hear([order('slow to come')], 0, { matched: true });
    await sound.hear([order('once')], 0, { matched: true });
    await first;
    expect(told.heard).toEqual([['once', 0, false]]);
    expect(listening().sounding).toBe('once');
  });
});

describe('an audition', () => {
  it('plays a phrase on the taken track as soon as its recordings are here, and hands play on', async () => {
    sound.forgetInstrument('i');
    const seconds = await sound.audition('i', 'long');
    const { taken, articulation } = sound.usePerformance.getState();
    expect(taken).toMatchObject({ instrumentId: 'i', name: 'Tide pipes' });
    expect(articulation).toBe('long');
    expect(told.hushed).toEqual([0]);
    const events = told.live as {
      afterSeconds: number;
      event: { kind: string; track: number; key: number };
    }[];
    const keys = events.filter(({ event }) => event.kind === 'start').map(({ event }) => event.key);
    // In the middle of C3 to C5, upwards: a tone, a second, a third.
    expect(keys).toEqual([60, 62, 64]);
    expect(events.every(({ event }) => event.track === 0)).toBe(true);
    expect(seconds).toBeGreaterThan(1.4 + 1.4 + 1.8);
    expect(seconds).toBeLessThan(8);
  });
  it('says what has nothing to be heard, or does not come', async () => {
    await expect(sound.audition('i', 'noises')).rejects.toThrow('no recording that starts a note');
    await sound.unloadArticulation('i', 'staccato');
    refusal = { code: 'sample.missing', message: 'Recordings are gone.' };
    await expect(sound.audition('i', 'staccato')).rejects.toThrow();
  });
});

describe('a trial', () => {
  const written = (articulation: string) => {
    const tables = {
      template: [{ id: 'template', name: 'House', hallEarlyDb: 0, hallTailDb: 0, middleC: 4 }],
      cue: [{ id: 'cue', name: 'Cue', endTick: 3840, loopStartTick: 0, loopEndTick: 0 }],
      tempo: [{ id: 'tempo', tick: 0, bpm: 60 }],
      track: [
        {
          id: 't',
          name: 'Pipes',
          family: 'woodwind',
          place: 1,
          instrumentId: 'i',
          keymapId: null,
          articulation: 'long',
          mode: 'planned',
          gainDb: -2,
          pan: 0,
          hallSendDb: -60,
          muted: true,
        },
      ],
      positionMix: [{ id: 'm', trackId: 't', positionId: 'mix', ...PLAIN_POSITION }],
      part: [{ id: 'p', trackId: 't' }],
      note: [{ id: 'n', partId: 'p', startTick: 1920, endTick: 2880, key: 60, velocity: 90 }],
      mark: [{ id: 'k', partId: 'p', startTick: 0, endTick: 2880, articulation }],
      point: [],
    };
    const records = Object.fromEntries(
      Object.entries(tables).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
    );
    useDocuments.setState({ records, cueId: 'cue', templateId: 'template' });
  };
  const trial = () => sound.usePerformance.getState().trial;

  it('takes the place of a track as loud as what it replaces, and goes', async () => {
    written('long');
    const starting = sound.startTrial('t', 'quiet', 'long');
    expect(sound.useTrialNews.getState().preparing).toBe(true);
    await starting;
    expect(sound.useTrialNews.getState()).toEqual({ preparing: false, standIns: [] });
    expect(trial()).toMatchObject({ trackId: 't', instrumentId: 'quiet', articulation: 'long' });
    // Six decibels softer as recorded; muted or not, it is matched.
    expect(trial()?.trimDb).toBeCloseTo(6, 1);
    sound.endTrial();
    expect(trial()).toBeUndefined();
  });

  it('names what stands in for marks it lacks, and refuses what plays nothing', async () => {
    written('staccato');
    await sound.startTrial('t', 'quiet', 'long');
    expect(sound.useTrialNews.getState().standIns.join()).toContain('staccato');
    sound.endTrial();
    expect(sound.useTrialNews.getState().standIns).toEqual([]);
    await sound.startTrial('nobody', 'quiet', 'long');
    expect(trial()).toBeUndefined();
    refusal = { code: 'sample.missing', message: 'Recordings are gone.' };
    for (const id of ['quiet', 'i']) sound.forgetInstrument(id);
    await expect(sound.startTrial('t', 'quiet', 'long')).rejects.toThrow();
    expect(sound.useTrialNews.getState().preparing).toBe(false);
  });
});

describe('figures of a passage', () => {
  it('come from a worker, each to who asked', async () => {
    const tone = (hertz: number) =>
      Float32Array.from({ length: 48_000 }, (_, i) => 0.2 * Math.sin((2 * Math.PI * hertz * i) / 48_000));
    const [low, high] = await Promise.all([
      sound.toneOf(tone(200), tone(200)),
      sound.toneOf(tone(4000), tone(4000)),
    ]);
    expect(low).not.toEqual(high);
    const own = made.at(-1);
    answers = false;
    const refused = sound.toneOf(tone(200), tone(200));
    const { id } = (own as FakeWorker).asked as { id: number };
    own?.onmessage?.({ data: { id: id + 9, message: 'nobody asked' } });
    own?.onmessage?.({ data: { id } });
    await expect(refused).rejects.toThrow('This passage cannot be measured.');
    const failing = sound.toneOf(tone(200), tone(200));
    answers = true;
    own?.onerror?.({ message: 'it broke' });
    await expect(failing).rejects.toThrow('it broke');
    expect(own?.ended).toBe(true);
    expect(await sound.toneOf(tone(200), tone(200))).toEqual(low);
  });
});

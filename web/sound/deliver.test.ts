import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { RecordKind } from '#api/index.ts';
import { prepareInstrument, type EngineEvent, type SampleAudio } from '#core/engine/index.ts';
import { readWav } from '#core/formats/index.ts';
import { TempoMap } from '#core/music/index.ts';
import { planPart } from '#core/performance/index.ts';
import { instrumentOf, plainZone, sine } from '#core/testing/fixtures.ts';
import { useDocuments } from '../state/documents.ts';
import { useOwnHearing } from '../state/own-hearing.ts';
import { Table } from '../state/tables.ts';
import type { MixRequest, ShareRequest } from './bounce-protocol.ts';
import { TAB } from '../state/tab.ts';
import { TestDisk } from '../testing/disk.ts';
import { FileWriter } from './file-writer.ts';
import { makeFolder } from './folders.ts';

/** A bounce as the page asks its workers for it; what they do is heard in `e2e/deliver.spec.ts`. */

vi.mock('./host.ts', () => ({
  soundHost: {
    hall: { left: new Float32Array(4), right: new Float32Array(4), earlyFrames: 2 },
    setInstrument: () => undefined,
  },
}));
vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined });
vi.stubGlobal('navigator', { hardwareConcurrency: 3 });
let workers: FakeWorker[] = [];
class FakeWorker {
  onmessage: ((event: { data: unknown }) => void) | undefined;
  onerror: ((event: { message: string }) => void) | undefined;
  asked: unknown;
  ended = false;
  readonly name: string;
  constructor(url: URL) {
    this.name = url.pathname.split('/').pop() ?? '';
    workers.push(this);
  }
  postMessage(data: unknown): void {
    this.asked = data;
  }
  terminate(): void {
    this.ended = true;
  }
  answer(data: unknown): void {
    this.onmessage?.({ data });
  }
}
vi.stubGlobal('Worker', FakeWorker);
afterAll(() => vi.unstubAllGlobals());

const audio = new Map<string, SampleAudio>([
  ['a', sine(440, 0.2)],
  ['b', sine(300, 0.2)],
]);
const instruments = ['a', 'b'].map((sample) => ({
  ...instrumentOf(
    [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample } } })] }],
    audio,
  ),
  id: sample,
}));
const track = (id: string, place: number, instrumentId: string | null, muted = false) => ({
  id,
  name: id,
  family: 'strings',
  place,
  instrumentId,
  keymapId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: 0,
  pan: 0,
  hallSendDb: -12,
  muted,
});
const note = (key: number) => ({ id: `n${key}`, startTick: 0, endTick: 960, key, velocity: 90 });

let deliver: typeof import('./deliver.ts');
let memory: ReturnType<typeof import('./page-memory.ts').pageMemory>;
beforeAll(async () => {
  deliver = await import('./deliver.ts');
  const { pageMemory } = await import('./page-memory.ts');
  memory = pageMemory();
  const { useInstruments } = await import('./instruments.ts');
  const { usePerformance } = await import('./performance-state.ts');
  const tables = {
    template: [{ id: 'template', name: 'House', hallEarlyDb: -3, hallTailDb: -6, middleC: 4 }],
    cue: [{ id: 'cue', name: 'Cue', endTick: 4 * 960, loopStartTick: 0, loopEndTick: 0 }],
    tempo: [{ id: 'tempo', tick: 0, bpm: 60 }],
    track: [track('t', 1, 'a'), track('u', 2, null), track('v', 3, 'b')],
  };
  const records = Object.fromEntries(
    Object.entries(tables).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
  );
  useDocuments.setState({ records, cueId: 'cue', templateId: 'template' });
  const plan = (i: number, key: number) =>
    planPart(
      { notes: [note(key)], marks: [], points: [] },
      {
        tempo: new TempoMap([{ tick: 0, bpm: 60 }]),
        instrument: instruments[i],
        mix: { gainDb: 0, pan: 0, muted: false, hallSendDb: -12, positions: {} },
        mode: 'planned',
        articulation: 'long',
      },
    );
  usePerformance.setState({ plans: { t: plan(0, 60), v: plan(1, 67) } });
  const load = (i: number) => ({
    instrument: instruments[i],
    audio,
    wanted: new Set(['long']),
    complete: true,
  });
  useInstruments.setState({ loads: { a: load(0), b: load(1), c: load(0) } as never });
  prepareInstrument(instruments[0], audio);
});
beforeEach(() => {
  workers = [];
  useOwnHearing.setState({ muted: new Set(), soloed: new Set() });
});
const named = (name: string) => workers.filter((one) => one.name === name);
const shares = () => named('bounce-share.worker.ts');
const mixer = () => named('bounce.worker.ts')[0];
const file = (name: string) => ({ name, file: new Blob([name]) });
const figures = { frames: 100, integratedLufs: -23, truePeakDb: -1, stolen: 0 };

describe('an order', () => {
  it('is the cue from its pre-roll on, with what the template says', () => {
    const order = deliver.bounceOrder();
    expect(order.tracks.map(({ instrumentId }) => instrumentId)).toEqual(['a', null, 'b']);
    expect(order.instruments.map(({ instrument }) => instrument.id)).toEqual(['a', 'b', 'a']);
    expect(order.hallMix).toEqual({ earlyDb: -3, tailDb: -6 });
    // The cue of four seconds and a second before it.
    expect(order.endFrame).toBe(5 * 48_000);
    const starts = order.events.filter(
      (event): event is EngineEvent & { kind: 'start' } => event.kind === 'start',
    );
    expect(starts.map(({ track: at, key }) => [at, key])).toEqual([
      [0, 60],
      [2, 67],
    ]);
    for (const { frame } of starts) {
      expect(frame).toBeGreaterThan(46_000);
      expect(frame).toBeLessThanOrEqual(48_000);
    }
    expect(deliver.bounceOrder(0).endFrame).toBe(4 * 48_000);
    useDocuments.setState({ templateId: undefined });
    expect(deliver.bounceOrder().hallMix).toEqual({ earlyDb: 0, tailDb: 0 });
    useDocuments.setState({ templateId: 'template' });
  });
  it('leaves out what a person mutes only where that is asked for', () => {
    useOwnHearing.setState({ muted: new Set(['t']), soloed: new Set() });
    expect(deliver.bounceOrder().tracks.map(({ mix }) => mix.muted)).toEqual([false, false, false]);
    expect(deliver.bounceOrder(1, true).tracks.map(({ mix }) => mix.muted)).toEqual([true, false, false]);
  });
});

describe('a bounce', () => {
  it('is shared among workers, of which each is told its own, and one mixes', async () => {
    const order = deliver.bounceOrder();
    const heard: number[] = [];
    const bounce = deliver.startBounce(
      order,
      {
        format: 'i24',
        stems: new Map([[2, 'V']]),
        groups: [{ name: 'All', tracks: [0, 2] }],
        hallFile: true,
      },
      (frames) => heard.push(frames),
    );
    // Two tracks are played: two shares, though three cores are there.
    expect(shares()).toHaveLength(2);
    const asked = shares().map((one) => one.asked as ShareRequest);
    expect(asked.map(({ own, index }) => [own, index]).sort()).toEqual([
      [[0], 0],
      [[2], 1],
    ]);
    for (const { own, order: part, stems, format, tracks, control } of asked) {
      expect(part.events.every((event) => own.includes(event.track))).toBe(true);
      expect(part.events.length).toBeGreaterThan(0);
      expect(part.hall).toBeNull();
      expect(part.instruments.length).toBeGreaterThan(0);
      expect(part.instruments.every(({ instrument }) => instrument.id === (own[0] === 0 ? 'a' : 'b'))).toBe(
        true,
      );
      expect([format, tracks, [...stems]]).toEqual(['i24', [0, 2], [[2, 'V']]]);
      expect(control).toHaveLength(4);
    }
    expect(new Set(asked.map(({ shared }) => shared.room.from)).size).toBe(2);
    const mixing = mixer().asked as Extract<MixRequest, { kind: 'mix' }>;
    expect(mixing).toMatchObject({ kind: 'mix', hallFile: true, groups: [{ name: 'All', tracks: [0, 2] }] });
    expect(mixing.order).not.toHaveProperty('events');
    mixer().answer({ kind: 'progress', frames: 4096, endFrame: 9 });
    expect(heard).toEqual([4096]);
    mixer().answer({ kind: 'done', files: [file('Mix'), file('Hall')], figures });
    shares()[0].answer({ kind: 'done', files: [], stolen: 2 });
    shares()[1].answer({ kind: 'done', files: [file('V')], stolen: 1 });
    const made = await bounce.result;
    expect(made?.files.map(({ name }) => name)).toEqual(['Mix', 'Hall', 'V']);
    expect(made?.figures).toEqual({ ...figures, stolen: 3 });
    expect(workers.every(({ ended }) => ended)).toBe(true);
  });

  it('that is cancelled, or fails, gives back what it took', async () => {
    // What the bounce before took is given back.
    await new Promise((resolve) => setTimeout(resolve, 20));
    vi.useFakeTimers();
    const before = memory.usedBytes;
    const cancelled = deliver.startBounce(deliver.bounceOrder(), { format: 'i24' }, () => undefined);
    expect(memory.usedBytes).toBeGreaterThan(before);
    cancelled.cancel();
    expect(await cancelled.result).toBeUndefined();
    expect(workers.every(({ ended }) => ended)).toBe(true);
    // Workers may take a last step.
    await vi.advanceTimersByTimeAsync(1900);
    expect(memory.usedBytes).toBeGreaterThan(before);
    await vi.advanceTimersByTimeAsync(200);
    expect(memory.usedBytes).toBe(before);
    workers = [];
    const failing = deliver.startBounce(deliver.bounceOrder(), { format: 'i24' }, () => undefined);
    shares()[0].answer({ kind: 'failed', message: 'no more memory' });
    await expect(failing.result).rejects.toThrow('no more memory');
    workers = [];
    const dying = deliver.startBounce(deliver.bounceOrder(), { format: 'i24' }, () => undefined);
    mixer().onerror?.({ message: 'it died' });
    await expect(dying.result).rejects.toThrow('it died');
    await vi.advanceTimersByTimeAsync(10);
    expect(memory.usedBytes).toBe(before);
    vi.useRealTimers();
  });

  it('leaves its files where it is done, and none where it is cancelled or fails', async () => {
    const disk = new TestDisk();
    vi.stubGlobal('navigator', { hardwareConcurrency: 3, storage: disk.storage });
    const kept = () => [...(disk.top.folders.get('bounces')?.folders.get(TAB)?.folders.keys() ?? [])];
    const begin = async () => {
      workers = [];
      const folder = await makeFolder();
      const bounce = deliver.startBounce(deliver.bounceOrder(), { format: 'i24', folder }, () => undefined);
      expect(mixer().asked).toMatchObject({ folder });
      expect(shares()[0].asked).toMatchObject({ folder });
      return { name: folder?.name, bounce };
    };
    vi.useFakeTimers();
    const done = await begin();
    mixer().answer({ kind: 'done', files: [file('Mix')], figures });
    for (const one of shares()) one.answer({ kind: 'done', files: [], stolen: 0 });
    await done.bounce.result;
    const cancelled = await begin();
    cancelled.bounce.cancel();
    const failing = await begin();
    mixer().answer({ kind: 'failed', message: 'the disk is full' });
    await expect(failing.bounce.result).rejects.toThrow('the disk is full');
    expect(kept()).toHaveLength(3);
    await vi.advanceTimersByTimeAsync(2100);
    expect(kept()).toEqual([done.name]);
    vi.useRealTimers();
    vi.stubGlobal('navigator', { hardwareConcurrency: 3 });
  });

  it('by one worker where one is wished', async () => {
    const bounce = deliver.startBounce(deliver.bounceOrder(), { format: 'f32', workers: 1 }, () => undefined);
    expect(shares()).toHaveLength(1);
    expect((shares()[0].asked as ShareRequest).own).toEqual([0, 2]);
    bounce.cancel();
    expect(await bounce.result).toBeUndefined();
  });

  it('that finds no room says so, and keeps none', () => {
    const before = memory.usedBytes;
    const { allocate } = memory;
    let left = 2;
    memory.allocate = (bytes: number) => {
      if (left-- === 0) throw new Error('no room');
      return allocate.call(memory, bytes);
    };
    expect(() => deliver.startBounce(deliver.bounceOrder(), { format: 'i24' }, () => undefined)).toThrow(
      'no room',
    );
    memory.allocate = allocate;
    expect(memory.usedBytes).toBe(before);
    expect(workers).toEqual([]);
  });
});

describe('a zip', () => {
  it('is made in a worker that ends with it', async () => {
    const { result } = deliver.zipFiles([file('one')]);
    const [own] = workers;
    expect(own.asked).toMatchObject({ kind: 'zip', files: [{ name: 'one' }] });
    own.answer({ kind: 'zipped', file: new Blob(['zip']) });
    expect(await (await result).text()).toBe('zip');
    expect(own.ended).toBe(true);
    const other = deliver.zipFiles([file('two')]);
    other.cancel();
    expect(workers[1].ended).toBe(true);
  });
});

describe('a file that is written stretch by stretch', () => {
  const wave = (from: number, count: number) =>
    Float32Array.from({ length: count }, (_, i) => Math.sin((from + i) / 9) / 2);
  it.each(['i24', 'f32'] as const)(
    '%s: reads back as it was written, cut where it is to end',
    async (format) => {
      const writer = await FileWriter.open(format, undefined);
      // More than the four megabytes of a piece.
      for (let at = 0; at < 800_000; at += 100_000) writer.write(wave(at, 100_000), wave(at + 7, 100_000));
      const whole = readWav(new Uint8Array(await (await writer.finish()).arrayBuffer()), 'x');
      expect([whole.rate, whole.channels.length, whole.channels[0].length]).toEqual([48_000, 2, 800_000]);
      const error = (sound: Float32Array, from: number) =>
        sound.reduce((most, value, i) => Math.max(most, Math.abs(value - Math.sin((from + i) / 9) / 2)), 0);
      expect(error(whole.channels[0], 0)).toBeLessThan(2 ** -23);
      expect(error(whole.channels[1], 7)).toBeLessThan(2 ** -23);
      const cut = readWav(new Uint8Array(await (await writer.finish(700_001)).arrayBuffer()), 'x');
      expect(cut.channels[0].length).toBe(700_001);
    },
  );
});

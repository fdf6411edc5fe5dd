import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { EngineEvent, SampleAudio } from '#core/engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';
import { instrumentOf, plainZone, sine, startEvent } from '#core/testing/fixtures.ts';
import type { soundHost as Host } from './host.ts';
import type { FromEngine } from './messages.ts';
import { eventually } from '#core/testing/eventually.ts';

/**
 * The page's engine as a whole: host, the audio thread's processor and a worker that renders ahead run here in one thread, between
 * stand-ins for what the browser gives.
 */

/** Named apart: its types are those of an audio worklet, and checked with them. */
const WORKLET = './engine.worklet.ts';

type Listener = ((event: { data: unknown }) => void) | null;
type Processor = {
  port: { onmessage: Listener };
  process(inputs: unknown, outputs: Float32Array[][]): boolean;
};

let Registered: (new (options: { processorOptions: unknown }) => Processor) | undefined;
let processor: Processor | undefined;
let context: FakeContext | undefined;
let worker: FakeWorker | undefined;
let workers = 0;
let addsModule = true;
/** What the audio thread looks for once a second. */
let look: () => void = () => undefined;

/** The global object of a worker; there is one at a time that works. */
const scope = { onmessage: null as Listener, postMessage: (data: unknown) => worker?.onmessage?.({ data }) };

const works = (one: FakeWorker) => {
  worker = one;
  workers++;
};
const runs = (one: FakeContext) => (context = one);
const makes = (one: FakeNode) => (making = one);

class FakeWorker {
  onmessage: Listener = null;
  onerror: ((event: { preventDefault(): void }) => void) | null = null;
  private handler: Listener = null;
  private readonly waiting: unknown[] = [];
  private dead = false;

  constructor() {
    works(this);
    vi.resetModules();
    void import('./ahead.worker.ts').then(() => {
      this.handler = scope.onmessage;
      for (const data of this.waiting.splice(0)) this.handler?.({ data });
    });
  }

  postMessage(data: unknown): void {
    if (this.dead) return;
    if (this.handler) this.handler({ data });
    else this.waiting.push(data);
  }

  terminate(): void {
    this.handler?.({ data: { kind: 'rest' } });
    this.dead = true;
  }
}

class FakeContext extends EventTarget {
  state = 'running';
  currentTime = 0;
  destination = {};
  onstatechange: (() => void) | null = null;
  audioWorklet = {
    addModule: async () => {
      if (!addsModule) throw new Error('no such device');
      await import(/* @vite-ignore */ WORKLET);
    },
  };

  constructor() {
    super();
    runs(this);
  }

  enter(state: string): Promise<void> {
    this.state = state;
    this.onstatechange?.();
    return Promise.resolve();
  }

  resume = () => this.enter('running');
  close = () => this.enter('closed');
}

class FakeNode {
  onprocessorerror: (() => void) | null = null;
  port: { onmessage: Listener; postMessage: (data: unknown) => void } = {
    onmessage: null,
    postMessage: (data) => this.own?.port.onmessage?.({ data }),
  };
  private readonly own: Processor | undefined;

  constructor(_context: unknown, _name: string, options: { processorOptions: unknown }) {
    nodes.push(this);
    makes(this);
    this.own = Registered && new Registered(options);
    processor = this.own;
  }

  connect(): void {
    // Nothing is heard here.
  }
}
const nodes: FakeNode[] = [];
let making: FakeNode | undefined;

/** As in a browser: one message a turn. */
class FakeChannel {
  port1: { onmessage: Listener } = { onmessage: null };
  port2 = { postMessage: (data: unknown) => setImmediate(() => this.port1.onmessage?.({ data })) };
}

vi.stubGlobal('setInterval', (act: () => void) => {
  look = act;
  return 0;
});
vi.stubGlobal('self', scope);
vi.stubGlobal('MessageChannel', FakeChannel);
vi.stubGlobal('Worker', FakeWorker);
vi.stubGlobal('AudioContext', FakeContext);
vi.stubGlobal('AudioWorkletNode', FakeNode);
vi.stubGlobal('window', new EventTarget());
vi.stubGlobal('document', new EventTarget());
vi.stubGlobal('navigator', { hardwareConcurrency: 2 });
vi.stubGlobal(
  'AudioWorkletProcessor',
  class {
    port: { onmessage: Listener; postMessage: (data: unknown) => void };
    constructor() {
      const node = making;
      this.port = { onmessage: null, postMessage: (data) => node?.port.onmessage?.({ data }) };
    }
  },
);
// In a real audio thread a block begins at this time.
Object.defineProperty(globalThis, 'currentTime', {
  get: () => (context?.currentTime ?? 0) - 128 / 48_000,
});
vi.stubGlobal('registerProcessor', (_name: string, made: typeof Registered) => (Registered = made));

let host: typeof Host;
const audio = new Map<string, SampleAudio>();
const mix: TrackMix = {
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -60,
  positions: { mix: PLAIN_POSITION },
};
const instrument = (id: string, sample: string) => ({
  ...instrumentOf(
    [{ id: 'long', name: 'long', zones: [plainZone({ rootKey: 60, samples: { mix: { sample } } })] }],
    audio,
  ),
  id,
});
const tracks = (change: Partial<TrackMix> = {}) => [
  { instrumentId: 'one', mix: { ...mix, ...change }, byHand: false },
  { instrumentId: 'two', mix, byHand: true },
];
const start = (track: number, frame = 0, sound = 1) => startEvent({ track, frame, sound, key: 60 });
const turn = () => new Promise((resolve) => setImmediate(resolve));

/** So many blocks of what is heard; workers and messages have their turns between them. */
async function hear(blocks: number): Promise<Float32Array> {
  const left = new Float32Array(blocks * 128);
  for (let block = 0; block < blocks; block++) {
    await turn();
    if (context) context.currentTime += 128 / 48_000;
    processor?.process([], [[left.subarray(block * 128, (block + 1) * 128), new Float32Array(128)]]);
  }
  return left;
}
const loudest = (sound: Float32Array) => sound.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
/** Share of the power near a pitch, for telling tracks apart. */
function at(sound: Float32Array, hertz: number): number {
  let [re, im] = [0, 0];
  sound.forEach((value, i) => {
    re += value * Math.cos((2 * Math.PI * hertz * i) / 48_000);
    im += value * Math.sin((2 * Math.PI * hertz * i) / 48_000);
  });
  return (2 * Math.hypot(re, im)) / sound.length;
}
const reports: Extract<FromEngine, { kind: 'state' }>[] = [];

beforeAll(async () => {
  ({ soundHost: host } = await import('./host.ts'));
  const { pageMemory } = await import('./page-memory.ts');
  for (const [id, hertz] of [
    ['a', 500],
    ['b', 1250],
  ] as const) {
    const made = sine(hertz, 4, 0.2);
    audio.set(id, { ...made, address: pageMemory().placeOf(made.data) });
  }
  host.listen((state) => reports.push(state));
  host.setInstrument({ instrument: instrument('one', 'a'), audio });
  host.setInstrument({ instrument: instrument('two', 'b'), audio });
  host.setTracks(tracks());
  host.setVoiceLimit(64);
  host.setHallMix({ earlyDb: -60, tailDb: -60 });
});
beforeEach(() => {
  reports.length = 0;
});
afterAll(() => {
  host.stop();
  vi.unstubAllGlobals();
});

describe('what is planned', () => {
  it('is rendered by a worker and heard, reported, and fades at a stop', async () => {
    expect(workers).toBe(1);
    await host.play([start(0)]);
    const sound = await hear(80);
    expect(at(sound.subarray(40 * 128), 500)).toBeCloseTo(0.2, 2);
    const last = reports.at(-1);
    expect(last).toMatchObject({ playing: true, voices: 1, late: 0, givenUp: null, stolen: 0 });
    expect(last?.frame).toBeGreaterThan(60 * 128);
    expect(last?.tracks[0].peak).toBeCloseTo(0.2, 2);
    expect(last?.tracks[0].positions[0]).toBeCloseTo(0.2, 2);
    expect(last?.tracks[1].peak).toBe(0);
    expect(last?.momentary).toBeGreaterThan(-100);
    expect(host.ahead.busy[0]).toBeGreaterThan(0);
    host.stop();
    const after = await hear(40);
    expect(loudest(after.subarray(0, 256))).toBeGreaterThan(0.1);
    expect(loudest(after.subarray(16 * 128))).toBeLessThan(1e-6);
    expect(reports.at(-1)).toMatchObject({ playing: false, voices: 0 });
  });

  it('goes on with what is fed, and with what takes the place of it', async () => {
    await host.play([start(0)]);
    await hear(20);
    host.feed([{ kind: 'stop', track: 0, frame: 60 * 128, sound: 1, fadeSeconds: 0.01, release: false }]);
    expect(loudest((await hear(70)).subarray(-10 * 128))).toBeLessThan(1e-4);
    const frame = host.ahead.nextFrame;
    host.feed([start(0, frame + 100_000, 2)]);
    host.change({ frame, tracks: [0], events: [start(0, frame + 1000, 3)] });
    expect(loudest((await hear(50)).subarray(-10 * 128))).toBeGreaterThan(0.1);
    expect(reports.at(-1)?.voices).toBe(1);
    // Of another track, which nobody renders, nothing is told.
    host.change({ frame, tracks: [7], events: [] });
    host.stop();
    await hear(20);
  });

  it('follows the mix, and what hands ride of it while it plays', async () => {
    await host.play([start(0)]);
    await hear(30);
    host.setTracks(tracks({ muted: true }));
    expect(loudest((await hear(60)).subarray(-10 * 128))).toBeLessThan(1e-3);
    host.setTracks(tracks());
    expect(loudest((await hear(60)).subarray(-10 * 128))).toBeGreaterThan(0.1);
    const ride = (value: number) =>
      host.live([{ afterSeconds: 0, event: { kind: 'control', frame: 0, track: 0, controller: 11, value } }]);
    await ride(0);
    expect(loudest((await hear(90)).subarray(-10 * 128))).toBeLessThan(0.01);
    host.stop();
    await hear(20);
    // What was ridden does not last into the next performance.
    await host.play([start(0)]);
    expect(loudest((await hear(40)).subarray(-10 * 128))).toBeGreaterThan(0.1);
    host.stop();
    await hear(20);
  });

  it('can be captured from its first block on, and timed', async () => {
    const captured = host.capture(2000);
    await turn();
    await host.play([start(0)]);
    await hear(40);
    const { left, right } = await captured;
    expect([left.length, right.length]).toEqual([2000, 2000]);
    expect(loudest(left)).toBeGreaterThan(0.1);
    const clock = new Float64Array(1);
    const timed = host.timeBlocks(clock, 3);
    await turn();
    await hear(4);
    expect([...(await timed)]).toEqual([0, 0, 0]);
    host.stop();
    await hear(20);
  });

  it('has clicks over it at their frames, until they are dropped', async () => {
    await host.play([]);
    host.addClicks(
      [
        { frame: 1000, strong: true },
        { frame: 30_000, strong: false },
      ],
      0.5,
    );
    const sound = await hear(200);
    const begun = reports.findIndex(({ frame }) => frame > 0);
    const first = sound.findIndex((value) => Math.abs(value) > 1e-4);
    host.dropClicks();
    const after = await hear(200);
    host.stop();
    // How long the performance waited for its first block, the reports tell: frame and the time at which it is next go together.
    const { frame, seconds } = reports[begun];
    const zero = Math.round(seconds * 48_000) - frame;
    const heardFrom = Math.round((context?.currentTime ?? 0) * 48_000) - 400 * 128;
    expect(Math.abs(heardFrom + first - (zero + 1001))).toBeLessThanOrEqual(1);
    expect(loudest(sound)).toBeGreaterThan(0.3);
    expect(loudest(after)).toBe(0);
  });
  it('tells what leaves the machine at a time of the page', () => {
    if (!context) throw new Error('no context');
    const told = { contextTime: 5, performanceTime: 1000 };
    Object.assign(context, { getOutputTimestamp: () => told });
    expect(host.heardSeconds(1500)).toBeCloseTo(5.5, 9);
    // A browser that does not know yet counts in what it says of the way out.
    Object.assign(told, { contextTime: 0, performanceTime: 0 });
    Object.assign(context, { outputLatency: 0.04 });
    const now = performance.now();
    expect(host.heardSeconds(now)).toBeCloseTo(context.currentTime - 0.04, 2);
  });
  it('is each track by itself when there come to be twenty', async () => {
    const twenty = Array.from({ length: 20 }, (_, i) => ({
      instrumentId: i === 0 ? 'one' : 'two',
      mix,
      byHand: false,
    }));
    host.setTracks(twenty);
    await host.play([start(0), start(17)]);
    const sound = (await hear(60)).subarray(-20 * 128);
    expect(at(sound, 500)).toBeCloseTo(0.2, 2);
    expect(at(sound, 1250)).toBeCloseTo(0.2, 2);
    host.stop();
    await hear(20);
    host.setTracks(tracks());
  });

  it('lasts no longer than the recordings are there', async () => {
    await host.play([start(0)]);
    await hear(30);
    let forgotten = false;
    void host.forget(['a']).then(() => (forgotten = true));
    const sound = await hear(40);
    expect(forgotten).toBe(true);
    expect(loudest(sound.subarray(-10 * 128))).toBeLessThan(1e-4);
    host.stop();
    // Told again, it is there again.
    host.setInstrument({ instrument: instrument('one', 'a'), audio });
    await host.play([start(0)]);
    expect(loudest((await hear(40)).subarray(-10 * 128))).toBeGreaterThan(0.1);
    host.stop();
    await hear(20);
  });
});

describe('what hands play', () => {
  const play = (event: EngineEvent, afterSeconds = 0) => host.live([{ afterSeconds, event }]);
  const stop = (sound: number): EngineEvent => ({
    kind: 'stop',
    track: 1,
    frame: 0,
    sound,
    fadeSeconds: 0.01,
    release: false,
  });

  it('sounds at once beside what is planned, and goes on over a new performance', async () => {
    await host.play([start(0)]);
    await hear(30);
    await play(start(1, 0, 9));
    const both = (await hear(40)).subarray(-20 * 128);
    expect(at(both, 1250)).toBeCloseTo(0.2, 2);
    expect(at(both, 500)).toBeCloseTo(0.2, 2);
    expect(reports.at(-1)?.voices).toBe(2);
    expect(reports.at(-1)?.sounding).toEqual([{ key: 60, take: 0, takes: 1, sample: 'b' }]);
    await host.play([]);
    const alone = (await hear(60)).subarray(-20 * 128);
    expect(at(alone, 1250)).toBeCloseTo(0.2, 2);
    expect(at(alone, 500)).toBeLessThan(1e-3);
    await play(stop(9));
    expect(loudest((await hear(30)).subarray(-5 * 128))).toBeLessThan(1e-4);
    host.stop();
  });

  it('comes later where it is to, unless it is hushed before', async () => {
    await play(start(1, 0, 11), 0.05);
    const sound = await hear(60);
    const first = sound.findIndex((value) => Math.abs(value) > 0.01);
    expect(first / 48_000).toBeGreaterThan(0.04);
    expect(first / 48_000).toBeLessThan(0.07);
    await play(start(1, 0, 12), 0.1);
    host.hush(1);
    expect(loudest((await hear(120)).subarray(-20 * 128))).toBeLessThan(1e-4);
  });

  it('is limited, and what gives way is told', async () => {
    host.setVoiceLimit(1);
    await play(start(1, 0, 21));
    await play(start(1, 0, 22));
    await hear(40);
    expect(reports.some(({ givenUp }) => givenUp?.track === 1 && givenUp.why === 'machine')).toBe(true);
    expect(reports.reduce((sum, { stolen }) => sum + stolen, 0)).toBe(1);
    host.setVoiceLimit(64);
    host.hush(1);
    await hear(60);
  });
});

describe('renderings', () => {
  const tone = (hertz: number) => {
    const made = Float32Array.from(
      { length: 40_000 },
      (_, i) => 0.3 * Math.sin((2 * Math.PI * hertz * i) / 48_000),
    );
    return { left: made, right: made, gain: 1 } as never;
  };
  it('are heard by name from a place on, changed over, and ended', async () => {
    host.setRenderings(
      new Map([
        ['x', tone(500)],
        ['y', tone(1250)],
      ]),
    );
    await host.hear('x', 1000, false);
    const first = (await hear(60)).subarray(-30 * 128);
    expect(at(first, 500)).toBeGreaterThan(0.2);
    expect(reports.at(-1)?.hearing).toBe(true);
    expect(reports.at(-1)?.place).toBeGreaterThan(1000);
    host.changeRendering('y');
    const second = (await hear(60)).subarray(-30 * 128);
    expect(at(second, 1250)).toBeGreaterThan(0.2);
    expect(at(second, 500)).toBeLessThan(0.01);
    host.quiet();
    expect(loudest((await hear(30)).subarray(-10 * 128))).toBeLessThan(1e-4);
    host.keepRenderings(['y']);
    await host.hear('x', 0, false);
    expect(loudest(await hear(30))).toBeLessThan(1e-4);
    await host.hear('y', 0, false);
    expect(loudest(await hear(30))).toBeGreaterThan(0.1);
    host.quiet();
    await hear(20);
  });
});

describe('trouble', () => {
  it('of a worker that dies: another takes its place and joins', async () => {
    const before = workers;
    const asked: [readonly number[], number][] = [];
    await host.play([start(0)], (own, frame) => {
      asked.push([own, frame]);
      return [start(0, frame, 1)];
    });
    await hear(60);
    host.ahead.kill(0);
    const gap = await hear(300);
    expect(workers).toBe(before + 1);
    expect(host.ahead.replaced).toBe(1);
    expect(asked).toHaveLength(1);
    expect(asked[0][0]).toEqual([0, 1]);
    expect(reports.some(({ late }) => late > 0)).toBe(true);
    expect(loudest(gap.subarray(60 * 128, 180 * 128))).toBeLessThan(1e-6);
    expect(loudest((await hear(150)).subarray(-20 * 128))).toBeGreaterThan(0.1);
    // One that says it has failed is replaced at once.
    worker?.onerror?.({ preventDefault: () => undefined });
    await hear(2);
    expect(workers).toBe(before + 2);
    host.stop();
    await hear(20);
  });

  it('of an audio thread that breaks: another is told everything', async () => {
    const revived = vi.fn();
    host.revived = revived;
    await host.play([start(0)]);
    await hear(10);
    nodes.at(-1)?.onprocessorerror?.();
    await eventually(() => expect(revived).toHaveBeenCalledTimes(1));
    expect(nodes).toHaveLength(2);
    nodes[0].onprocessorerror?.();
    expect(nodes).toHaveLength(2);
    await host.play([start(0)]);
    await host.live([{ afterSeconds: 0, event: start(1, 0, 31) }]);
    const sound = (await hear(60)).subarray(-20 * 128);
    expect(at(sound, 500)).toBeCloseTo(0.2, 2);
    expect(at(sound, 1250)).toBeCloseTo(0.2, 2);
    // Renderings too.
    host.stop();
    host.hush(1);
    await hear(40);
    await host.hear('y', 0, false);
    expect(loudest(await hear(30))).toBeGreaterThan(0.1);
    host.quiet();
    await hear(20);
  });

  it('of a pause: it is told, and any key goes on', async () => {
    const troubled = vi.fn();
    host.troubled = troubled;
    const resumed = vi.fn();
    const own = context as FakeContext;
    own.resume = () => Promise.resolve(resumed());
    await own.enter('suspended');
    expect(troubled.mock.calls[0]?.[0]).toContain('paused the sound');
    const tries = resumed.mock.calls.length;
    window.dispatchEvent(new Event('keydown'));
    expect(resumed.mock.calls.length).toBe(tries + 1);
    own.state = 'running';
    window.dispatchEvent(new Event('keydown'));
    expect(resumed.mock.calls.length).toBe(tries + 1);
  });

  it('of a device that goes, or counts no frames any more: it is made anew', async () => {
    const before = nodes.length;
    await context?.close();
    await eventually(() => expect(nodes.length).toBe(before + 1));
    expect(host.playedSeconds).toBe(0);
    context?.dispatchEvent(new Event('error'));
    await eventually(() => expect(nodes.length).toBe(before + 2));
    // Frames are counted, or it is paused: nothing is wrong.
    for (let i = 0; i < 6; i++) {
      await hear(1);
      look();
    }
    const own = context as FakeContext;
    own.state = 'suspended';
    for (let i = 0; i < 6; i++) look();
    own.state = 'running';
    expect(nodes.length).toBe(before + 2);
    for (let i = 0; i < 3; i++) look();
    await eventually(() => expect(nodes.length).toBe(before + 3));
  });

  it('again and again: it is told, and a press begins anew', async () => {
    const troubled = vi.fn();
    host.troubled = troubled;
    for (let i = 0; i < 4 && troubled.mock.calls.length === 0; i++) {
      const before = nodes.length;
      context?.dispatchEvent(new Event('error'));
      await eventually(() => expect(nodes.length + troubled.mock.calls.length).toBeGreaterThan(before));
    }
    expect(troubled.mock.calls[0]?.[0]).toContain('keeps breaking off');
    expect(host.trouble).toContain('keeps breaking off');
    addsModule = false;
    await expect(host.wake()).rejects.toThrow('no such device');
    expect(host.trouble).toContain('gives no sound (no such device)');
    addsModule = true;
    await host.wake();
    expect(host.trouble).toBeUndefined();
    await host.play([start(0)]);
    expect(loudest((await hear(40)).subarray(-10 * 128))).toBeGreaterThan(0.1);
  });
});

import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { readsOf, type PackReadsShape } from '#api/index.ts';
import type { Instrument, SampleInfo } from '#core/catalogue/index.ts';
import { POSITION_LEVEL, type EngineEvent, type StartEvent } from '#core/engine/index.ts';
import { PLAIN_TOUCH } from '#core/keymap/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import type { FeedChange, LiveEvent } from '#core/performance/index.ts';
import { plainZone } from '#core/testing/fixtures.ts';
import type { RecordKind } from '#api/index.ts';
import { useDocuments } from '../state/documents.ts';
import { useOwnHearing } from '../state/own-hearing.ts';
import { useSession } from '../state/session.ts';
import { applyDeltas, recordOf, Table } from '../state/tables.ts';
import type { EngineTrackSetup, FromEngine } from './messages.ts';
import type { MidiBytes } from './midi.ts';
import { eventually } from '#core/testing/eventually.ts';

/** The page's playing, from records to what the engine is told; the engine itself stands still here. */

type State = Extract<FromEngine, { kind: 'state' }>;

const told = vi.hoisted(() => ({
  tracks: [] as unknown[],
  plays: [] as { events: unknown[]; rejoin: unknown }[],
  feeds: [] as unknown[],
  changes: [] as unknown[],
  live: [] as unknown[],
  ridden: [] as unknown[],
  hushed: [] as number[],
  clicks: [] as { clicks: unknown[]; gain: number }[],
  drops: 0,
  halls: [] as unknown[],
  limits: [] as number[],
  stops: 0,
  listeners: [] as ((state: unknown) => void)[],
  nextFrame: 0,
  errors: [] as string[],
  infos: [] as string[],
  gives: true,
}));
vi.mock('./host.ts', () => ({
  soundHost: {
    setInstrument: () => undefined,
    forget: () => Promise.resolve(),
    setTracks: (tracks: unknown) => told.tracks.push(tracks),
    setHallMix: (mix: unknown) => told.halls.push(mix),
    setVoiceLimit: (limit: number) => told.limits.push(limit),
    wake: () => Promise.resolve(),
    play: (events: unknown[], rejoin: unknown) => {
      if (!told.gives) return Promise.reject(new Error('no sound'));
      told.plays.push({ events, rejoin });
      return Promise.resolve();
    },
    addClicks: (clicks: unknown[], gain: number) => told.clicks.push({ clicks, gain }),
    dropClicks: () => told.drops++,
    heardSeconds: () => undefined,
    feed: (events: unknown) => told.feeds.push(events),
    change: (change: unknown) => told.changes.push(change),
    live: (events: unknown[]) => {
      told.live.push(...events);
      return Promise.resolve();
    },
    rideHands: (events: unknown[]) => told.ridden.push(...events),
    hush: (track: number) => told.hushed.push(track),
    stop: () => told.stops++,
    listen: (listener: (state: unknown) => void) => {
      told.listeners.push(listener);
      return () => undefined;
    },
    ahead: {
      get nextFrame() {
        return told.nextFrame;
      },
    },
    troubled: () => undefined,
    revived: () => undefined,
    trouble: 'The browser gives no sound here.',
  },
}));
vi.mock('./hall.ts', () => ({ followHall: () => undefined }));
vi.mock('sonner', () => ({
  toast: Object.assign((text: string) => told.infos.push(text), {
    error: (text: string) => told.errors.push(text),
  }),
}));

const ids = { i: '11111111-1111-1111-1111-111111111111', j: '22222222-2222-2222-2222-222222222222' };
const FRAMES = 400;
function instrument(id: string): Instrument {
  const own = (name: string) => `${id.slice(0, 2)}${name}`;
  const info = (name: string, n: number): SampleInfo => ({
    id: own(name),
    frames: FRAMES,
    channels: 2,
    rate: 48_000,
    format: 'i16',
    pack: own('pack'),
    headFrames: 10,
    headOffset: n * 40,
    tailOffset: 120 + n * (FRAMES * 4 - 40),
  });
  const zone = (name: string) => plainZone({ rootKey: 60, samples: { mix: { sample: own(name) } } });
  return {
    id,
    name: 'Tide pipes',
    family: 'woodwind',
    kind: 'solo',
    players: 1,
    positions: [{ id: 'mix', name: 'Mix' }],
    articulations: [
      { id: 'long', name: 'long', zones: [zone('a')] },
      { id: 'staccato', name: 'staccato', zones: [zone('b')] },
      { id: 'tremolo', name: 'tremolo', zones: [zone('c')] },
    ],
    samples: Object.fromEntries(['a', 'b', 'c'].map((name, n) => [own(name), info(name, n)])),
    packs: {},
  } as unknown as Instrument;
}

const tables: Partial<Record<RecordKind, readonly object[]>> = {};
/** Puts records in place of those of their kinds. */
function write(change: Partial<Record<RecordKind, readonly object[]>>): void {
  Object.assign(tables, change);
  const records = Object.fromEntries(
    Object.entries(tables).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
  );
  useDocuments.setState({ records, cueId: 'cue', templateId: 'template' });
}
/** Changes one record as an edit does: what does not change stays the same object. */
function change(kind: RecordKind, after: { id: string; [field: string]: unknown }): void {
  const { records } = useDocuments.getState();
  const before = recordOf(records, kind, after.id) ?? null;
  useDocuments.setState({ records: applyDeltas(records, [{ kind, id: after.id, before, after }]) });
}
const track = (id: string, more: object = {}) => ({
  id,
  name: `Track ${id}`,
  family: 'woodwind',
  place: id === 't' ? 1 : 2,
  instrumentId: ids.i,
  keymapId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: -3,
  pan: 0.25,
  hallSendDb: -12,
  muted: false,
  ...more,
});
const note = (id: string, beat: number, beats: number, key: number) => ({
  id,
  partId: 'p',
  startTick: beat * 960,
  endTick: (beat + beats) * 960,
  key,
  velocity: 90,
});
const cue = { id: 'cue', name: 'Cue', endTick: 8 * 960, loopStartTick: 0, loopEndTick: 0 };

let sound: typeof import('./performance.ts') &
  typeof import('./transport.ts') &
  typeof import('./hands.ts') &
  typeof import('./performance-state.ts') &
  typeof import('./playhead.ts') &
  typeof import('./instruments.ts') &
  typeof import('./readiness.ts') &
  typeof import('./unused.ts') &
  typeof import('./midi.ts') &
  typeof import('./commands.ts') &
  typeof import('./recording-settings.ts');
let down = false;
const real = globalThis.fetch;

const report = (state: Partial<State>) => {
  const message: State = {
    kind: 'state',
    playing: false,
    frame: 0,
    seconds: 0,
    tracks: [],
    momentary: -40,
    voices: 0,
    stolen: 0,
    givenUp: null,
    late: 0,
    sounding: [],
    hearing: false,
    place: 0,
    ...state,
  };
  for (const listener of told.listeners) listener(message);
};
/** A message as from a keyboard. */
const byHand = (bytes: MidiBytes) => sound.takeMidi(bytes, { id: 'test', name: 'Test keyboard' }, 0);
const starts = (events: readonly unknown[]) =>
  (events as EngineEvent[]).filter((event): event is StartEvent => event.kind === 'start');
const setups = () => told.tracks.at(-1) as EngineTrackSetup[];
const played = () => (told.live as LiveEvent[]).map(({ event }) => event);
/** Once edits were planned and nothing is missing. */
const ready = async () => {
  await new Promise((resolve) => setTimeout(resolve, 60));
  await eventually(() => {
    const { waiting } = sound.whatIsMissing();
    expect(waiting).toEqual([]);
  });
};
const wanted = () => [...(sound.useInstruments.getState().loads[ids.i]?.wanted ?? [])].sort();

beforeAll(async () => {
  const kept = new Map<string, string>();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    if (down) return Promise.reject(new TypeError('away'));
    const id = /\/instruments\/(\S+)/.exec(path)?.[1];
    if (id) return Promise.resolve(new Response(JSON.stringify(instrument(id))));
    const reads = readsOf(JSON.parse(String(init?.body)) as PackReadsShape) ?? [];
    const length = reads.reduce((sum, { start, end }) => sum + end - start, 0);
    return Promise.resolve(new Response(new Uint8Array(length).fill(33)));
  }) as typeof fetch;
  useSession.setState({ overview: { cues: [{}] } as never });
  write({
    template: [{ id: 'template', name: 'House', hallEarlyDb: -2, hallTailDb: -5, middleC: 4 }],
    track: [track('t'), track('u', { instrumentId: null })],
    positionMix: [{ id: 'm', trackId: 't', positionId: 'mix', ...PLAIN_POSITION, levelDb: -1 }],
    cue: [cue],
    tempo: [{ id: 'tempo', tick: 0, bpm: 60 }],
    part: [{ id: 'p', trackId: 't' }],
    note: [note('n1', 0, 2, 60), note('n2', 2, 2, 64)],
    mark: [],
    point: [],
  });
  sound = Object.assign(
    {},
    await import('./performance.ts'),
    await import('./transport.ts'),
    await import('./hands.ts'),
    await import('./performance-state.ts'),
    await import('./playhead.ts'),
    await import('./instruments.ts'),
    await import('./readiness.ts'),
    await import('./unused.ts'),
    await import('./midi.ts'),
    await import('./commands.ts'),
    await import('./recording-settings.ts'),
  );
  sound.startPerformance();
});
afterAll(() => {
  globalThis.fetch = real;
  vi.unstubAllGlobals();
});
beforeEach(() => {
  sound.stop();
  sound.usePerformance.setState({ looping: false, restTick: 0 });
  Object.assign(told, {
    plays: [],
    feeds: [],
    changes: [],
    clicks: [],
    drops: 0,
    live: [],
    ridden: [],
    hushed: [],
    errors: [],
    infos: [],
    stops: 0,
  });
  told.nextFrame = 0;
});

describe('the engine is told', () => {
  it('the tracks with their mix, the hall, and the limit', async () => {
    await ready();
    expect(setups().map(({ instrumentId }) => instrumentId)).toEqual([ids.i, null]);
    expect(setups()[0].mix).toMatchObject({ gainDb: -3, pan: 0.25, hallSendDb: -12, muted: false });
    expect(setups()[0].mix.positions.mix.levelDb).toBe(-1);
    expect(told.halls).toEqual([{ earlyDb: -2, tailDb: -5 }]);
    expect(told.limits).toEqual([96]);
  });

  it('what moves, once, and whom a person mutes or hears alone', () => {
    const before = told.tracks.length;
    useOwnHearing.setState({ muted: new Set(), soloed: new Set() });
    expect(told.tracks.length).toBe(before);
    useOwnHearing.setState({ muted: new Set(['t']), soloed: new Set() });
    expect(setups()[0].mix.muted).toBe(true);
    useOwnHearing.setState({ muted: new Set(), soloed: new Set(['u']) });
    expect(setups()[0].mix.muted).toBe(true);
    useOwnHearing.setState({ muted: new Set(), soloed: new Set() });
    expect(setups()[0].mix.muted).toBe(false);
    write({ template: [{ id: 'template', name: 'House', hallEarlyDb: -2, hallTailDb: -9, middleC: 4 }] });
    expect(told.halls.at(-1)).toEqual({ earlyDb: -2, tailDb: -9 });
  });

  it('whom hands play: the chosen track from then on, and a sound taken up', async () => {
    expect(setups().map(({ byHand }) => byHand)).toEqual([false, false]);
    sound.selectTrack('t');
    expect(setups().map(({ byHand }) => byHand)).toEqual([true, false]);
    sound.selectTrack('u');
    expect(setups().map(({ byHand }) => byHand)).toEqual([true, true]);
    const mix = { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions: { mix: PLAIN_POSITION } };
    sound.takeUp({ instrumentId: ids.j, name: 'Taken', mix }, 'long');
    expect(setups()).toHaveLength(3);
    expect(setups()[2]).toMatchObject({ instrumentId: ids.j, byHand: true });
    expect(sound.takenTrack()).toBe(2);
    sound.mixTaken({ ...mix, gainDb: -6 });
    expect(setups()[2].mix.gainDb).toBe(-6);
    sound.rideTaken(1, 99);
    expect(played()).toEqual([{ kind: 'control', frame: 0, track: 2, controller: 1, value: 99 }]);
    sound.takeUp(undefined);
    expect(setups()).toHaveLength(2);
    sound.selectTrack('t');
    await ready();
  });
});

describe('what is loaded', () => {
  it('is what the cue plays, no more', async () => {
    await ready();
    expect(wanted()).toEqual(['long']);
    write({ mark: [{ id: 'k', partId: 'p', startTick: 1920, endTick: 3840, articulation: 'staccato' }] });
    await eventually(() => expect(wanted()).toEqual(['long', 'staccato']));
    await ready();
  });

  it('is loaded again by Play where it was let go', async () => {
    await sound.unloadArticulation(ids.i, 'staccato');
    expect(wanted()).toEqual(['long']);
    expect(sound.whatIsMissing().waiting).toEqual(['Track t']);
    await sound.play();
    expect(sound.usePerformance.getState().preparing).toBe(true);
    await eventually(() => expect(told.plays).toHaveLength(1));
    expect(wanted()).toEqual(['long', 'staccato']);
    expect(sound.usePerformance.getState()).toMatchObject({ playing: true, preparing: false });
    write({ mark: [] });
    await ready();
    // Nothing is marked any more: one technique of two is let go of.
    const { before, after } = await sound.unloadUnused();
    expect([before, after]).toEqual([2 * FRAMES * 4, FRAMES * 4]);
    expect(wanted()).toEqual(['long']);
  });

  it('is what hands choose', async () => {
    sound.selectTrack('t');
    expect(wanted()).not.toContain('tremolo');
    byHand([0x90, 60, 80]);
    byHand([0x80, 60, 0]);
    sound.selectArticulation('tremolo');
    await eventually(() => expect(wanted()).toContain('tremolo'));
    sound.selectArticulation('long');
  });

  it('what cannot be loaded is told at Play, and tried again', async () => {
    sound.forgetInstrument(ids.j);
    down = true;
    write({ track: [track('t'), track('u', { instrumentId: ids.j })] });
    write({
      part: [
        { id: 'p', trackId: 't' },
        { id: 'q', trackId: 'u' },
      ],
    });
    write({ note: [...(tables.note ?? []), { ...note('n3', 0, 1, 60), partId: 'q' }] });
    await eventually(() => expect(sound.useInstruments.getState().errors[ids.j]).toBeDefined());
    expect(sound.whatIsMissing().failed[0]).toMatch(/^Track u: /);
    await sound.play();
    expect(told.errors[0]).toMatch(/^Not everything sounds. Track u: /);
    down = false;
    sound.stop();
    write({ track: [track('t'), track('u', { instrumentId: ids.j, gainDb: -4 })] });
    await eventually(() => expect(sound.useInstruments.getState().loads[ids.j]?.complete).toBe(true));
    await ready();
    expect(sound.whatIsMissing().failed).toEqual([]);
    write({
      track: [track('t'), track('u', { instrumentId: null })],
      part: [{ id: 'p', trackId: 't' }],
      note: [note('n1', 0, 2, 60), note('n2', 2, 2, 64)],
    });
    await ready();
  });
});

describe('plans', () => {
  const plan = (id: string) => sound.usePerformance.getState().plans[id];
  const both = {
    track: [track('t'), track('u')],
    part: [
      { id: 'p', trackId: 't' },
      { id: 'q', trackId: 'u' },
    ],
  };
  const own = { ...note('n3', 1, 1, 62), partId: 'q' };
  const notes = [note('n1', 0, 2, 60), note('n2', 2, 2, 64)];
  const settle = () => new Promise((resolve) => setTimeout(resolve, 60));

  it('stay as they are, the same objects, where nothing of them changes', async () => {
    write({ ...both, note: [...notes, own] });
    await ready();
    const before = [plan('t'), plan('u')];
    change('note', { ...own, key: 67 });
    await settle();
    expect(plan('t')).toBe(before[0]);
    expect(plan('u')).not.toBe(before[1]);
    expect(plan('u').segments.flatMap(({ sounds }) => sounds.map(({ key }) => key))).toEqual([67]);
    const after = sound.usePerformance.getState().plans;
    change('cue', { ...cue, name: 'Renamed' });
    await settle();
    expect(sound.usePerformance.getState().plans).toBe(after);
  });

  it.each([
    ['its mode', () => change('track', track('t', { mode: 'immediate' }))],
    ['its mix', () => change('track', track('t', { hallSendDb: -9 }))],
  ])('are made anew for %s, of that track alone', async (_what, act) => {
    write({ ...both, note: [...notes, own] });
    await ready();
    const before = [plan('t'), plan('u')];
    act();
    await settle();
    expect(plan('t')).not.toBe(before[0]);
    expect(plan('u')).toBe(before[1]);
  });

  it('are all made anew for another tempo', async () => {
    write({ ...both, note: [...notes, own], tempo: [{ id: 'tempo', tick: 0, bpm: 60 }] });
    await ready();
    const before = [plan('t'), plan('u')];
    change('tempo', { id: 'tempo', tick: 0, bpm: 120 });
    await settle();
    expect(plan('t')).not.toBe(before[0]);
    expect(plan('u').segments[0].sounds[0].startSeconds).toBeCloseTo(
      before[1].segments[0].sounds[0].startSeconds / 2,
      1,
    );
    write({
      tempo: [{ id: 'tempo', tick: 0, bpm: 60 }],
      track: [track('t'), track('u', { instrumentId: null })],
      part: [{ id: 'p', trackId: 't' }],
      note: notes,
    });
    await ready();
  });
});

describe('hands', () => {
  const keymap = (key: number) => ({
    keymap: [
      {
        id: 'k',
        name: 'Pipes',
        instruments: ids.i,
        initial: 'long',
        variantOf: '',
        trackId: '',
        ...PLAIN_TOUCH,
      },
    ],
    entry: [
      { id: 'e1', keymapId: 'k', articulation: 'long', place: 0, morph: -1 },
      { id: 'e2', keymapId: 'k', articulation: 'staccato', place: 1, morph: -1 },
    ],
    trigger: [
      {
        id: 'x',
        entryId: 'e2',
        kind: 'key',
        alternative: 0,
        number: key,
        low: 0,
        high: 127,
        hold: 'latching',
      },
    ],
  });
  const chosen = () => sound.usePerformance.getState().articulation;

  it('take an edited keymap up while they hold a key, which sounds on', async () => {
    write({ ...keymap(24), track: [track('t', { keymapId: 'k' }), track('u', { instrumentId: null })] });
    await ready();
    sound.selectTrack('t');
    told.live = [];
    byHand([0x90, 60, 80]);
    const [held] = starts(played());
    write(keymap(30));
    byHand([0x90, 24, 80]);
    expect(chosen()).toBe('long');
    byHand([0x80, 24, 0]);
    byHand([0x90, 30, 80]);
    expect(chosen()).toBe('staccato');
    // Nothing ended the held note.
    const ended = () => played().flatMap((event) => (event.kind === 'stop' ? [event.sound] : []));
    expect(held.key).toBe(60);
    expect(ended()).not.toContain(held.sound);
    byHand([0x80, 60, 0]);
    expect(ended()).toContain(held.sound);
    write({
      keymap: [],
      entry: [],
      trigger: [],
      track: [track('t'), track('u', { instrumentId: null })],
    });
    sound.selectArticulation('long');
    await ready();
  });
});

describe('playing', () => {
  it('begins at the resting place with two seconds, and is fed as it goes on', async () => {
    await ready();
    await sound.playOrStop();
    expect(sound.usePerformance.getState().playing).toBe(true);
    const first = starts(told.plays[0].events);
    expect(first.map(({ key, track: on }) => [key, on])).toEqual([[60, 0]]);
    report({ playing: true, frame: 24_000, voices: 1 });
    expect(told.feeds).toEqual([]);
    report({ playing: true, frame: 60_000, voices: 1 });
    const next = starts(told.feeds[0] as EngineEvent[]);
    expect(next.map(({ key }) => key)).toEqual([64]);
    expect(next[0].frame).toBeGreaterThan(90_000);
    expect(next[0].frame).toBeLessThanOrEqual(96_000);
    // Where the playhead is by then: a second and a quarter at 60 beats a minute.
    expect(sound.playheadTick()).toBeGreaterThan(1199);
    expect(sound.playheadTick()).toBeLessThan(1500);
  });

  it('stands still when the engine tells nothing any more', async () => {
    await sound.play();
    report({ playing: true, frame: 48_000, voices: 1 });
    sound.playing.toldAt -= 60_000;
    expect(sound.playheadTick()).toBeCloseTo(960 * 1.4, 0);
  });

  it('changes with what is edited, from where nobody has rendered yet', async () => {
    await sound.play();
    told.nextFrame = 30_000;
    write({ note: [note('n1', 0, 2, 60), note('n2', 2, 2, 65)] });
    await eventually(() => expect(told.changes).toHaveLength(1));
    const { frame, tracks, events } = told.changes[0] as FeedChange;
    expect([frame, tracks]).toEqual([32_400, [0]]);
    expect(events[0]).toMatchObject({ kind: 'keep', frame: 32_400, track: 0 });
    write({ note: [note('n1', 0, 2, 60), note('n2', 2, 2, 64)] });
    await eventually(() => expect(told.changes).toHaveLength(2));
    // Nothing changes: nothing is told.
    await ready();
    expect(told.changes).toHaveLength(2);
    const rejoin = told.plays[0].rejoin as (tracks: number[], frame: number) => EngineEvent[];
    // Who joins at one second is told of the note that sounds there, entered half way.
    const joined = starts(rejoin([0], 48_000));
    expect(joined.map(({ key, frame: at }) => [key, at])).toEqual([[60, 48_000]]);
    expect(joined[0].offsetSeconds).toBeGreaterThan(0.9);
  });

  it('stops where it began, or stays', async () => {
    sound.usePerformance.setState({ restTick: 480 });
    await sound.play();
    report({ playing: true, frame: 48_000, voices: 1 });
    sound.stop();
    expect(told.stops).toBe(1);
    expect(sound.usePerformance.getState()).toMatchObject({ playing: false, restTick: 480 });
    await sound.play();
    report({ playing: true, frame: 48_000, voices: 1 });
    sound.stop(true);
    expect(sound.usePerformance.getState().restTick).toBeGreaterThanOrEqual(1440);
    expect(sound.usePerformance.getState().restTick).toBeLessThan(1500);
    expect(sound.playheadTick()).toBe(sound.usePerformance.getState().restTick);
    await sound.stopPlaying();
    expect(told.stops).toBe(2);
  });

  it('goes on from another place when it is located, and from where it was when the sound began anew', async () => {
    await sound.goTo(-5);
    expect(sound.usePerformance.getState().restTick).toBe(0);
    expect(told.plays).toHaveLength(0);
    await sound.play();
    sound.locate(1920);
    await eventually(() => expect(told.plays).toHaveLength(2));
    expect(starts(told.plays[1].events).map(({ key }) => key)).toContain(64);
    report({ playing: true, frame: 48_000, voices: 1 });
    sound.playOn();
    await eventually(() => expect(told.plays).toHaveLength(3));
    expect(sound.playing.startSeconds).toBeGreaterThan(2.99);
    expect(sound.playing.startSeconds).toBeLessThan(3.2);
    sound.stop();
    sound.playOn();
    expect(told.plays).toHaveLength(3);
  });

  it('goes round a loop', async () => {
    write({ cue: [{ ...cue, loopStartTick: 0, loopEndTick: 960 }] });
    await sound.switchLoop();
    await sound.play();
    const frames = starts(told.plays[0].events).map(({ frame }) => frame);
    expect(frames.filter((frame) => frame >= 47_000).length).toBeGreaterThan(0);
    expect(sound.playing.loopFrames).toBe(48_000);
    report({ playing: true, frame: 3 * 48_000 + 24_000, voices: 1 });
    expect(sound.playheadTick()).toBeGreaterThan(470);
    expect(sound.playheadTick()).toBeLessThan(900);
    // Silent at its end it goes on.
    report({ playing: true, frame: 60 * 48_000, voices: 0 });
    expect(sound.usePerformance.getState().playing).toBe(true);
    sound.toggleLoop();
    await eventually(() => expect(told.plays).toHaveLength(2));
    expect(sound.playing.loopFrames).toBeNull();
    write({ cue: [cue] });
  });

  it('clicks when that is wanted, on the beats from where it plays, and anew when the tempo changes', async () => {
    const clicks = () => told.clicks.flatMap((one) => one.clicks as { frame: number; strong: boolean }[]);
    sound.usePerformance.setState({ restTick: 480 });
    await sound.play();
    expect(clicks()).toEqual([]);
    sound.setRecording({ click: 'always', clickDb: -20 });
    // From half a beat in: a beat at 60 a minute is 48,000 frames.
    expect(clicks()).toEqual([
      { frame: 24_000, strong: false },
      { frame: 72_000, strong: false },
    ]);
    expect(told.clicks.at(-1)?.gain).toBeCloseTo(0.1, 6);
    told.clicks = [];
    change('tempo', { id: 'tempo', tick: 0, bpm: 120 });
    expect(told.drops).toBeGreaterThan(0);
    // Half a second in is a beat now.
    expect(clicks().map(({ frame }) => frame)).toEqual([24_000, 48_000, 72_000]);
    change('tempo', { id: 'tempo', tick: 0, bpm: 60 });
    sound.setRecording({ click: 'never' });
    told.clicks = [];
    report({ playing: true, frame: 48_000, voices: 1 });
    expect(clicks()).toEqual([]);
    sound.setRecording({ click: 'recording' });
  });

  it('leads in before a place, and goes on past the end while it is recorded', async () => {
    sound.usePerformance.setState({ recording: true });
    await sound.play({ tick: 960, leadTicks: 1920 });
    expect([sound.playing.startSeconds, sound.playing.leadFrames]).toEqual([-1, 96_000]);
    const [{ clicks }] = told.clicks;
    expect(clicks).toEqual([
      { frame: 0, strong: false },
      { frame: 48_000, strong: true },
    ]);
    report({ playing: true, frame: 60 * 48_000, voices: 0 });
    expect(sound.usePerformance.getState().playing).toBe(true);
    sound.usePerformance.setState({ recording: false });
    report({ playing: true, frame: 61 * 48_000, voices: 0 });
    expect(sound.usePerformance.getState().playing).toBe(false);
  });

  it('ends a recording when somebody goes elsewhere, or turns the loop on', async () => {
    for (const act of [() => sound.locate(960), () => sound.toggleLoop()]) {
      sound.usePerformance.setState({ recording: true });
      await sound.play();
      act();
      expect(sound.usePerformance.getState().playing).toBe(false);
      sound.usePerformance.setState({ recording: false, looping: false });
    }
  });

  it('ends by itself when the cue is over and nothing sounds', async () => {
    await sound.play();
    report({ playing: true, frame: 8 * 48_000, voices: 0 });
    expect(sound.usePerformance.getState().playing).toBe(true);
    report({ playing: true, frame: 8.6 * 48_000, voices: 1 });
    expect(sound.usePerformance.getState().playing).toBe(true);
    report({ playing: true, frame: 8.6 * 48_000, voices: 0 });
    expect(sound.usePerformance.getState().playing).toBe(false);
  });

  it('says why there is no sound', async () => {
    told.gives = false;
    await sound.play();
    told.gives = true;
    expect(told.errors).toEqual(['The browser gives no sound here.']);
    expect(sound.usePerformance.getState().playing).toBe(false);
  });

  it('waits for the hall that is being worked out', async () => {
    sound.usePerformance.setState({ hallIsComing: true });
    await sound.play();
    expect(sound.whatIsMissing().waiting).toEqual(['the hall']);
    expect(told.plays).toHaveLength(0);
    sound.usePerformance.setState({ hallIsComing: false });
    await eventually(() => expect(told.plays).toHaveLength(1));
    sound.stop();
  });

  it('waits for what is missing, and gives up when it is pressed again', async () => {
    sound.usePerformance.setState({ plans: {} });
    await sound.playOrStop();
    expect(sound.usePerformance.getState()).toMatchObject({ preparing: true, playing: false });
    await sound.playOrStop();
    expect(sound.usePerformance.getState()).toMatchObject({ preparing: false, playing: false });
    write({ track: [track('t', { gainDb: -5 }), track('u', { instrumentId: null })] });
    await ready();
    expect(told.plays).toHaveLength(0);
  });
});

describe('hands', () => {
  it('play the chosen track, and let go when another is chosen or the keyboard is unplugged', async () => {
    await ready();
    sound.selectTrack('t');
    byHand([0x90, 62, 100]);
    const [begun] = starts(played());
    expect(begun).toMatchObject({ track: 0, key: 62, role: 'attack' });
    expect(sound.usePerformance.getState()).toMatchObject({ held: [62], articulation: 'long' });
    expect(sound.usePerformance.getState().reading?.bytes).toEqual([0x90, 62, 100]);
    sound.releaseHands();
    expect(played().at(-2)).toMatchObject({ kind: 'stop', track: 0, sound: begun.sound });
    expect(sound.usePerformance.getState().held).toEqual([]);
    byHand([0x90, 62, 100]);
    told.live = [];
    sound.selectTrack('u');
    expect(played()[0]).toMatchObject({ kind: 'stop', track: 0 });
    // No instrument, no sound.
    told.live = [];
    byHand([0x90, 62, 100]);
    expect(told.live).toEqual([]);
    sound.selectTrack('t');
  });

  it('go on holding while the mix moves, and hear controllers', () => {
    byHand([0x90, 62, 100]);
    const [begun] = starts(played());
    told.live = [];
    write({ positionMix: [{ id: 'm', trackId: 't', positionId: 'mix', ...PLAIN_POSITION, levelDb: -7 }] });
    byHand([0xb0, 1, 33]);
    expect(played()).toEqual([{ kind: 'control', frame: 0, track: 0, controller: 1, value: 33 }]);
    expect(sound.usePerformance.getState().ridden[1]).toBe(33);
    told.live = [];
    byHand([0x80, 62, 0]);
    expect(played()[0]).toMatchObject({ kind: 'stop', sound: begun.sound });
  });

  it('follow the levels that move in the cue, where the playhead is, and rest as in the mix again', async () => {
    sound.selectTrack('t');
    const point = (tick: number, levelDb: number) => ({
      id: `l${tick}`,
      cueId: 'cue',
      trackId: 't',
      positionId: 'mix',
      tick,
      levelDb,
    });
    const level = (value: number) => ({
      kind: 'control',
      frame: 0,
      track: 0,
      controller: POSITION_LEVEL,
      value,
    });
    report({});
    expect(told.ridden).toEqual([]);
    write({ levelPoint: [point(960, -12), point(1920, -6)] });
    sound.usePerformance.setState({ restTick: 1440 });
    report({});
    expect(told.ridden).toEqual([level(-9)]);
    // Told once as long as it stays.
    report({});
    expect(told.ridden).toHaveLength(1);
    // Before its first point it is as the mix has it; another track has no such level.
    sound.usePerformance.setState({ restTick: 0 });
    report({});
    expect(told.ridden.slice(1)).toEqual([level(0)]);
    sound.usePerformance.setState({ restTick: 1920 });
    sound.selectTrack('u');
    report({});
    expect(told.ridden).toHaveLength(2);
    sound.selectTrack('t');
    report({});
    expect(told.ridden.slice(2)).toEqual([level(-6)]);
    write({ levelPoint: [] });
    report({});
    expect(told.ridden.slice(3)).toEqual([level(0)]);
    await ready();
  });

  it('play a sound that was taken up in place of the track', async () => {
    const mix = { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions: { mix: PLAIN_POSITION } };
    sound.takeUp({ instrumentId: ids.j, name: 'Taken', mix }, 'long');
    await sound.wantArticulation(ids.j, 'long');
    byHand([0x90, 70, 64]);
    expect(starts(played())[0]).toMatchObject({ track: 2, key: 70 });
    report({ stolen: 2, givenUp: { track: 2, key: 70, why: 'machine' } });
    expect(sound.meters.givenUp).toMatchObject({ whose: 'Taken', key: 70, why: 'machine' });
    sound.takeUp(undefined);
    report({
      givenUp: { track: 0, key: 60, why: 'track' },
      stolen: 1,
      late: 4,
      voices: 7,
      momentary: -20,
      tracks: [{ peak: 0.5, positions: [0.25] }],
    });
    expect(sound.meters).toMatchObject({
      givenUpCount: 3,
      lateBlocks: 4,
      voices: 7,
      momentary: -20,
      givenUp: { whose: 'Track t', why: 'track' },
    });
    expect(sound.meters.tracks.t).toEqual({ peak: 0.5, positions: [0.25] });
  });

  it('are overheard, and an unplugged keyboard is told', () => {
    const overheard: unknown[] = [];
    const end = sound.overhearMidi((bytes) => overheard.push(bytes));
    sound.sendFrom(sound.STAND_IN, [0x90, 61, 70]);
    end();
    sound.sendFrom(sound.STAND_IN, [0x80, 61, 0]);
    expect(overheard).toEqual([[0x90, 61, 70]]);
    expect(starts(played())[0]).toMatchObject({ key: 61, track: 0 });
  });
  it('that are let go for them, by another track or a lost keyboard, are told to who writes it down', () => {
    const told: string[] = [];
    const end = sound.witnessHands(({ trackId, bytes: [status, key] }) =>
      told.push(`${trackId} ${status} ${key}`),
    );
    byHand([0x90, 60, 80]);
    byHand([0x90, 64, 80]);
    sound.selectTrack('u');
    sound.selectTrack('t');
    byHand([0x90, 67, 80]);
    sound.releaseHands();
    sound.releaseHands();
    end();
    expect(told).toEqual(['t 144 60', 't 144 64', 't 128 60', 't 128 64', 't 144 67', 't 128 67']);
    expect(sound.usePerformance.getState().held).toEqual([]);
  });
});

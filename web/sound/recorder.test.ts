import { createStore, entries, set } from 'idb-keyval';
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { eventually } from '#core/testing/eventually.ts';
import { locks } from '../testing/browser.ts';
import { openPage, shown } from '../testing/open-page.ts';
import { closeDocument, openDocument, undo } from '../state/documents.ts';
import { useSession } from '../state/session.ts';
import { TakeLog } from '../state/take-log.ts';
import type { PlayedByHand } from './hands.ts';
import { usePerformance } from './performance-state.ts';
import { playing } from './playhead.ts';
import { setRecording } from './recording-settings.ts';
import type { PlayFrom } from './transport.ts';

/** The recorder between hands and records; sound, hands and transport are played by the test. */

const TRACK = 'aaaaaaaa-0000-4000-8000-000000000000';
const told = vi.hoisted(() => ({
  witness: (() => undefined) as (played: PlayedByHand) => void,
  plays: [] as unknown[],
  texts: [] as string[],
  gives: true,
  listeners: [] as (() => void)[],
}));
vi.mock('./hands.ts', () => ({
  witnessHands: (witness: typeof told.witness) => {
    told.witness = witness;
    return () => undefined;
  },
}));
vi.mock('./host.ts', () => ({
  soundHost: {
    // The page's clock in milliseconds, the audio's in seconds: they began together.
    heardSeconds: (atMs: number) => atMs / 1000,
    listen: (listener: () => void) => told.listeners.push(listener),
  },
}));
vi.mock('./transport.ts', () => ({
  play: (from?: PlayFrom) => {
    told.plays.push(from);
    usePerformance.setState({ playing: told.gives });
    return Promise.resolve();
  },
  stop: () => usePerformance.setState({ playing: false, preparing: false }),
}));
vi.mock('sonner', () => ({ toast: (text: string) => told.texts.push(text) }));

let page: Awaited<ReturnType<typeof openPage>>;
let recorder: typeof import('./recorder.ts');
let lastPhrase: typeof import('./last-phrase.ts');
const QUARTER = 960;

beforeAll(async () => {
  useSession.setState({
    info: { user: { id: 'me' }, studio: { id: 's', role: 'owner' } } as never,
  });
  recorder = await import('./recorder.ts');
  lastPhrase = await import('./last-phrase.ts');
  recorder.startRecorder();
});
const cue = { id: 'cue', name: 'C', endTick: 8 * QUARTER, loopStartTick: 0, loopEndTick: 4 * QUARTER };
beforeEach(async () => {
  page = await openPage({
    cue: [cue],
    track: [{ id: TRACK, place: 1, name: 'Tide pipes', articulation: 'long' }],
    part: [{ id: 'p', trackId: TRACK }],
    point: [{ id: 'q', partId: 'p', controller: 1, tick: 0, value: 40 }],
    tempo: [{ id: 'tempo', tick: 0, bpm: 60, ramp: false }],
  });
  Object.assign(told, { plays: [], texts: [], gives: true });
  setRecording({ leadBars: 1, replaces: false, within: false, gridTicks: 0, latencyMs: 0 });
  usePerformance.setState({ trackId: TRACK, restTick: 0, looping: false, playing: false, recording: false });
  // Frame 0 of the performance was heard at second 100, and is the very beginning of the cue.
  Object.assign(playing, { startSeconds: 0, leadFrames: 0, loopFrames: null, frame: 0, contextSeconds: 100 });
});
afterEach(() => page.close());

const send = (seconds: number, bytes: readonly [number, number, number], more: Partial<PlayedByHand> = {}) =>
  told.witness({
    trackId: TRACK,
    bytes,
    atMs: (100 + seconds) * 1000,
    articulation: 'long',
    selects: false,
    controllers: [bytes[1]],
    ...more,
  });
const strike = (seconds: number, key: number) => {
  send(seconds, [0x90, key, 90]);
  send(seconds + 0.5, [0x80, key, 0]);
};
const notes = () => shown('note').map(({ startTick, key }) => `${startTick} ${key}`);
const stop = () => usePerformance.setState({ playing: false });

describe('recording', () => {
  it('counts in by the bars that are asked for, writes what was heard when it was played, and is one step', async () => {
    usePerformance.setState({ restTick: QUARTER });
    await recorder.recordOrStop();
    expect(told.plays).toEqual([{ tick: QUARTER, leadTicks: 4 * QUARTER }]);
    expect(usePerformance.getState()).toMatchObject({ recording: true, recorded: 0 });
    strike(0.5, 58);
    strike(1.02, 60);
    strike(2, 62);
    // What was played in the count-in is not counted.
    expect(usePerformance.getState().recorded).toBe(2);
    await recorder.recordOrStop();
    expect(usePerformance.getState()).toMatchObject({ recording: false, unheard: undefined });
    expect(notes()).toEqual([`${Math.round(1.02 * QUARTER)} 60`, `${2 * QUARTER} 62`]);
    undo();
    expect(notes()).toEqual([]);
  });
  it('begins with what is struck before anything is heard, where nothing is counted in', async () => {
    setRecording({ leadBars: 0 });
    usePerformance.setState({ restTick: QUARTER });
    await recorder.recordOrStop();
    // Sound begins a second later, at the second beat of the cue.
    Object.assign(playing, { startSeconds: 1, contextSeconds: 0 });
    send(0.2, [0x90, 60, 90]);
    Object.assign(playing, { contextSeconds: 101 });
    send(0.7, [0x80, 60, 0]);
    send(0.8, [0x90, 64, 90]);
    send(1.5, [0x80, 64, 0]);
    strike(2, 62);
    expect(usePerformance.getState().recorded).toBe(3);
    stop();
    expect(
      shown('note').map(({ startTick, endTick, key }) => [key, startTick / QUARTER, endTick / QUARTER]),
    ).toEqual([
      [60, 1, 1.5],
      [64, 1, 1.5],
      [62, 2, 2.5],
    ]);
  });
  it('counted in leaves out what was struck before', async () => {
    await recorder.recordOrStop();
    Object.assign(playing, { startSeconds: -4, contextSeconds: 0 });
    strike(0.2, 60);
    Object.assign(playing, { contextSeconds: 101 });
    strike(6, 62);
    stop();
    expect(notes()).toEqual([`${QUARTER} 62`]);
  });
  it('takes off what hands are late by', async () => {
    setRecording({ latencyMs: 40 });
    await recorder.recordOrStop();
    strike(1.04, 60);
    stop();
    expect(notes()).toEqual(['960 60']);
  });
  it('writes keys and controllers as the keymap knows them', async () => {
    await recorder.recordOrStop();
    send(0.5, [0x90, 24, 80], { selects: true, articulation: 'pizzicato' });
    send(1, [0x90, 60, 80], { articulation: 'pizzicato' });
    send(1.4, [0x80, 60, 0]);
    send(2, [0xb0, 2, 77], { controllers: [11] });
    stop();
    expect(notes()).toEqual(['960 60']);
    expect(shown('mark')).toMatchObject([{ articulation: 'pizzicato', startTick: 960 }]);
    expect(shown('point').filter(({ controller }) => controller === 11)).toMatchObject([{ value: 77 }]);
  });
  it('silences a curve from where a hand takes it, and notes that give way', async () => {
    setRecording({ replaces: true });
    await recorder.recordOrStop();
    expect(usePerformance.getState().unheard).toEqual({
      trackId: TRACK,
      notes: { fromTick: 0, toTick: Infinity },
      curves: [],
    });
    send(1, [0xb0, 1, 50]);
    send(1.1, [0xb0, 1, 51]);
    send(2, [0xb0, 7, 51]);
    expect(usePerformance.getState().unheard?.curves).toEqual([{ controller: 1, fromTick: 960 }]);
    stop();
  });
  it('goes round the loop where it is one, or stays within it', async () => {
    usePerformance.setState({ looping: true, restTick: 5 * QUARTER });
    await recorder.recordOrStop();
    expect(told.plays).toEqual([{ tick: 0, leadTicks: 4 * QUARTER }]);
    strike(1, 60);
    strike(5, 62);
    stop();
    expect(shown('take')).toHaveLength(2);
    expect(notes()).toEqual(['960 62']);
    usePerformance.setState({ looping: false });
    setRecording({ within: true, leadBars: 0 });
    await recorder.recordOrStop();
    expect(told.plays[1]).toEqual({ tick: 0, leadTicks: 0 });
    strike(3, 64);
    strike(4.5, 65);
    stop();
    expect(notes()).toEqual(['960 62', '2880 64']);
  });
  it('does not begin without a track, a loop to stay within, a right to write, or sound', async () => {
    usePerformance.setState({ trackId: undefined });
    await recorder.recordOrStop();
    usePerformance.setState({ trackId: TRACK });
    page.server.put('cue', { ...cue, version: 2, loopEndTick: 0 } as never);
    closeDocument('cue');
    await openDocument('cue', 'cue', { userId: 'me', studioId: 's' });
    setRecording({ within: true });
    await recorder.recordOrStop();
    setRecording({ within: false });
    const { info } = useSession.getState();
    useSession.setState({ info: { ...info, studio: { id: 's', role: 'viewer' } } as never });
    await recorder.recordOrStop();
    useSession.setState({ info });
    expect(told.plays).toEqual([]);
    expect(told.texts).toEqual([
      'Choose a track of a cue to record on.',
      'There is no loop to record within: drag one in the bar line.',
      'You may look at this studio, not change it.',
    ]);
    told.gives = false;
    await recorder.recordOrStop();
    expect(usePerformance.getState().recording).toBe(false);
  });
  it('with nothing played where it counts says so', async () => {
    usePerformance.setState({ restTick: 4 * QUARTER });
    await recorder.recordOrStop();
    strike(1, 60);
    stop();
    expect(told.texts).toEqual(['What was played lies outside of what is recorded.']);
    expect(notes()).toEqual([]);
  });
});

describe('a take of a page that is gone', () => {
  const left = (id: string, cueId: string) => {
    const log = new TakeLog({
      id,
      userId: 'me',
      cueId,
      trackId: TRACK,
      fromTick: 0,
      toTick: null,
      roundSeconds: null,
      replaces: false,
      gridTicks: 0,
    });
    log.add({ seconds: 1, status: 0x90, data1: 70, data2: 80 });
    log.add({ seconds: 2, status: 0x80, data1: 70, data2: 0 });
    return log;
  };
  /** Takes that are kept, however many pieces they have. */
  const kept = async () =>
    new Set(
      (await entries<string, { take: { id: string } }>(createStore('farlo-takes', 'takes'))).map(
        ([, { take }]) => take.id,
      ),
    ).size;
  const reopen = async () => {
    closeDocument('cue');
    await openDocument('cue', 'cue', { userId: 'me', studioId: 's' });
  };
  it('is written when its cue is opened, once; takes of other cues wait for theirs', async () => {
    left('one', 'cue');
    left('two', 'another');
    await eventually(async () => expect(await kept()).toBe(2));
    await reopen();
    await eventually(() => expect(notes()).toEqual(['960 70']));
    await eventually(async () => expect(await kept()).toBe(1));
    expect(told.texts[0]).toContain('Tide pipes');
  });
  it('that another tab is still recording is left alone', async () => {
    const store = createStore('farlo-takes', 'takes');
    left('three', 'cue');
    await eventually(async () => expect(await kept()).toBeGreaterThan(0));
    const [[key, piece]] = (await entries<string, { take: { id: string } }>(store)).filter(
      ([, { take }]) => take.id === 'three',
    );
    await set(key, { ...piece, tab: 'other' }, store);
    locks.held.add('farlo-tab-other');
    await reopen();
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(notes()).toEqual([]);
    locks.held.delete('farlo-tab-other');
    await reopen();
    await eventually(() => expect(notes()).toEqual(['960 70']));
  });
});

describe('what was played without recording', () => {
  it('is written where it was played to the cue', () => {
    usePerformance.setState({ playing: true });
    strike(1, 60);
    strike(2, 64);
    expect(lastPhrase.useLastPhrase.getState()).toEqual({ trackId: TRACK, notes: 2 });
    usePerformance.setState({ playing: false });
    expect(lastPhrase.keepLastPhrase()).toBe(2);
    expect(notes()).toEqual(['960 60', '1920 64']);
    expect(lastPhrase.keepLastPhrase()).toBe(0);
  });
  it('is written from the playhead on when nothing played; after a pause another phrase begins', () => {
    strike(1, 60);
    strike(9, 62);
    strike(10, 64);
    expect(lastPhrase.useLastPhrase.getState().notes).toBe(2);
    usePerformance.setState({ restTick: 2 * QUARTER });
    expect(lastPhrase.keepLastPhrase()).toBe(2);
    expect(notes()).toEqual(['1920 62', '2880 64']);
  });
});

import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { RecordKind } from '#api/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import type { Note, Part } from '#core/music/index.ts';
import { TempoMap } from '#core/music/index.ts';
import { planPart } from '#core/performance/index.ts';
import { instrumentOf, plainZone, sine } from '#core/testing/fixtures.ts';
import { useDocuments } from '../state/documents.ts';
import { Table } from '../state/tables.ts';
import { clearOwnHearing, togglePositionAlone, trimOwnHearing } from '../state/own-hearing.ts';
import { AS_WRITTEN, mixOf } from './mixes.ts';
import { useInstruments } from './instruments.ts';
import { passageTicks } from './passage.ts';
import { usePerformance } from './performance-state.ts';
import { eventually } from '#core/testing/eventually.ts';

/** Measuring the balance, from records and plans to figures; the workers run in this thread. */

const made = vi.hoisted(() => ({ requests: [] as string[], fails: '', hangs: false }));
vi.mock('./host.ts', () => ({ soundHost: {} }));
const whole = vi.hoisted(() => ({ measured: [] as unknown[], moved: 0 }));
vi.mock('./whole.ts', () => ({
  measureWhole: (passage: unknown) => whole.measured.push(passage),
  wholeHasMoved: () => whole.moved++,
}));
vi.mock('./hall.ts', () => ({
  wantedHall: () => {
    const pulse = Float32Array.of(0.5);
    return Promise.resolve({ left: pulse, right: pulse, earlyFrames: 1 });
  },
}));

type Handler = (event: { data: unknown }) => void;
const scope: { onmessage?: Handler; postMessage(message: unknown): void } = { postMessage: () => undefined };
/** A worker whose handler runs here, one message after the other. */
class WorkerHere {
  onmessage: Handler | undefined;
  onerror: ((event: { message: string }) => void) | undefined;
  private isOver = false;
  postMessage(data: { request: { kind: string } }): void {
    made.requests.push(data.request.kind);
    if (made.hangs) return;
    queueMicrotask(() => {
      if (this.isOver) return;
      if (made.fails && data.request.kind === 'measure') {
        this.onerror?.({ message: made.fails });
        return;
      }
      scope.postMessage = (message: unknown) => this.onmessage?.({ data: message });
      handler({ data: structuredClone(data) });
    });
  }
  terminate(): void {
    this.isOver = true;
  }
}
let handler: Handler;
let balance: typeof import('./balance.ts');
beforeAll(async () => {
  vi.stubGlobal('self', scope);
  vi.stubGlobal('Worker', WorkerHere);
  vi.stubGlobal('navigator', { hardwareConcurrency: 2 });
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined });
  await import('./balance.worker.ts');
  handler = scope.onmessage as Handler;
  balance = await import('./balance.ts');
  balance.followBalance();
});
afterAll(() => vi.unstubAllGlobals());

const audio = new Map([
  ['near', sine(440, 6, 0.2)],
  ['far', sine(440, 6, 0.1)],
]);
const zone = plainZone({ samples: { close: { sample: 'near' }, far: { sample: 'far' } } });
const instrument = {
  ...instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], audio, ['close', 'far']),
  id: 'i',
  samples: { near: {}, far: {} } as never,
};
const track = (id: string, place: number) => ({
  id,
  name: id,
  family: 'strings',
  place,
  instrumentId: 'i',
  keymapId: null,
  articulation: 'long',
  mode: 'planned',
  gainDb: 0,
  pan: 0,
  hallSendDb: -60,
  muted: false,
});
const position = (trackId: string, positionId: string, more: object = {}) => ({
  id: `${trackId} ${positionId}`,
  trackId,
  positionId,
  ...PLAIN_POSITION,
  ...more,
});
const cue = { id: 'cue', name: 'Cue', endTick: 60 * 960, loopStartTick: 0, loopEndTick: 4 * 960 };
let tables: Partial<Record<RecordKind, readonly object[]>>;
function write(change: Partial<Record<RecordKind, readonly object[]>>): void {
  tables = { ...tables, ...change };
  const records = Object.fromEntries(
    Object.entries(tables).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
  );
  useDocuments.setState({ records, cueId: 'cue', templateId: 'template' });
}
const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
/** Plans notes for a track: [beat, beats]. */
function plan(id: string, notes: readonly (readonly [number, number])[]) {
  const { records } = useDocuments.getState();
  const part: Part = {
    notes: notes.map(([at, beats], i): Note => ({
      id: `${id} ${i}`,
      startTick: at * 960,
      endTick: (at + beats) * 960,
      key: 69,
      velocity: 127,
    })),
    marks: [],
    points: [],
  };
  const mix = mixOf(records, track(id, 1) as never);
  return planPart(part, { tempo, instrument, mix, mode: 'immediate', articulation: 'long', audio });
}

beforeEach(() => {
  Object.assign(made, { requests: [], fails: '', hangs: false });
  write({
    template: [{ id: 'template', name: 'House', hallEarlyDb: 0, hallTailDb: 0, middleC: 4 }],
    cue: [cue],
    tempo: [{ id: 't', tick: 0, bpm: 60 }],
    track: [track('a', 1), track('b', 2)],
    positionMix: [position('a', 'close'), position('a', 'far', { levelDb: -60 }), position('b', 'close')],
    eqBand: [],
  });
  const load = {
    instrument,
    audio,
    wanted: new Set(['long']),
    totalBytes: 1,
    loadedBytes: 1,
    complete: true,
  };
  useInstruments.setState({ loads: { i: load } });
  usePerformance.setState({ plans: { a: plan('a', [[0, 4]]), b: plan('b', [[20, 4]]) } });
});
afterEach(() => balance.cancelMeasuring());

const section = (id: string) => balance.useBalance.getState().sections[id];
/** A sine of amplitude 0.2 in both channels, at 440 Hz where the weighting is −0.6 dB… by the standard’s own curve. */
const LUFS = -0.691 + 10 * Math.log10(2 * (0.2 ** 2 / 2));

describe('measuring', () => {
  it('takes the loop, or the first twelve seconds of the cue', () => {
    expect(passageTicks()).toEqual([0, 3840]);
    write({ cue: [{ ...cue, loopEndTick: 0 }] });
    expect(passageTicks()).toEqual([0, 12 * 960]);
    write({ cue: [{ ...cue, loopEndTick: 0, endTick: 960 }] });
    expect(passageTicks()).toEqual([0, 960]);
    write({ cue: [] });
    expect(passageTicks()).toEqual([0, 0]);
  });

  it('tells how loud a section is in it, and who rests', async () => {
    const work = balance.measureAll();
    expect(balance.useBalance.getState().progress).toEqual({ done: 0, of: 2 });
    await work;
    expect(balance.useBalance.getState()).toMatchObject({
      progress: undefined,
      passage: [0, 3840],
      troubles: {},
    });
    expect(section('b').isSilent).toBe(true);
    expect(section('a').isSilent).toBe(false);
    // K-weighting at 440 Hz lies within a decibel of 0.
    expect(Math.abs((section('a').figures?.loudness ?? 0) - LUFS)).toBeLessThan(1.2);
    // Positions that are off are not measured.
    expect(Object.keys(section('a').positions)).toEqual(['close']);
    // Then all of it together.
    expect(whole.measured.at(-1)).toEqual([0, 3840]);
    const { moved } = whole;
    write({});
    expect(whole.moved).toBe(moved + 1);
  });

  it('keeps figures true while levels move, without measuring anew', async () => {
    await balance.measureAll();
    const before = section('a').figures?.loudness ?? 0;
    made.requests = [];
    write({
      positionMix: [
        position('a', 'close', { levelDb: -6 }),
        position('a', 'far', { levelDb: -60 }),
        position('b', 'close'),
      ],
    });
    await eventually(() => expect((section('a').figures?.loudness ?? 0) - before).toBeCloseTo(-6, 1));
    expect(made.requests).not.toContain('measure');
  });

  it('measures again what has to be rendered anew: an opened position, a delay', async () => {
    await balance.measureAll();
    write({ positionMix: [position('a', 'close'), position('a', 'far'), position('b', 'close')] });
    await eventually(() => expect(Object.keys(section('a').positions)).toEqual(['close', 'far']));
    // The same wave at half the level: 20·log(1.5) louder together.
    expect(Math.abs((section('a').figures?.loudness ?? 0) - LUFS - 3.52)).toBeLessThan(1.2);
    made.requests = [];
    write({
      positionMix: [
        position('a', 'close'),
        position('a', 'far', { delayMs: 500 / 440 }),
        position('b', 'close'),
      ],
    });
    // Half a period later they work against each other.
    await eventually(() =>
      expect(Math.abs((section('a').figures?.loudness ?? 0) - LUFS + 6.02)).toBeLessThan(1.2),
    );
    expect(made.requests).toContain('measure');
  });

  it('finds mixes for what was measured, and figures without a position', async () => {
    write({ positionMix: [position('a', 'close'), position('a', 'far'), position('b', 'close')] });
    await balance.measureAll();
    const loudness = section('a').figures?.loudness ?? 0;
    const found = await balance.solveFor('a', { loudness: loudness - 4 }, { hall: false, width: false });
    expect(found?.reached[0]).toMatchObject({ aim: 'loudness', isMet: true });
    const without = await balance.figuresWithout('a', 'far');
    expect((without?.loudness ?? 0) - loudness).toBeCloseTo(-3.52, 0);
    expect((await balance.lightMixOf('a', 1))?.ids).toHaveLength(1);
    // Its notes have no recorded ends: nothing is known of its depth, and there is no way from near to far.
    expect(await balance.levelsAt('a', 0.5)).toBeUndefined();
    expect(await balance.solveFor('gone', { loudness: 0 }, { hall: false, width: false })).toBeUndefined();
  });

  it('knows its true peak, brings it to a side, and what another mix would make of it', async () => {
    await balance.measureAll();
    const before = section('a');
    // A sine of 0.2 in both channels, loudest at its crests.
    expect(before.truePeakDb).toBeCloseTo(20 * Math.log10(0.2), 1);
    expect(before.figures?.correlation).toBeCloseTo(1, 3);
    const seated = await balance.seatFor('a', { depthDb: 3, balanceDb: 5, lateMs: 8 }, true);
    expect(seated).toMatchObject({ depth: undefined, balance: { isMet: true } });
    expect(seated?.balance.before).toBeCloseTo(0, 6);
    expect(seated?.mix.positions.close.delayMs).toBe(8);
    expect(await balance.seatFor('gone', { depthDb: 3, balanceDb: 5, lateMs: 8 }, true)).toBeUndefined();
    expect(await balance.seatFor('b', { depthDb: 3, balanceDb: 5, lateMs: 8 }, true)).toBeUndefined();
    const close = { ...position('a', 'close'), levelDb: -3 };
    const kept = { id: 'a', name: 'A', gainDb: -4, pan: 0, hallSendDb: -60, positions: { close }, bands: [] };
    const there = await balance.figuresAs('a', kept as never);
    expect((there?.loudness ?? 0) - (before.figures?.loudness ?? 0)).toBeCloseTo(-7, 1);
  });

  it('tells where a position was recorded, however it is panned and widened', async () => {
    write({
      positionMix: [
        position('a', 'close', { pan: 0.8, width: 0.3 }),
        position('a', 'far', { levelDb: -60 }),
        position('b', 'close'),
      ],
    });
    await balance.measureAll();
    expect(section('a').positions.close.balanceDb).toBeCloseTo(0, 6);
    expect(section('a').figures?.balanceDb).toBeGreaterThan(10);
  });

  it('does not measure anew what waits longer as a whole', async () => {
    write({ positionMix: [position('a', 'close'), position('a', 'far'), position('b', 'close')] });
    await balance.measureAll();
    made.requests = [];
    write({
      positionMix: [
        position('a', 'close', { delayMs: 9 }),
        position('a', 'far', { delayMs: 9 }),
        position('b', 'close'),
      ],
    });
    await eventually(() => expect(made.requests).toContain('figures'));
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(made.requests).not.toContain('measure');
  });

  it('adds sections up by their powers, and hears a mix trimmed without measuring it otherwise', async () => {
    expect(balance.wholeLoudness({})).toBe(-Infinity);
    await balance.measureAll();
    const alone = section('a');
    const whole = balance.wholeLoudness({ a: alone, b: alone });
    expect(whole - (alone.figures?.loudness ?? 0)).toBeCloseTo(3.01, 2);
    const { records } = useDocuments.getState();
    const [own] = tables.track ?? [];
    trimOwnHearing(-4);
    expect(mixOf(records, own as never).gainDb).toBe(-4);
    expect(mixOf(records, own as never, AS_WRITTEN).gainDb).toBe(0);
    // Asked for by turns, both stay the same objects: nothing is planned anew.
    expect(mixOf(records, own as never)).toBe(mixOf(records, own as never));
    const written = mixOf(records, own as never, AS_WRITTEN);
    mixOf(records, own as never);
    expect(mixOf(records, own as never, AS_WRITTEN)).toBe(written);
    trimOwnHearing(0);
    expect(mixOf(records, own as never).gainDb).toBe(0);
  });

  it('lets one kind of positions be heard alone, for whoever wants it', () => {
    write({ positionMix: [position('a', 'close'), position('a', 'far'), position('b', 'close')] });
    const { records } = useDocuments.getState();
    const [own] = tables.track ?? [];
    const heard = () => Object.values(mixOf(records, own as never).positions).map(({ muted }) => muted);
    expect(heard()).toEqual([false, false]);
    togglePositionAlone('far');
    expect(heard()).toEqual([true, false]);
    expect(mixOf(records, own as never, AS_WRITTEN).positions.close.muted).toBe(false);
    togglePositionAlone('close');
    expect(heard()).toEqual([false, false]);
    togglePositionAlone('far');
    expect(heard()).toEqual([false, true]);
    clearOwnHearing();
    expect(heard()).toEqual([false, false]);
  });

  it('says what goes wrong with one section and goes on with the others', async () => {
    made.fails = 'no room';
    await balance.measureAll();
    expect(balance.useBalance.getState()).toMatchObject({
      progress: undefined,
      troubles: { a: 'no room', b: 'no room' },
    });
    made.fails = '';
    await balance.measureAll();
    expect(section('a').isSilent).toBe(false);
    expect(balance.useBalance.getState().troubles).toEqual({});
  });

  it('ends when it is cancelled, and tells no trouble', async () => {
    made.hangs = true;
    const work = balance.measureAll();
    await eventually(() => expect(made.requests).toContain('measure'));
    balance.cancelMeasuring();
    await work;
    expect(balance.useBalance.getState()).toMatchObject({ progress: undefined, troubles: {}, sections: {} });
  });
});

import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { RecordKind } from '#api/index.ts';
import { encodeFrames, wavHeader } from '#core/formats/index.ts';
import { TempoMap } from '#core/music/index.ts';
import { planPart } from '#core/performance/index.ts';
import { mixOf, sineInstrument } from '#core/testing/fixtures.ts';
import { useDocuments } from '../state/documents.ts';
import { Table } from '../state/tables.ts';
import { usePerformance } from './performance-state.ts';
import { measureWhole, useWhole, watchWhole, wholeHasMoved } from './whole.ts';
import { eventually } from '#core/testing/eventually.ts';

/** The whole of a passage, from plans to figures; what is bounced is given. */

interface Asked {
  order: { events: { frame: number; kind: string; track: number }[]; endFrame: number };
  end: (files: unknown) => void;
  fail: (error: Error) => void;
  cancelled: boolean;
}
const asked = vi.hoisted(() => [] as Asked[]);
vi.mock('./host.ts', () => ({ soundHost: {} }));
vi.mock('./hall.ts', () => ({ wantedHall: () => Promise.resolve() }));
vi.mock('./deliver.ts', () => ({
  bounceOrder: () => ({ tracks: ['of the template'], events: ['of the whole cue'], endFrame: 1 }),
  startBounce: (order: Asked['order']) => {
    const one: Asked = { order, cancelled: false, end: () => undefined, fail: () => undefined };
    const result = new Promise((resolve, reject) => {
      one.end = resolve;
      one.fail = reject;
    });
    asked.push(one);
    return {
      result,
      cancel: () => {
        one.cancelled = true;
        one.end(undefined);
      },
    };
  },
}));

const { instrument } = sineInstrument();
const beat = (at: number) => at * 960;
const track = { id: 't', name: 'T', place: 1, muted: false };
beforeEach(() => {
  vi.useFakeTimers();
  asked.length = 0;
  useWhole.setState({ figures: undefined, passage: undefined, hasMoved: false, trouble: undefined });
  const tables = {
    cue: [{ id: 'cue' }],
    tempo: [{ id: 'x', tick: 0, bpm: 60 }],
    track: [{ ...track, id: 's' }, track],
  };
  useDocuments.setState({
    records: Object.fromEntries(
      Object.entries(tables).map(([kind, list]) => [kind, Table.of(kind as RecordKind, list as never)]),
    ),
    cueId: 'cue',
  });
  const note = (id: string, from: number, to: number) => ({
    id,
    startTick: beat(from),
    endTick: beat(to),
    key: 69,
    velocity: 90,
  });
  const part = { notes: [note('a', 0, 1), note('b', 5, 6), note('c', 9, 10)], marks: [], points: [] };
  const context = {
    tempo: new TempoMap([{ tick: 0, bpm: 60 }]),
    instrument,
    mix: mixOf(['mix']),
    mode: 'immediate' as const,
    articulation: 'long',
  };
  usePerformance.setState({ plans: { t: planPart(part, context) }, playing: false });
});
afterEach(() => vi.useRealTimers());

const passage = [beat(4), beat(8)] as const;
/** A file of one second: a sine left, half of it right. */
const made = (level: number) => {
  const left = Float32Array.from({ length: 48_000 }, (_, i) => level * Math.sin(i / 20));
  const sides = [left, left.map((value) => value / 2)];
  const bytes = [wavHeader('f32', 48_000, 2, 48_000), encodeFrames(sides, 'f32', 0, 48_000)];
  return {
    files: [{ name: 'Mix', file: new Blob(bytes as BlobPart[]) }],
    figures: { frames: 48_000, integratedLufs: -20 * level, truePeakDb: -3, stolen: 0 },
  };
};

describe('the whole of a passage', () => {
  it('is what is bounced of it: loudness, true peak, and how the sides stand to each other', async () => {
    const work = measureWhole(passage);
    await eventually(() => expect(asked).toHaveLength(1));
    const { order } = asked[0];
    expect(order).toMatchObject({ tracks: ['of the template'] });
    // Four seconds, and one in which it rings out; of the notes, the one that begins in it.
    expect(order.endFrame).toBe(5 * 48_000);
    const starts = order.events.filter(({ kind, frame }) => kind === 'start' && frame >= 0);
    expect(starts).toHaveLength(1);
    expect(starts[0].track).toBe(1);
    expect(Math.abs(starts[0].frame - 48_000)).toBeLessThan(2000);
    asked[0].end(made(1));
    await work;
    const { figures } = useWhole.getState();
    expect(figures).toMatchObject({ integratedLufs: -20, truePeakDb: -3 });
    expect(figures?.correlation).toBeCloseTo(1, 5);
    // (1 − ½)² against (1 + ½)²
    expect(figures?.sideDb).toBeCloseTo(20 * Math.log10(1 / 3), 3);
  });

  it('is measured again when what has moved rests, but not while it plays', async () => {
    wholeHasMoved();
    await vi.advanceTimersByTimeAsync(5000);
    expect(asked).toHaveLength(0);
    const work = measureWhole(passage);
    await eventually(() => expect(asked).toHaveLength(1));
    asked[0].end(made(1));
    await work;
    // While nobody looks, nothing is rendered.
    wholeHasMoved();
    await vi.advanceTimersByTimeAsync(5000);
    expect([useWhole.getState().hasMoved, asked.length]).toEqual([true, 1]);
    usePerformance.setState({ playing: true });
    const leave = watchWhole();
    wholeHasMoved();
    expect(useWhole.getState().hasMoved).toBe(true);
    await vi.advanceTimersByTimeAsync(5000);
    expect(asked).toHaveLength(1);
    usePerformance.setState({ playing: false });
    await vi.advanceTimersByTimeAsync(1600);
    expect(asked).toHaveLength(2);
    expect(useWhole.getState().hasMoved).toBe(false);
    // Moved again before it has come: the later one counts.
    const later = measureWhole(passage);
    await eventually(() => expect(asked).toHaveLength(3));
    expect(asked[1].cancelled).toBe(true);
    asked[2].end(made(0.5));
    await later;
    expect(useWhole.getState().figures?.integratedLufs).toBe(-10);
    // Another cue has nothing to do with it.
    useDocuments.setState({ cueId: 'other' });
    wholeHasMoved();
    await vi.advanceTimersByTimeAsync(5000);
    expect([useWhole.getState().figures, asked.length]).toEqual([undefined, 3]);
    leave();
  });

  it('says why it could not be measured', async () => {
    const work = measureWhole(passage);
    await eventually(() => expect(asked).toHaveLength(1));
    asked[0].fail(new Error('no room'));
    await work;
    expect(useWhole.getState()).toMatchObject({ figures: undefined, trouble: 'no room' });
  });
});

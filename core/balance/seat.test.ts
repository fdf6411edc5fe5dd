import { describe, expect, it } from 'vitest';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { mixOf } from '../testing/fixtures.ts';
import { heldNoise, planned, type PlannedPosition } from '../testing/positions.ts';
import { mixDown, panFor, seatMix, SectionForms, withLateness } from './index.ts';

const POSITIONS: PlannedPosition[] = [
  { id: 'close', levelDb: 0, depthDb: 11, delayMs: 0, at: -0.3 },
  { id: 'tree', levelDb: -5, depthDb: 3.5, delayMs: 8, at: -0.2 },
  { id: 'far', levelDb: -8, depthDb: -4, delayMs: 27, at: -0.1 },
];
const passage = planned(heldNoise(15, 5, 5), POSITIONS, 13);
const note = {
  apart: planned(heldNoise(16, 1.5, 3.5), POSITIONS, 14),
  letGo: 1.5 * 48_000,
  late: Object.fromEntries(POSITIONS.map(({ id, delayMs }) => [id, delayMs * 48])),
};
const arrivals = POSITIONS.map(({ id, delayMs }) => ({
  id,
  delaySeconds: delayMs / 1000,
  isInverted: false,
  certainty: 1,
}));
const start: TrackMix = {
  ...mixOf([]),
  positions: {
    close: { ...PLAIN_POSITION, levelDb: -6 },
    tree: { ...PLAIN_POSITION, delayMs: 1.5 },
    far: { ...PLAIN_POSITION, levelDb: -9 },
  },
};
const forms = new SectionForms(passage, [note], arrivals, start, { fromLeft: 1, fromRight: 1 });
/** Right against left of what is heard, with the track's balance: sides by the sine law, as engines pan. */
function heardBalance(mix: TrackMix): number {
  const [left, right] = mixDown(passage, mix);
  const angle = ((mix.pan + 1) * Math.PI) / 4;
  const power = (side: Float32Array) => side.reduce((sum, v) => sum + v * v, 0);
  return 10 * Math.log10((power(right) * Math.sin(angle) ** 2) / (power(left) * Math.cos(angle) ** 2));
}

describe('a section brought to a seat', () => {
  it('gets its depth, its direction and its arrival, and stays as loud', () => {
    const seated = seatMix(forms, start, { depthDb: 7, balanceDb: 5, lateMs: 12 }, { hall: false });
    expect(seated.depth?.isMet).toBe(true);
    expect(forms.figures(seated.mix).depthDb).toBeCloseTo(7, 0);
    expect(forms.figures(seated.mix).loudness).toBeCloseTo(forms.figures(start).loudness, 0);
    expect(seated.balance.isMet).toBe(true);
    expect(seated.balance.after).toBeCloseTo(5, 0);
    // All wait as long, and the tree longer as before.
    expect(seated.mix.positions.close.delayMs).toBe(12);
    expect(seated.mix.positions.tree.delayMs).toBe(13.5);
    expect(seated.mix.positions.far.delayMs).toBe(12);
  });

  it('is heard from there: right against left of what sounds moves by as much', () => {
    const to = (balanceDb: number) =>
      seatMix(forms, start, { depthDb: 4, balanceDb, lateMs: undefined }, { hall: false }).mix;
    expect(heardBalance(to(6)) - heardBalance(to(-6))).toBeCloseTo(12, 0);
  });

  it('says how far a wet recording can come', () => {
    const { depth, mix } = seatMix(forms, start, { depthDb: 25, balanceDb: 0, lateMs: 0 }, { hall: true });
    expect(depth?.isMet).toBe(false);
    expect(depth?.reach[1]).toBeLessThan(13);
    expect(depth?.after).toBeGreaterThan(9);
    expect(mix.positions.close.levelDb).toBeGreaterThan(-6);
  });

  it('goes further away by the hall where it may', () => {
    const aims = { depthDb: -7, balanceDb: 0, lateMs: 0 };
    expect(seatMix(forms, start, aims, { hall: false }).depth?.isMet).toBe(false);
    const far = seatMix(forms, start, aims, { hall: true });
    expect(far.depth?.isMet).toBe(true);
    expect(far.mix.hallSendDb).toBeGreaterThan(-20);
  });

  it('keeps its levels where nothing is known of its depth', () => {
    const blind = new SectionForms(passage, [], [], start);
    const { depth, mix } = seatMix(blind, start, { depthDb: 3, balanceDb: -4, lateMs: 5 }, { hall: true });
    expect(depth).toBeUndefined();
    expect(mix.positions.tree.levelDb).toBe(0);
    expect(mix.pan).not.toBe(0);
  });
});

describe('balance and lateness', () => {
  it('follow the sine law, and leave the further side something', () => {
    expect(panFor(0)).toBe(0);
    // tan(67.5°) is 7.66 dB.
    expect(panFor(7.656)).toBeCloseTo(0.5, 2);
    expect(panFor(-7.656)).toBeCloseTo(-0.5, 2);
    expect(panFor(60)).toBe(0.9);
    expect(panFor(-Infinity)).toBe(-0.9);
  });
  it('count what is heard alone, and stay within what can be set', () => {
    const positions = {
      close: { ...PLAIN_POSITION, delayMs: 10 },
      tree: { ...PLAIN_POSITION, delayMs: 95 },
      far: { ...PLAIN_POSITION, levelDb: -60, delayMs: 3 },
    };
    const late = withLateness({ ...mixOf([]), positions }, 20);
    expect(Object.values(late.positions).map(({ delayMs }) => delayMs)).toEqual([20, 100, 13]);
    expect(withLateness({ ...mixOf([]), positions: {} }, 20).positions).toEqual({});
  });
});

describe('figures of a mix', () => {
  const of = (mix: TrackMix) => forms.figures(mix);
  it('count the balance of the track and what each position sends to the hall', () => {
    // Noise alike in power on both sides: all that is left of it lies right.
    expect(of({ ...start, pan: 0.9 }).balanceDb - of(start).balanceDb).toBeCloseTo(
      20 * Math.log10(Math.tan((1.9 * Math.PI) / 4)),
      6,
    );
    const sent = (sendDb: number): TrackMix => ({
      ...start,
      hallSendDb: 0,
      positions: Object.fromEntries(
        Object.entries(start.positions).map(([id, one]) => [id, { ...one, sendDb }]),
      ),
    });
    const dry = of({ ...start, hallSendDb: -60 }).loudness;
    // What is sent 6 dB less is a quarter of the hall's power beside the same dry sound.
    const wet = (mix: TrackMix) => 10 ** (of(mix).loudness / 10) - 10 ** (dry / 10);
    expect(wet(sent(-6.0206)) / wet(sent(0))).toBeCloseTo(0.25, 3);
    expect(of(sent(-60)).loudness).toBeCloseTo(dry, 6);
  });
  it('have no correlation where a side is silent, and no depth where nothing is heard', () => {
    const silence = passage.map((one) => ({ ...one, right: new Float32Array(one.left.length) }));
    const oneSided = new SectionForms(silence, [], [], start);
    expect(oneSided.figures(start).correlation).toBe(0);
    expect(oneSided.figures(start).balanceDb).toBeLessThan(-60);
    const off = Object.fromEntries(
      Object.entries(start.positions).map(([id, one]) => [id, { ...one, muted: true }]),
    );
    expect(of({ ...start, positions: off })).toMatchObject({
      depthDb: undefined,
      correlation: 0,
      balanceDb: 0,
    });
  });
});

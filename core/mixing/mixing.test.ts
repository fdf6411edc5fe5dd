import { describe, expect, it } from 'vitest';
import { dbToGain, gainToDb } from '../units/index.ts';
import {
  isAudible,
  balanceGains,
  levelGain,
  PLAIN_POSITION,
  positionMatrix,
  samePositions,
  type PositionMix,
  type TrackMix,
} from './index.ts';

const matrix = (change: Partial<PositionMix>) => {
  const out = new Float64Array(4);
  positionMatrix({ ...PLAIN_POSITION, ...change }, out);
  return [...out];
};

describe('levels', () => {
  it('go from decibels to gain and back', () => {
    for (const db of [-60, -20, -6.02, 0, 12]) expect(gainToDb(dbToGain(db))).toBeCloseTo(db, 9);
    expect(dbToGain(-6.0206)).toBeCloseTo(0.5, 5);
  });
  it('end in exact silence at the bottom of the ruler', () => {
    expect(levelGain(-60)).toBe(0);
    expect(levelGain(-59.9)).toBeGreaterThan(0);
    expect(gainToDb(0)).toBe(-Infinity);
  });
});

describe('balance', () => {
  it('is unity in the middle and keeps the power everywhere', () => {
    expect(balanceGains(0).left).toBeCloseTo(1, 12);
    for (const pan of [-1, -0.7, -0.2, 0.3, 1]) {
      const { left, right } = balanceGains(pan);
      expect(left * left + right * right).toBeCloseTo(2, 12);
    }
  });
  it('silences the other side at the ends, and holds what is beyond them', () => {
    expect(balanceGains(1).left).toBeCloseTo(0, 12);
    expect(balanceGains(7)).toEqual(balanceGains(1));
    expect(balanceGains(NaN)).toEqual(balanceGains(-1));
  });
});

describe('the matrix of a position', () => {
  it('passes a plain position unchanged', () => {
    matrix({}).forEach((value, i) => expect(value).toBeCloseTo([1, 0, 0, 1][i], 12));
  });
  it('makes mono at width 0, and leaves only the side beyond the middle at width 2', () => {
    matrix({ width: 0 }).forEach((value) => expect(value).toBeCloseTo(0.5, 12));
    const [ll, lr] = matrix({ width: 2 });
    // Equal channels (pure middle) keep their level: ll + lr = 1; opposite channels (pure side) double: ll − lr = 2.
    expect([ll + lr, ll - lr].map((v) => Math.round(v * 1e9) / 1e9)).toEqual([1, 2]);
  });
  it('turns polarity over and mutes', () => {
    expect(matrix({ inverted: true })[0]).toBeCloseTo(-1, 12);
    expect(matrix({ muted: true }).every((value) => value === 0)).toBe(true);
  });
});

describe('what a person hears', () => {
  const own = (muted: string[], soloed: string[]) => ({ muted: new Set(muted), soloed: new Set(soloed) });
  const track = (id: string, muted = false) => ({ id, muted });
  it('is all that neither the template nor they mute', () => {
    const heard = [track('a'), track('b', true), track('c')].filter((t) =>
      isAudible(t, own(['c'], []), false),
    );
    expect(heard.map((t) => t.id)).toEqual(['a']);
  });
  it('is only what they hear alone, and not even that when the template mutes it', () => {
    const heard = [track('a'), track('b'), track('c', true)].filter((t) =>
      isAudible(t, own([], ['a', 'c']), true),
    );
    expect(heard.map((t) => t.id)).toEqual(['a']);
  });
  it('is everything again when what they heard alone is gone', () => {
    expect(isAudible(track('a'), own([], ['removed']), false)).toBe(true);
  });
});

describe('whether two mixes let the same be heard of every position', () => {
  const mix: TrackMix = {
    gainDb: 0,
    pan: 0,
    muted: false,
    hallSendDb: -20,
    positions: { close: PLAIN_POSITION, far: { ...PLAIN_POSITION, levelDb: -9 } },
  };
  it('is so when only their sum is treated otherwise', () => {
    const louder = { ...mix, gainDb: 3, pan: -1, muted: true, positions: structuredClone(mix.positions) };
    expect(samePositions(mix, louder)).toBe(true);
  });
  it.each(['levelDb', 'pan', 'width', 'delayMs'] as const)('is not when one has another %s', (name) => {
    const far = { ...mix.positions.far, [name]: mix.positions.far[name] + 0.5 };
    expect(samePositions(mix, { ...mix, positions: { ...mix.positions, far } })).toBe(false);
  });
  it('is not when one is muted, missing or added', () => {
    const { close, far } = mix.positions;
    const others: TrackMix['positions'][] = [
      { close, far: { ...far, muted: true } },
      { close },
      { close, tree: far },
      { close, far, tree: far },
    ];
    for (const positions of others) expect(samePositions(mix, { ...mix, positions })).toBe(false);
  });
});

import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { shiftChanges, shiftedTick, shiftMoments, shiftSpans, type Shifted } from './index.ts';

const at = (id: string, tick: number) => ({ id, tick });
const span = (id: string, startTick: number, endTick: number) => ({ id, startTick, endTick });
function after<T extends { id: string }>(list: readonly T[], { update, remove }: Shifted<object>): T[] {
  const changed = new Map(update.map((one) => [one.id, one]));
  return list.filter(({ id }) => !remove.includes(id)).map((one) => ({ ...one, ...changed.get(one.id) }));
}
const put = { at: 3840, ticks: 7680 };
const taken = { at: 3840, ticks: -7680 };

describe('a tick', () => {
  it('moves behind what is put in, and before what is taken out', () => {
    expect([3839, 3840, 5000].map((tick) => shiftedTick(tick, put))).toEqual([3839, 11_520, 12_680]);
    expect([3839, 3840, 11_519, 11_520, 12_000].map((tick) => shiftedTick(tick, taken))).toEqual([
      3839,
      undefined,
      undefined,
      3840,
      4320,
    ]);
  });
});

describe('moments', () => {
  it('go with the bars they stand in', () => {
    expect(shiftMoments([at('a', 0), at('b', 4000), at('c', 12_000)], taken)).toEqual({
      update: [{ id: 'c', tick: 4320 }],
      remove: ['b'],
    });
  });
});

describe('tempos and metres', () => {
  it('that begin where bars are put in move along; the first of all stays', () => {
    expect(shiftChanges([at('a', 0), at('b', 3840), at('c', 5000)], put).update).toEqual([
      { id: 'b', tick: 11_520 },
      { id: 'c', tick: 12_680 },
    ]);
    expect(shiftChanges([at('a', 0), at('b', 960)], { at: 0, ticks: 3840 }).update).toEqual([
      { id: 'b', tick: 4800 },
    ]);
  });
  it('go on to hold behind what is taken out, the last of them', () => {
    expect(shiftChanges([at('a', 0), at('b', 4000), at('c', 5000)], taken)).toEqual({
      update: [{ id: 'c', tick: 3840 }],
      remove: ['b'],
    });
  });
  it('give way where another begins right behind it', () => {
    expect(shiftChanges([at('b', 4000), at('c', 11_520)], taken)).toEqual({
      update: [{ id: 'c', tick: 3840 }],
      remove: ['b'],
    });
  });
  it('of the very beginning are never missing', () => {
    const made = after(
      [at('a', 0), at('b', 20_000)],
      shiftChanges([at('a', 0), at('b', 20_000)], { at: 0, ticks: -3840 }),
    );
    expect(made).toEqual([at('a', 0), at('b', 16_160)]);
  });
});

describe('notes and marks', () => {
  const list = [
    span('before', 0, 3840),
    span('across', 3000, 4000),
    span('whole', 3000, 12_000),
    span('inside', 4000, 5000),
    span('out', 5000, 12_000),
    span('behind', 11_520, 12_000),
  ];
  it('across the place hold on through what is put in', () => {
    expect(
      after(list, shiftSpans(list, put, false)).map(({ id, startTick, endTick }) => [id, startTick, endTick]),
    ).toEqual([
      ['before', 0, 3840],
      ['across', 3000, 11_680],
      ['whole', 3000, 19_680],
      ['inside', 11_680, 12_680],
      ['out', 12_680, 19_680],
      ['behind', 19_200, 19_680],
    ]);
  });
  it('that begin in what is taken out go, or keep what lies behind it', () => {
    const times = (cuts: boolean) =>
      after(list, shiftSpans(list, taken, cuts)).map(({ id, startTick, endTick }) => [
        id,
        startTick,
        endTick,
      ]);
    const kept = [
      ['before', 0, 3840],
      ['across', 3000, 3840],
      ['whole', 3000, 4320],
    ];
    expect(times(false)).toEqual([...kept, ['behind', 3840, 4320]]);
    expect(times(true)).toEqual([...kept, ['out', 3840, 4320], ['behind', 3840, 4320]]);
  });
});

describe('bars put in and taken out again', () => {
  it.each(['a', 'b', 'c', 'd', 'e', 'f'])('leave everything as it was (seed %s)', (seed) => {
    const random = new Random(seed);
    const tick = () => Math.floor(random.next() * 40) * 480;
    const moments = [at('first', 0), ...Array.from({ length: 20 }, (_, i) => at(`m${i}`, tick() + 1))];
    const spans = Array.from({ length: 60 }, (_, i) => {
      const start = tick();
      return span(`s${i}`, start, start + 1 + tick());
    });
    for (let bar = 0; bar < 5; bar++) {
      const [there, back] = [1, -1].map((sign) => ({ at: bar * 3840, ticks: sign * 3840 * (1 + (bar % 3)) }));
      for (const shift of [shiftMoments, shiftChanges]) {
        // Markers at the very beginning go along; what holds from there stays.
        const longer = after(moments, shift(moments, there));
        expect(after(longer, shift(longer, back))).toEqual(moments);
      }
      for (const cuts of [false, true]) {
        const longer = after(spans, shiftSpans(spans, there, cuts));
        expect(after(longer, shiftSpans(longer, back, cuts))).toEqual(spans);
      }
    }
  });
});

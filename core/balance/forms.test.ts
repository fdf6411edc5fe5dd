import { describe, expect, it } from 'vitest';
import { LoudnessMeter, Random } from '../dsp/index.ts';
import { PLAIN_POSITION, type PositionMix, type TrackMix } from '../mixing/index.ts';
import { mixOf } from '../testing/fixtures.ts';
import { heldNoise, planned, played, type PlannedPosition } from '../testing/positions.ts';
import { mixDown, SectionForms, type Apart, type LetGo } from './index.ts';

const RATE = 48_000;
const POSITIONS: PlannedPosition[] = [
  { id: 'close', levelDb: 0, depthDb: 12, delayMs: 0, at: -0.3 },
  { id: 'tree', levelDb: -6, depthDb: 3.6, delayMs: 9.5, at: -0.2 },
  { id: 'far', levelDb: -9, depthDb: -4, delayMs: 31, at: -0.1 },
];
const LATE = Object.fromEntries(POSITIONS.map(({ id, delayMs }) => [id, delayMs * 48]));
const ARRIVALS = POSITIONS.map(({ id, delayMs }) => ({
  id,
  delaySeconds: delayMs / 1000,
  isInverted: false,
  certainty: 1,
}));
const passage = planned(played(1, 6), POSITIONS, 1);
const HELD = 1.5;
const note: LetGo = {
  apart: planned(heldNoise(2, HELD, 3.5), POSITIONS, 2),
  letGo: HELD * RATE,
  late: LATE,
};
const mix = (changes: Record<string, Partial<PositionMix>>, more: Partial<TrackMix> = {}): TrackMix => ({
  ...mixOf([]),
  ...more,
  positions: Object.fromEntries(
    Object.entries(changes).map(([id, change]) => [id, { ...PLAIN_POSITION, ...change }]),
  ),
});

/** A sum written out: level, polarity, delay in frames, width by middle and side, balance by constant power. */
function summed(apart: Apart, { positions }: TrackMix): [Float32Array, Float32Array] {
  const frames = apart[0].left.length;
  const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
  for (const { id, left, right } of apart) {
    const own = positions[id];
    if (!own || own.muted) continue;
    const gain = 10 ** (own.levelDb / 20) * (own.inverted ? -1 : 1);
    const angle = ((own.pan + 1) * Math.PI) / 4;
    const late = Math.round(own.delayMs * 48);
    for (let i = late; i < frames; i++) {
      const [l, r] = [left[i - late], right[i - late]];
      const [middle, side] = [(l + r) / 2, ((l - r) / 2) * own.width];
      out[0][i] += gain * Math.SQRT2 * Math.cos(angle) * (middle + side);
      out[1][i] += gain * Math.SQRT2 * Math.sin(angle) * (middle - side);
    }
  }
  return out;
}
const loudness = ([left, right]: readonly [Float32Array, Float32Array]) => {
  const meter = new LoudnessMeter(RATE, true);
  meter.process(left, right, 0, left.length);
  return meter.integrated;
};
const power = (side: Float32Array, from = 0, to = side.length) =>
  side.subarray(from, to).reduce((sum, v) => sum + v * v, 0);

const MIXES: [string, TrackMix][] = [
  ['one position', mix({ tree: { levelDb: -3 } })],
  ['all of them', mix({ close: { levelDb: -6 }, tree: {}, far: { levelDb: -2 } })],
  ['one turned over', mix({ close: { inverted: true }, tree: {} })],
  ['panned and narrow', mix({ close: { pan: 0.5, width: 0.4 }, tree: { pan: -0.2, width: 1.6 } })],
  ['delayed', mix({ close: { delayMs: 9.5 }, tree: { levelDb: 3 } })],
];

describe('the sum of positions', () => {
  it.each(MIXES)('is what levels, widths, balance, polarity and delays make of it: %s', (_name, one) => {
    const [left, right] = mixDown(passage, one);
    const [ownLeft, ownRight] = summed(passage, one);
    const off = left.reduce(
      (most, v, i) => Math.max(most, Math.abs(v - ownLeft[i]), Math.abs(right[i] - ownRight[i])),
      0,
    );
    expect(off).toBeLessThan(1e-6);
  });

  it.each(MIXES)('is as loud and as wide as its figures say without being summed: %s', (_name, one) => {
    const heard = summed(passage, one);
    const figures = new SectionForms(passage, [], [], one).figures(one);
    expect(Math.abs(figures.loudness - loudness(heard))).toBeLessThan(0.15);
    const middle = heard[0].map((v, i) => v + heard[1][i]);
    const side = heard[0].map((v, i) => v - heard[1][i]);
    const sideDb = 10 * Math.log10(power(side) / power(middle));
    expect(Math.abs(figures.sideDb - sideDb)).toBeLessThan(0.3);
    const [ll, rr] = heard.map((channel) => power(channel));
    const lr = heard[0].reduce((sum, v, i) => sum + v * heard[1][i], 0);
    expect(figures.correlation).toBeCloseTo(lr / Math.sqrt(ll * rr), 1);
    expect(figures.depthDb).toBeUndefined();
  });

  it('is not made quieter by silence before and after', () => {
    const framed = passage.map(({ id, left, right }) => {
      const padded = (side: Float32Array) => {
        const out = new Float32Array(side.length + 8 * RATE);
        out.set(side, 4 * RATE);
        return out;
      };
      return { id, left: padded(left), right: padded(right) };
    });
    const one = mix({ close: {}, tree: {} });
    const plain = new SectionForms(passage, [], [], one).figures(one).loudness;
    expect(new SectionForms(framed, [], [], one).figures(one).loudness - plain).toBeGreaterThan(-0.3);
  });
});

/** Steady noise, whose delayed copies have nothing in common: powers add up. */
const steady = planned(heldNoise(9, 6, 6), POSITIONS, 5);

describe('depth', () => {
  it.each(POSITIONS)(
    'of the $id position alone is as planted, within 1 dB, or a little more where little is direct',
    ({ id, depthDb }) => {
      const alone = mix({ [id]: {} });
      expect(
        Math.abs((new SectionForms(steady, [note], ARRIVALS, alone).figures(alone).depthDb ?? 99) - depthDb),
      ).toBeLessThan(depthDb < 0 ? 1.5 : 1);
    },
  );

  it.each([
    [0, 0, 0],
    [-6, 0, 0],
    [-12, -3, 6],
    [0, -20, -10],
  ])(
    'of a mix at %s, %s and %s dB is that of the sums of direct sound and rooms, within 1 dB',
    (...levels) => {
      // Direct sounds come at different times and noise is unlike itself later: their powers add, as those of the rooms do.
      const parts = POSITIONS.map(({ levelDb, depthDb }, i) => {
        const direct = 10 ** ((levelDb + levels[i]) / 10);
        return { direct, room: direct * 10 ** (-depthDb / 10) };
      });
      const sum = (name: 'direct' | 'room') => parts.reduce((all, one) => all + one[name], 0);
      const expected = 10 * Math.log10(sum('direct') / sum('room'));
      const one = mix(Object.fromEntries(POSITIONS.map(({ id }, i) => [id, { levelDb: levels[i] }])));
      expect(
        Math.abs((new SectionForms(steady, [note], ARRIVALS, one).figures(one).depthDb ?? 99) - expected),
      ).toBeLessThan(1);
    },
  );

  describe('of positions that others were switched off beside', () => {
    const all = mix({ close: {}, tree: { levelDb: -3 }, far: { levelDb: 2 } });
    const full = new SectionForms(steady, [note], ARRIVALS, all);
    const without = (...gone: string[]) => {
      const keeps = ({ id }: { id: string }) => !gone.includes(id);
      return (told?: ReadonlyMap<string, number>) => {
        const one = mix(Object.fromEntries(Object.entries(all.positions).filter(([id]) => keeps({ id }))));
        const forms = new SectionForms(
          steady.filter(keeps),
          [{ ...note, apart: note.apart.filter(keeps) }],
          ARRIVALS.filter(keeps),
          one,
          undefined,
          told,
        );
        return { forms, depthDb: forms.figures(one).depthDb };
      };
    };
    const silent = (...ids: string[]) =>
      full.figures({
        ...all,
        positions: Object.fromEntries(
          Object.entries(all.positions).map(([id, own]) => [
            id,
            ids.includes(id) ? { ...own, muted: true } : own,
          ]),
        ),
      }).depthDb;
    it('stays what it was when more of them told it, one alone as well', () => {
      expect(without('far')(full.ratios).depthDb).toBeCloseTo(silent('far') ?? 99, 6);
      expect(without('far', 'tree')(full.ratios).depthDb).toBeCloseTo(silent('far', 'tree') ?? 99, 6);
      expect(without('far', 'tree')().depthDb).toBeUndefined();
    });
    it('is told anew where as many are heard, or one that was not', () => {
      const fresh = without('far')();
      expect(
        without('far')(
          new Map([
            ['close', 99],
            ['tree', 99],
          ]),
        ).depthDb,
      ).toBe(fresh.depthDb);
      expect(
        without('far')(
          new Map([
            ['close', 99],
            ['mid', 99],
            ['out', 9],
          ]),
        ).depthDb,
      ).toBe(fresh.depthDb);
      expect([...fresh.forms.ratios.keys()]).toEqual(['close', 'tree']);
    });
  });

  describe.each([1, 2, 3])('of tones, whose room stands higher here and lower there, by seed %i', (seed) => {
    const random = new Random(`standing ${seed}`);
    /** A note whose room is up to 5 dB off at each position for itself. */
    const uneven = (n: number): LetGo => ({
      apart: planned(heldNoise(10 * seed + n, HELD, 2.2), POSITIONS, 30 * seed + n).map(
        ({ id, left, right }) => {
          const off = 10 ** (random.between(-5, 5) / 20);
          const after = (side: Float32Array) => side.map((v, i) => (i > HELD * RATE ? v * off : v));
          return { id, left: after(left), right: after(right) };
        },
      ),
      letGo: HELD * RATE,
      stop: HELD * RATE,
      late: LATE,
    });
    const all = mix({ close: {}, tree: {}, far: {} });
    const off = (notes: readonly LetGo[], arrivals: typeof ARRIVALS) => {
      const forms = new SectionForms(steady, notes, arrivals, all);
      return POSITIONS.map(({ id, depthDb }) =>
        Math.abs((forms.figures(mix({ [id]: {} })).depthDb ?? 99) - depthDb),
      );
    };
    const notes = Array.from({ length: 5 }, (_, n) => uneven(n));
    it('goes by distances the more, the less notes agree', () => {
      for (const one of off(notes, ARRIVALS)) expect(one).toBeLessThan(5);
    });
    it('goes by when notes rise where arrivals are not sure', () => {
      const unsure = ARRIVALS.map((one) => ({ ...one, delaySeconds: 0.001 * seed, certainty: 0.1 }));
      expect(off(notes, unsure)).toEqual(off(notes, ARRIVALS));
      expect(off(notes, [])).toEqual(off(notes, ARRIVALS));
    });
  });

  it('is the same by several notes, however loud each of them is', () => {
    const softer = (seed: number, gain: number): LetGo => ({
      apart: planned(
        heldNoise(seed, HELD, 3.5).map((v) => v * gain),
        POSITIONS,
        seed,
      ),
      letGo: HELD * RATE,
      late: LATE,
    });
    for (const { id, depthDb } of POSITIONS.slice(0, 2)) {
      const alone = mix({ [id]: {} });
      const forms = new SectionForms(steady, [note, softer(21, 0.1), softer(22, 3)], ARRIVALS, alone);
      expect(Math.abs((forms.figures(alone).depthDb ?? 99) - depthDb)).toBeLessThan(1);
      // As wide as it was recorded, whichever the notes are.
      const one = new SectionForms(steady, [note], ARRIVALS, alone).figures(alone).balanceDb;
      expect(forms.figures(alone).balanceDb).toBeCloseTo(one, 0);
    }
  });
  it('is that of the position, however much later it is made to come', () => {
    for (const delayMs of [0, 40, 95]) {
      const alone = mix({ close: { delayMs } });
      const forms = new SectionForms(steady, [note], ARRIVALS, alone);
      expect(Math.abs((forms.figures(alone).depthDb ?? 99) - 12)).toBeLessThan(1);
    }
  });
  it('is not known of what has no room, and silence has no loudness', () => {
    const dry = POSITIONS.map((one) => ({ ...one, depthDb: 200 }));
    const cut = (apart: Apart): Apart =>
      apart.map(({ id, left, right }) => {
        const end = (side: Float32Array) => side.map((v, i) => (i < HELD * RATE + 2000 ? v : 0));
        return { id, left: end(left), right: end(right) };
      });
    const alone = mix({ close: {}, tree: {} });
    const silent = steady.map(({ id, left }) => {
      const nothing = new Float32Array(left.length);
      return { id, left: nothing, right: nothing };
    });
    const held = { ...note, apart: cut(planned(heldNoise(2, HELD, 3.5), dry, 2)) };
    expect(new SectionForms(steady, [held], ARRIVALS, alone).figures(alone).depthDb).toBeUndefined();
    expect(new SectionForms(silent, [], [], alone).figures(alone).loudness).toBe(-Infinity);
  });

  it('grows less with what is sent to the hall, by its power', () => {
    const hall = { fromLeft: 2, fromRight: 2 };
    const dry = mix({ close: {} });
    const sent = mix({ close: {} }, { hallSendDb: -6.0206 });
    const forms = new SectionForms(steady, [note], ARRIVALS, dry, hall);
    // Room of −12 dB and half the whole from the hall: 1 + 0.063 in all, of which the hall gives back a half.
    const expected = 10 * Math.log10(1 / (10 ** -1.2 + (1 + 10 ** -1.2) * 0.25 * 2));
    expect(Math.abs((forms.figures(sent).depthDb ?? 99) - expected)).toBeLessThan(0.6);
    expect(forms.figures(sent).loudness - forms.figures(dry).loudness).toBeCloseTo(10 * Math.log10(1.5), 1);
    expect(forms.figures(sent).sideDb).toBeGreaterThan(forms.figures(dry).sideDb);
  });
});

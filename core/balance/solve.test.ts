import { describe, expect, it } from 'vitest';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { mixOf } from '../testing/fixtures.ts';
import { heldNoise, planned, type PlannedPosition } from '../testing/positions.ts';
import { DistancePath, lightMix, SectionForms, solve, type Aims } from './index.ts';

const RATE = 48_000;
/** As in a hall: by 6 dB less with every doubling of the distance, the nearest at two metres. */
const DEPTHS = { close: 11, tree: 3.5, far: -4 };
const POSITIONS: PlannedPosition[] = [
  { id: 'close', levelDb: 0, depthDb: DEPTHS.close, delayMs: 0, at: -0.3 },
  { id: 'tree', levelDb: -5, depthDb: DEPTHS.tree, delayMs: 8, at: -0.2 },
  { id: 'far', levelDb: -8, depthDb: DEPTHS.far, delayMs: 27, at: -0.1 },
];
const LATE = Object.fromEntries(POSITIONS.map(({ id, delayMs }) => [id, delayMs * 48]));
const ARRIVALS = POSITIONS.map(({ id, delayMs }) => ({
  id,
  delaySeconds: delayMs / 1000,
  isInverted: false,
  certainty: 1,
}));
// Steady noise, whose delayed copies have nothing in common: powers add up.
const passage = planned(heldNoise(5, 5, 5), POSITIONS, 3);
const note = {
  apart: planned(heldNoise(6, 1.5, 3.5), POSITIONS, 4),
  letGo: 1.5 * RATE,
  late: LATE,
};
const start: TrackMix = {
  ...mixOf([]),
  positions: {
    close: { ...PLAIN_POSITION, levelDb: -4 },
    tree: PLAIN_POSITION,
    far: { ...PLAIN_POSITION, levelDb: -60 },
  },
};
const forms = new SectionForms(passage, [note], ARRIVALS, start, { fromLeft: 1, fromRight: 1 });
const now = forms.figures(start);
const levels = (mix: TrackMix) => Object.values(mix.positions).map(({ levelDb }) => levelDb);
/** Depth of a mix by the powers that were planted. */
const depthOf = (mix: TrackMix) => {
  let [direct, room] = [0, 0];
  for (const { id, levelDb, depthDb } of POSITIONS) {
    const own = mix.positions[id];
    if (!own || own.levelDb <= -60) continue;
    const power = 10 ** ((levelDb + own.levelDb) / 10);
    direct += power;
    room += power * 10 ** (-depthDb / 10);
  }
  return 10 * Math.log10(direct / room);
};

describe('a way of two positions', () => {
  it('is there, of one there is none', () => {
    const two = passage.filter(({ id }) => id !== 'tree');
    const held = { ...note, apart: note.apart.filter(({ id }) => id !== 'tree') };
    const known = ARRIVALS.filter(({ id }) => id !== 'tree');
    const { close, far } = start.positions;
    const mix = { ...start, positions: { close, far } };
    const path = new DistancePath(new SectionForms(two, [held], known, mix), mix);
    expect(path.nearest).toBeGreaterThan(path.furthest + 8);
    expect(() => new DistancePath(new SectionForms([two[0]], [], known, mix), mix)).toThrow('two positions');
  });
});

describe('the way from near to far', () => {
  const path = new DistancePath(forms, start);
  it('leads from the nearest position to the furthest, equally loud everywhere', () => {
    expect(Math.abs(path.nearest - DEPTHS.close)).toBeLessThan(1);
    // Where there is little direct sound left, its level cannot be told so closely.
    expect(Math.abs(path.furthest - DEPTHS.far)).toBeLessThan(2.5);
    let before = Infinity;
    for (let place = 0; place <= 1.001; place += 0.1) {
      const there = { ...start, positions: { ...start.positions } };
      for (const [id, levelDb] of Object.entries(path.at(place)))
        there.positions[id] = { ...there.positions[id], levelDb };
      expect(Math.abs(forms.figures(there).loudness - now.loudness)).toBeLessThan(0.15);
      const depth = depthOf(there);
      expect(depth).toBeLessThan(before + 0.01);

      before = depth;
    }
  });
  it('leaves out what would lie more than 40 dB under the loudest', () => {
    let off = 0;
    for (let place = 0; place <= 1.001; place += 0.05) {
      const there = Object.values(path.at(place));
      const loudest = Math.max(...there);
      for (const level of there)
        if (level === -60) off++;
        else expect(level).toBeGreaterThan(loudest - 40.1);
    }
    expect(off).toBeGreaterThan(0);
    expect([path.at(0).far, path.at(1).close]).toEqual([-60, -60]);
  });
  it('goes smoothly: no position jumps', () => {
    const all = Array.from({ length: 101 }, (_, i) => path.at(i / 100));
    for (const id of ['close', 'tree', 'far'])
      for (let i = 1; i < all.length; i++)
        if (Math.min(all[i][id], all[i - 1][id]) > -30)
          expect(Math.abs(all[i][id] - all[i - 1][id])).toBeLessThan(1.6);
  });
  it('knows where a mix stands on it, and that a touched one has left it', () => {
    const there = (place: number, touch = 0): TrackMix => {
      const at = path.at(place);
      return {
        ...start,
        positions: Object.fromEntries(
          Object.entries(at).map(([id, levelDb]) => [
            id,
            { ...PLAIN_POSITION, levelDb: levelDb + (id === 'tree' ? touch : 0) },
          ]),
        ),
      };
    };
    for (const place of [0, 0.25, 0.5, 0.8, 1]) expect(path.placeOf(there(place))).toBeCloseTo(place, 1);
    // Moved alike, it is as near as before.
    const louder = there(0.5);
    for (const [id, own] of Object.entries(louder.positions))
      louder.positions[id] = { ...own, levelDb: own.levelDb - 3 };
    expect(path.placeOf(louder)).toBeCloseTo(0.5, 1);
    expect(path.placeOf(there(0.5, 2))).toBeUndefined();
    expect(path.placeOf(there(0.5, -2))).toBeUndefined();
  });
  it('takes from a position that was recorded louder what it has more', () => {
    const louder = (apart: typeof passage) =>
      apart.map(({ id, left, right }) => ({
        id,
        left: id === 'tree' ? left.map((value) => value * 2) : left,
        right: id === 'tree' ? right.map((value) => value * 2) : right,
      }));
    const other = new SectionForms(
      louder(passage),
      [{ ...note, apart: louder(note.apart) }],
      ARRIVALS,
      start,
    );
    const way = new DistancePath(other, start);
    for (const place of [0.3, 0.5, 0.7]) {
      const [before, after] = [path.at(place), way.at(place)];
      // Twice the height is 6 dB against what stayed as it was; levels are kept in tenths.
      expect(Math.abs(after.tree - after.far - (before.tree - before.far) + 6.02)).toBeLessThan(0.11);
    }
  });
  it('needs two positions whose depth is known', () => {
    expect(() => new DistancePath(new SectionForms(passage, [], [], start), start)).toThrow(RangeError);
    expect(
      () => new DistancePath(new SectionForms(passage.slice(0, 1), [note], ARRIVALS, start), start),
    ).toThrow(RangeError);
  });
});

describe('the solver', () => {
  const plain = { hall: false, width: false };
  it.each<Aims>([
    { loudness: now.loudness + 3 },
    { depthDb: 9 },
    { depthDb: 0 },
    { loudness: now.loudness - 6, depthDb: 6 },
    { loudness: now.loudness, depthDb: -2, sideDb: now.sideDb },
  ])('reaches what its positions can give, within half a decibel: %o', (aims) => {
    // Positions differ in width: both aims at once need another freedom.
    const { mix, reached } = solve(forms, start, aims, { ...plain, width: aims.sideDb !== undefined });
    for (const one of reached) expect(one).toMatchObject({ isMet: true });
    const figures = forms.figures(mix);
    if (aims.loudness !== undefined) expect(Math.abs(figures.loudness - aims.loudness)).toBeLessThan(0.5);
    // Judged by what was planted, not by what was measured; narrowing takes room away too.
    if (aims.depthDb !== undefined && aims.sideDb === undefined)
      expect(Math.abs(depthOf(mix) - aims.depthDb)).toBeLessThan(2);
  });
  it('moves as little as it takes: nothing when all is reached, all alike when only loudness is wanted', () => {
    expect(levels(solve(forms, start, { loudness: now.loudness, depthDb: now.depthDb }, plain).mix)).toEqual(
      levels(start),
    );
    const { mix } = solve(forms, start, { loudness: now.loudness + 3 }, plain);
    expect(mix.positions.close.levelDb - start.positions.close.levelDb).toBeLessThan(4.5);
    expect(mix.positions.tree.levelDb - start.positions.tree.levelDb).toBeGreaterThan(1.5);
    expect(mix.positions.far.levelDb).toBeLessThanOrEqual(-24);
  });
  it('comes as near as it can to what cannot be reached, and says how far that is', () => {
    const { mix, reached } = solve(forms, start, { depthDb: 25 }, plain);
    expect(reached[0]).toMatchObject({ aim: 'depthDb', wanted: 25, isMet: false });
    expect(Math.abs(reached[0].reach[1] - DEPTHS.close)).toBeLessThan(1);
    expect(Math.abs(reached[0].after - DEPTHS.close)).toBeLessThan(1.5);
    expect(depthOf(mix)).toBeGreaterThan(10);
    const far = solve(forms, start, { depthDb: -20 }, plain);
    expect(far.reached[0].isMet).toBe(false);
    expect(Math.abs(far.reached[0].reach[0] - DEPTHS.far)).toBeLessThan(2.5);
  });
  it('leaves what is off alone where opening it brings nothing', () => {
    // Nearer than the close position nothing comes: what is further away stays off, though it would do no harm.
    const { far, tree } = start.positions;
    const dry: TrackMix = {
      ...start,
      positions: { close: PLAIN_POSITION, tree: { ...tree, levelDb: -60 }, far },
    };
    const { mix, reached } = solve(forms, dry, { depthDb: 25 }, plain);
    expect(reached[0].isMet).toBe(false);
    expect([mix.positions.tree.levelDb, mix.positions.far.levelDb]).toEqual([-60, -60]);
    // Further away it has to be opened.
    const opened = solve(forms, dry, { depthDb: 2 }, plain);
    expect(opened.reached[0].isMet).toBe(true);
    expect(Math.max(opened.mix.positions.tree.levelDb, opened.mix.positions.far.levelDb)).toBeGreaterThan(
      -20,
    );
  });
  it('sends to the hall what is to be further away than it was recorded, where it may', () => {
    const { mix, reached } = solve(
      forms,
      start,
      { depthDb: -7, loudness: now.loudness },
      { hall: true, width: false },
    );
    expect(reached.map(({ isMet }) => isMet)).toEqual([true, true]);
    expect(mix.hallSendDb).toBeGreaterThan(-20);
    // What asks for no hall leaves it shut, all the way.
    const near = solve(forms, start, { depthDb: DEPTHS.close }, { hall: true, width: false });
    expect(near.mix.hallSendDb).toBe(-60);
    // Brought nearer than its close position it cannot be, hall or not.
    expect(solve(forms, start, { depthDb: 20 }, { hall: true, width: false }).reached[0].isMet).toBe(false);
  });
  it('passes over a position that was recorded silent: it changes nothing, and its figures are none', () => {
    const silent = (frames: number) => ({
      id: 'spare',
      left: new Float32Array(frames),
      right: new Float32Array(frames),
    });
    const more = new SectionForms(
      [...passage, silent(passage[0].left.length)],
      [{ ...note, apart: [...note.apart, silent(note.apart[0].left.length)] }],
      ARRIVALS,
      start,
    );
    const off = { ...PLAIN_POSITION, levelDb: -60 };
    const mix = { ...start, positions: { ...start.positions, spare: off } };
    for (const aims of [{ depthDb: 0 }, { loudness: now.loudness - 3 }] satisfies Aims[]) {
      const own = solve(forms, start, aims, plain);
      const beside = solve(more, mix, aims, plain);
      expect(beside.reached[0].isMet).toBe(true);
      expect(beside.reached[0].reach.every(Number.isFinite)).toBe(true);
      for (const [i, bound] of own.reached[0].reach.entries())
        expect(beside.reached[0].reach[i]).toBeCloseTo(bound, 6);
      for (const id of ['close', 'tree', 'far'])
        expect(Math.abs(beside.mix.positions[id].levelDb - own.mix.positions[id].levelDb)).toBeLessThan(0.2);
    }
  });
  it('makes it wider or narrower where it may', () => {
    for (const move of [-3, 2]) {
      const wanted = now.sideDb + move;
      const { mix, reached } = solve(
        forms,
        start,
        { sideDb: wanted, loudness: now.loudness },
        { hall: false, width: true },
      );
      expect(reached.map(({ isMet }) => isMet)).toEqual([true, true]);
      const widths = [mix.positions.close.width, mix.positions.tree.width];
      for (const width of widths) expect(Math.sign(width - 1)).toBe(Math.sign(move));
    }
  });
  it('knows how narrow and wide it can become, where it may and where it may not', () => {
    const reachOf = (width: boolean) =>
      solve(forms, start, { sideDb: -50 }, { hall: false, width }).reached[0].reach;
    const [free, bound] = [reachOf(true), reachOf(false)];
    // A mono position has no side at all.
    expect(free[0]).toBeLessThan(-60);
    expect(bound[0]).toBeGreaterThan(-30);
    // Twice as wide is four times the power of the side.
    expect(free[1] - bound[1]).toBeCloseTo(20 * Math.log10(2), 0);
  });
  it('keeps levels within their ruler, whatever is asked', () => {
    for (const loudness of [20, -120]) {
      const { mix, reached } = solve(forms, start, { loudness }, plain);
      for (const level of levels(mix)) {
        expect(level).toBeLessThanOrEqual(12);
        expect(level).toBeGreaterThanOrEqual(-60);
      }
      expect(reached[0].isMet).toBe(false);
    }
  });
});

describe('a light mix', () => {
  const full: TrackMix = {
    ...start,
    positions: {
      close: { ...PLAIN_POSITION, levelDb: -6 },
      tree: PLAIN_POSITION,
      far: { ...PLAIN_POSITION, levelDb: -3 },
    },
  };
  it('stands in for the full one within the error it states', () => {
    const light = lightMix(forms, full, 2);
    if (!light) throw new Error('no light mix');
    const [a, b] = [forms.figures(full), forms.figures(light.mix)];
    const off = Math.hypot(a.loudness - b.loudness, a.sideDb - b.sideDb, (a.depthDb ?? 0) - (b.depthDb ?? 0));
    expect(light.errorDb).toBeCloseTo(off, 3);
    expect(off).toBeLessThan(1);
    // By what was planted as well; narrowing takes some room away.
    expect(Math.abs(depthOf(light.mix) - depthOf(full))).toBeLessThan(3);
    const open = Object.values(light.mix.positions).filter(({ levelDb }) => levelDb > -60);
    expect(open).toHaveLength(2);
  });
  it('is of those positions that come nearest to it, wherever they stand in the list', () => {
    for (const id of ['close', 'tree', 'far'] as const) {
      const others = { ...PLAIN_POSITION, levelDb: -42 };
      const mostly = { close: others, tree: others, far: others, [id]: { ...PLAIN_POSITION, width: 0.9 } };
      const one = lightMix(forms, { ...start, positions: mostly }, 1);
      expect(one?.ids).toEqual([id]);
      expect(one?.errorDb).toBeLessThan(0.5);
    }
  });
  it('of one position is further off, and says so', () => {
    const one = lightMix(forms, full, 1);
    expect(one?.ids).toHaveLength(1);
    expect(one?.errorDb ?? 0).toBeGreaterThan(lightMix(forms, full, 2)?.errorDb ?? 0);
  });
  it('is none where there are no more positions', () => {
    expect(lightMix(forms, start, 2)).toBeUndefined();
  });
});

import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { FOUNDRY_STAGE, HARBOUR_HALL, directArrival, type HallModel, type Point } from '../rooms/index.ts';
import { noisy, played, room } from '../testing/positions.ts';
import { arrivalsOf, LEAST_CERTAINTY } from './index.ts';

const RATE = 48_000;

describe('arrivals', () => {
  const halls: [string, HallModel, Point][] = [
    ['Harbour Hall', HARBOUR_HALL, { x: -4, y: 3, z: 1.2 }],
    ['Foundry Stage', FOUNDRY_STAGE, { x: 3.5, y: 5, z: 1.1 }],
  ];
  it.each(halls)('in %s are those of the geometry, within a frame', (_name, hall, seat) => {
    const apart = room(hall, seat, played(3, 8));
    const expected = hall.mics.map((mic) => {
      const ends = [mic.left, mic.right].map((point) =>
        mic.follows ? { x: seat.x + point.x, y: seat.y + point.y, z: seat.z + point.z } : point,
      );
      return ends.reduce((sum, end) => sum + directArrival(seat, end).delayFrames, 0) / 2;
    });
    const found = arrivalsOf(apart);
    found.forEach(({ id, delaySeconds, isInverted, certainty }, i) => {
      expect(id).toBe(hall.mics[i].id);
      expect(certainty).toBeGreaterThan(LEAST_CERTAINTY);
      expect(isInverted).toBe(false);
      expect(Math.abs(delaySeconds * RATE - (expected[i] - expected[0]))).toBeLessThan(1);
    });
  });

  it.each([1, 2, 3, 4])(
    'of noisy positions, late and turned over by seed %i, are found all the same',
    (seed) => {
      const random = new Random(seed);
      const planted = [0, random.between(2, 15), random.between(10, 28)];
      const turned = [false, random.next() < 0.5, random.next() < 0.5];
      const apart = noisy(played(seed + 20, 8), planted, turned, -55, seed);
      arrivalsOf(apart).forEach(({ delaySeconds, isInverted }, i) => {
        expect(Math.abs(delaySeconds * 1000 - planted[i]) * 48).toBeLessThan(1);
        expect(isInverted).toBe(turned[i]);
      });
    },
  );

  it('are told against the earliest, whichever that is', () => {
    const found = arrivalsOf(noisy(played(9, 6), [12, 0, 5], [false, false, false], -60, 9));
    expect(found.map(({ delaySeconds }) => Math.round(delaySeconds * 1000))).toEqual([12, 0, 5]);
  });

  it.each(['left', 'right'] as const)('are told where the %s of a position is silent', (silent) => {
    const sound = played(17, 6);
    const late = (frames: number) => Float32Array.from(sound, (_, i) => sound[i - frames] ?? 0);
    const pair = (id: string, frames: number) => ({ id, left: late(frames), right: late(frames) });
    const bare = (id: string, frames: number) => ({
      ...pair(id, frames),
      [silent]: new Float32Array(sound.length),
    });
    for (const apart of [
      [bare('a', 10), pair('b', 490)],
      [pair('a', 10), bare('b', 490)],
      [bare('a', 10), bare('b', 490)],
    ]) {
      const [, second] = arrivalsOf(apart);
      expect(second.delaySeconds * RATE).toBeCloseTo(480, 0);
      expect(second.certainty).toBeGreaterThan(0.5);
    }
  });

  it('are told where a position is silent for a while', () => {
    const sound = played(21, 8);
    const late = (frames: number) => Float32Array.from(sound, (_, i) => sound[i - frames] ?? 0);
    const second = late(490).fill(0, 0, 4 * RATE);
    const found = arrivalsOf([
      { id: 'a', left: late(10), right: late(10) },
      { id: 'b', left: second, right: second },
    ]);
    expect(found[1].delaySeconds * RATE).toBeCloseTo(480, 0);
    expect(found[1].certainty).toBeGreaterThan(LEAST_CERTAINTY);
  });

  it('of what has nothing in common are told to be unsure, also where a side is silent', () => {
    const [a, b] = [played(18, 6), played(19, 6)];
    const nothing = new Float32Array(a.length);
    expect(
      arrivalsOf([
        { id: 'a', left: a, right: a },
        { id: 'b', left: b, right: b },
      ])[1].certainty,
    ).toBeLessThan(LEAST_CERTAINTY);
    const [, bare] = arrivalsOf([
      { id: 'a', left: nothing, right: a },
      { id: 'b', left: b, right: nothing },
    ]);
    expect(bare.certainty).toBeLessThan(LEAST_CERTAINTY);
  });

  it.each([48, -96])('of pairs whose sides hear it %s frames apart are those of their middles', (apart) => {
    const sound = played(11, 6);
    const late = (frames: number) => Float32Array.from(sound, (_, i) => sound[i - frames] ?? 0);
    const found = arrivalsOf([
      { id: 'a', left: late(100), right: late(100 + apart) },
      { id: 'b', left: late(580), right: late(580 + apart / 2) },
    ]);
    expect(found.map(({ certainty }) => certainty > 0.5)).toEqual([true, true]);
    // 580 + apart / 4 against 100 + apart / 2.
    expect(found[1].delaySeconds * RATE).toBeCloseTo(480 - apart / 4, 0);
  });

  it('of unlike sounds are not certain, and silent positions are left out', () => {
    const noise = (seed: number) => {
      const random = new Random(seed);
      return Float32Array.from({ length: 4 * RATE }, () => random.between(-0.2, 0.2));
    };
    const silent = new Float32Array(4 * RATE);
    const found = arrivalsOf([
      { id: 'a', left: noise(1), right: noise(2) },
      { id: 'b', left: noise(3), right: noise(4) },
      { id: 'c', left: silent, right: silent },
    ]);
    expect(found.map(({ id }) => id)).toEqual(['a', 'b']);
    expect(found[1].certainty).toBeLessThan(LEAST_CERTAINTY);
    expect(arrivalsOf([{ id: 'c', left: silent, right: silent }])).toEqual([]);
  });
});

import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import type { Measuring } from './measuring.ts';
import { sameTakes } from './same-takes.ts';
import type { HeardSample } from './zones.ts';

/** Which takes are none of their own, over noises whose likeness is known: of x and x + a·y, 1 / √(1 + a²). */

const RATE = 48_000;
const FRAMES = RATE;
const noise = (seed: number) => whiteNoise(FRAMES, seed);
const heard = (channel: Float32Array): HeardSample => ({ channels: [channel, channel], rate: RATE });
/** A noise that is so much like another one. */
function like(seed: number, likeness: number, other: number): HeardSample {
  const a = Math.sqrt(1 / likeness ** 2 - 1);
  const [x, y] = [noise(seed), noise(other)];
  return heard(x.map((value, i) => value + a * y[i]));
}
const take = (sample: string, key: number, number: number, more: Partial<Zone> = {}) =>
  plainZone({
    samples: { near: { sample } },
    rootKey: key,
    keyLow: key - 1,
    keyHigh: key,
    take: number,
    takes: 2,
    ...more,
  });

function told(zones: readonly Zone[], audio: Readonly<Record<string, HeardSample>>) {
  const context: Measuring = {
    articulation: { id: 'staccato', name: 'staccato', zones: [...zones] },
    layers: [{ zones: [...zones], touch: { velocity: 90, dynamics: 80, vibrato: 64 } }],
    near: 'near',
    sound: (zone) => audio[zone.samples.near.sample],
  };
  return sameTakes(context).map(
    ({ kind, key, take: own, otherKey, otherTake }) => `${kind} ${key}/${own} of ${otherKey}/${otherTake}`,
  );
}

describe('two takes of a note', () => {
  const zones = [take('a', 60, 0), take('b', 60, 1)];
  it.each([
    [0.9999, ['repeated 60/1 of 60/0']],
    [0.999, []],
    [0.5, []],
  ])('that are alike by %s', (likeness, expected) => {
    expect(told(zones, { a: heard(noise(1)), b: like(1, likeness, 2) })).toEqual(expected);
  });
  it('that name one recording are told by that, unless they begin at other places of it', () => {
    const one = { a: heard(noise(1)) };
    expect(told([take('a', 60, 0), take('a', 60, 1)], one)).toEqual(['repeated 60/1 of 60/0']);
    expect(told([take('a', 60, 0), take('a', 60, 1, { startFrame: 4800 })], one)).toEqual([]);
  });
  it('are not told where one cannot be heard, or runs at another rate', () => {
    const a = heard(noise(1));
    expect(told(zones, { a })).toEqual([]);
    expect(told(zones, { a, b: { ...a, rate: 44_100 } })).toEqual([]);
  });
});

describe('takes of neighbours', () => {
  const zones = (apart: number) => [
    take('a', 60, 0),
    take('b', 60, 1),
    take('c', 60 + apart, 0),
    take('d', 60 + apart, 1),
  ];
  /** The same noise read faster, so that it lies so many semitones higher. */
  const moved = (seed: number, semitones: number): HeardSample => {
    const x = noise(seed);
    const pace = 2 ** (semitones / 12);
    return heard(
      Float32Array.from({ length: Math.floor((FRAMES - 1) / pace) }, (_, i) => {
        const at = Math.floor(i * pace);
        return x[at] + (i * pace - at) * (x[at + 1] - x[at]);
      }),
    );
  };
  const others = { a: heard(noise(1)), b: heard(noise(2)), c: heard(noise(3)) };
  it('that share a file are told, the zone that was recorded at another key being the one that borrows', () => {
    const list = [...zones(3).slice(0, 3), take('b', 60, 1, { keyLow: 62, keyHigh: 63 })];
    expect(told(list, others)).toEqual(['borrowed 63/1 of 60/1']);
  });
  it('that have nothing in common are left alone', () => {
    expect(told(zones(3), { ...others, d: heard(noise(4)) })).toEqual([]);
    expect(told(zones(3), { ...others, d: moved(9, 3) })).toEqual([]);
  });
  it('are not looked for beyond five semitones', () => {
    expect(told(zones(6), { ...others, d: moved(2, 6) })).toEqual([]);
  });
});

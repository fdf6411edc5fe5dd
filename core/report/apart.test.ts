import { describe, expect, it } from 'vitest';
import { CONTROLLER } from '../music/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { fadeIn, measuringOf } from '../testing/measuring.ts';
import { played } from '../testing/positions.ts';
import type { Zone } from '../catalogue/index.ts';
import { heardApart } from './apart.ts';
import type { HeardSample } from './zones.ts';

/** Positions that hear the same sound later, turned over, softer, at another rate, or something else. */

const RATE = 48_000;
const KEYS = [55, 60, 65, 70, 75, 80];
const sounds = KEYS.map((key) => played(key, 1));

interface Heard {
  late?: number;
  gain?: number;
  rate?: number;
  /** Another performance altogether. */
  else?: number;
}
function hears({ late = 0, gain = 1, rate = RATE, else: other = 0 }: Heard): HeardSample[] {
  return sounds.map((own, i) => {
    const sound = other ? played(other + i, 1) : own;
    const step = RATE / rate;
    const channel = Float32Array.from({ length: Math.floor((sound.length - 1) / step) }, (_, n) => {
      const place = n * step - late;
      const at = Math.floor(place);
      return at < 0 ? 0 : gain * (sound[at] + (place - at) * (sound[at + 1] - sound[at]));
    });
    return { channels: [channel, channel], rate };
  });
}
function apart(far: Heard, near: Heard = {}, more: (key: number) => Partial<Zone> = () => ({})) {
  const audio = Object.fromEntries(
    [hears(near), hears(far)].flatMap((list, position) =>
      list.map((one, i) => [`${position} ${KEYS[i]}`, one] as const),
    ),
  );
  const zones = KEYS.map((key) =>
    plainZone({
      samples: { near: { sample: `0 ${key}` }, far: { sample: `1 ${key}` } },
      rootKey: key,
      keyLow: key,
      keyHigh: key,
      ...more(key),
    }),
  );
  return heardApart(measuringOf('long', zones, audio), ['near', 'far']);
}

describe('a position', () => {
  it.each([0, 96, 730, 1440])('that hears everything %i frames later arrives by so much', (late) => {
    const found = apart({ late, gain: 0.3 });
    expect(found.get('near')).toEqual({ arrivalSeconds: 0, isInverted: false });
    expect(Math.abs((found.get('far')?.arrivalSeconds ?? 9) * RATE - late)).toBeLessThan(2);
    expect(found.get('far')?.isInverted).toBe(false);
  });
  it('that hears the players before the one that is called nearest arrives before it', () => {
    const found = apart({ late: 100 }, { late: 580 });
    expect(Math.abs((found.get('far')?.arrivalSeconds ?? 9) * RATE + 480)).toBeLessThan(2);
  });
  it('whose waves are turned over is told so', () => {
    expect(apart({ late: 300, gain: -0.5 }).get('far')?.isInverted).toBe(true);
  });
  it('that was recorded at another rate is heard at the same', () => {
    const found = apart({ late: 480, rate: 24_000 });
    expect(Math.abs((found.get('far')?.arrivalSeconds ?? 9) - 0.01)).toBeLessThan(0.0003);
  });
  it('begins where its zones do', () => {
    // The near recordings have 200 frames in front of them, which are not played.
    const found = apart({ late: 700 }, { late: 200 }, () => ({ startFrame: 200 }));
    expect(Math.abs((found.get('far')?.arrivalSeconds ?? 9) * RATE - 500)).toBeLessThan(2);
  });
  it('that has nothing in common with the nearest, or is not there, is left out', () => {
    expect([...apart({ else: 900 }).keys()]).toEqual(['near']);
    expect([...apart({}, {}, () => ({ samples: { near: { sample: '0 55' } } })).keys()]).toEqual(['near']);
  });
  it('is heard without what vibrato brings in', () => {
    const ridden = apart({ late: 300 }, {}, () => ({ fades: [fadeIn(CONTROLLER.vibrato, 0, 127)] }));
    expect([...ridden.keys()]).toEqual(['near']);
  });
});

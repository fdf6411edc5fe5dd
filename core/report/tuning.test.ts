import { describe, expect, it } from 'vitest';
import { CONTROLLER } from '../music/index.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import { fadeIn, measuringOf } from '../testing/measuring.ts';
import { midiToHertz } from '../units/index.ts';
import type { Zone } from '../catalogue/index.ts';
import { driftOf, pitchOf, tuningOf } from './tuning.ts';
import type { HeardSample } from './zones.ts';

/** The pitch of recordings that are so many cents off the key they are recorded for. */

const RATE = 48_000;

interface Tone {
  key?: number;
  cents?: number;
  /** Frequencies of its partials as multiples of the lowest. */
  partials?: readonly number[];
  seconds?: number;
  /** Seconds in which it falls by 60 dB. */
  decay?: number;
  /** White noise in it, as an amplitude against its strongest partial. */
  breath?: number;
}
function tone({
  key = 60,
  cents = 0,
  partials = [1, 2, 3],
  seconds = 2,
  decay = Infinity,
  breath = 0,
}: Tone): HeardSample {
  const hertz = midiToHertz(key) * 2 ** (cents / 1200);
  const noise = whiteNoise(seconds * RATE, 5);
  const channel = Float32Array.from({ length: seconds * RATE }, (_, i) => {
    const t = i / RATE;
    const sum = partials.reduce(
      (all, at, n) => all + Math.sin(2 * Math.PI * at * hertz * t + n) / (n + 1),
      0,
    );
    return 0.2 * Math.min(1, t / 0.003) * 10 ** ((-3 * t) / decay) * (sum + breath * noise[i]);
  });
  return { channels: [channel, channel], rate: RATE };
}
const zone = (sample: string, more: Partial<Zone> = {}) =>
  plainZone({ samples: { near: { sample }, far: { sample: `far ${sample}` } }, rootKey: 60, ...more });
function heard(id: string, audio: HeardSample | undefined, more: Partial<Zone> = {}) {
  const own = zone('a', more);
  return pitchOf(measuringOf(id, [own], { a: audio }), own, 'near');
}

describe('the pitch of a recording', () => {
  it.each([-40, -7, 0, 12, 75])('is told as %s cents off its key, held or short', (cents) => {
    for (const id of ['long', 'staccato']) {
      const found = heard(id, tone({ cents }));
      expect(Math.abs((found?.cents ?? 999) - cents)).toBeLessThan(0.5);
      expect(found?.hertz).toBeCloseTo(midiToHertz(60) * 2 ** (cents / 1200), 0);
    }
  });
  it('is told with what its zone tunes it by', () => {
    expect(heard('long', tone({ cents: 10 }), { tuneCents: -10 })?.cents).toBeCloseTo(0, 0);
  });
  it.each([-12, 12, 24])(
    'of what sounds %s semitones from the key that plays it is held against its octave',
    (by) => {
      expect(heard('long', tone({ key: 60 + by, cents: 6 }))?.cents).toBeCloseTo(6, 0);
    },
  );
  it('is no pitch of that key beyond 80 cents', () => {
    expect(heard('long', tone({ key: 61, cents: 50 }))).toBeUndefined();
    expect(heard('long', tone({ cents: 95 }))).toBeUndefined();
  });
  it('of bars and plates is that of their lowest partial', () => {
    // A free bar: 1 : 2.756 : 5.404 (Euler and Bernoulli).
    const bar = tone({ cents: 14, partials: [1, 2.756, 5.404], decay: 2 });
    const found = heard('staccato', bar);
    expect(Math.abs((found?.cents ?? 999) - 14)).toBeLessThan(2);
  });
  it('of a held note with breath in it is that of its period, where its lowest partial is lost in it', () => {
    // The power of the tone is 0.68, that of the noise a third of its amplitude squared: the period repeats with so much less.
    const breathy = (breath: number) => tone({ cents: 9, partials: [2, 3, 4], breath });
    expect(Math.abs((heard('long', breathy(0.45))?.cents ?? 999) - 9)).toBeLessThan(2);
    // A short one is not held long enough to be sure, and so is one that is mostly breath.
    expect(heard('staccato', breathy(0.45))).toBeUndefined();
    expect(heard('long', breathy(1.4))).toBeUndefined();
  });
  it('of a bar that is heard for a moment only is not known', () => {
    const bar = tone({ cents: 14, partials: [1, 2.756, 5.404], seconds: 0.08 });
    expect(heard('staccato', bar)).toBeUndefined();
  });
  it('is none of noise, silence or nothing', () => {
    const silent = { channels: [new Float32Array(RATE)], rate: RATE };
    expect(heard('long', silent)).toBeUndefined();
    expect(heard('long', undefined)).toBeUndefined();
  });
});

describe('the tuning of a root', () => {
  const cents = [2, 4, 5, 7, 40];
  const audio = Object.fromEntries(cents.map((value, i) => [`${i}`, tone({ cents: value })]));
  const takes = cents.map((_, take) => zone(`${take}`, { take, takes: cents.length }));
  it('is the middle of all its recordings, with its error from how they differ', () => {
    const found = tuningOf(measuringOf('long', takes, audio), 60, ['near']);
    expect(found.key).toBe(60);
    expect(Math.abs(found.cents - 5)).toBeLessThan(0.3);
    // 3, 1, 0, 2 and 35 off it: 2 in the middle, 1.48 times that, over the root of five.
    expect(Math.abs(found.errorCents - (1.48 * 2) / Math.sqrt(5))).toBeLessThan(0.3);
  });
  it('hears every position, other roots and what vibrato brings in aside', () => {
    const far = Object.fromEntries(cents.map((_, i) => [`far ${i}`, tone({ cents: -30 })]));
    const both = tuningOf(measuringOf('long', takes.slice(0, 2), { ...audio, ...far }), 60, ['near', 'far']);
    // 2, 4 and twice −30.
    expect(Math.abs(both.cents + 14)).toBeLessThan(0.5);
    const aside = [
      takes[2],
      zone('4', { rootKey: 61 }),
      zone('4', { fades: [fadeIn(CONTROLLER.vibrato, 0, 127)] }),
    ];
    expect(Math.abs(tuningOf(measuringOf('long', aside, audio), 60, ['near']).cents - 5)).toBeLessThan(0.3);
  });
  it('of two recordings or fewer has no error, of none is nothing', () => {
    expect(tuningOf(measuringOf('long', takes.slice(0, 2), audio), 60, ['near']).errorCents).toBe(0);
    expect(tuningOf(measuringOf('long', takes, {}), 60, ['near'])).toEqual({
      key: 60,
      cents: 0,
      errorCents: 0,
    });
  });
  it('is told by nine recordings of many, from all over them', () => {
    const many = Array.from({ length: 18 }, (_, take) =>
      zone(take % 2 === 0 ? '0' : '4', { take, takes: 18 }),
    );
    // Every other one is heard: of both kinds the middle would lie between.
    expect(Math.abs(tuningOf(measuringOf('long', many, audio), 60, ['near']).cents - cents[0])).toBeLessThan(
      0.3,
    );
  });
});

describe('the drift of a pitch', () => {
  it('is how far the middle of its second half lies above the middle of its first', () => {
    const risen = Float64Array.from({ length: 40 }, (_, i) => (i < 20 ? -3 : 4));
    expect(driftOf(risen)).toBe(7);
    expect(driftOf(Float64Array.from(risen).reverse())).toBe(-7);
    // A few frames that were heard wrong change nothing.
    expect(driftOf(risen.map((cents, i) => (i % 10 === 0 ? 600 : cents)))).toBe(7);
  });
  it('is none where there is too little of it', () => {
    expect(driftOf(Float64Array.from({ length: 19 }, (_, i) => i))).toBe(0);
    expect(driftOf(Float64Array.from({ length: 20 }, (_, i) => i))).toBe(10);
    expect(driftOf(new Float64Array(0))).toBe(0);
  });
});

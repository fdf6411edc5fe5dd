import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { instrumentOf, plainZone } from '../testing/fixtures.ts';
import { measureArticulation } from './measure-articulation.ts';
import { lookedSpan, type Measuring } from './measuring.ts';
import { MIDDLE_TOUCH, type HeardSample } from './zones.ts';

/** Which stretch of a recording is looked at, over tones whose beginning and decay are known. */

const RATE = 48_000;
const ONSET = 0.1;
/** A sine that begins after a tenth of a second, and from there follows a course. */
function tone(course: (seconds: number) => number, seconds = 3): HeardSample {
  const channel = Float32Array.from({ length: seconds * RATE }, (_, i) => {
    const t = i / RATE - ONSET;
    return t < 0 ? 0 : 0.5 * course(t) * Math.sin(2 * Math.PI * 600 * t);
  });
  return { channels: [channel, channel], rate: RATE };
}
/** Falls by 10 dB in so many seconds. */
const falling = (seconds: number) => (t: number) => 10 ** (-t / seconds / 2);
function looked(term: string, audio: HeardSample, more: Partial<Zone> = {}, seconds?: number) {
  const zone = plainZone({ samples: { near: { sample: 'a' } }, ...more });
  const context: Measuring = {
    articulation: { id: term, name: term, zones: [zone] },
    layers: [{ zones: [zone], touch: MIDDLE_TOUCH }],
    near: 'near',
    sound: () => audio,
  };
  const { from, to, onset } = lookedSpan(zone, audio, context, seconds);
  return [from, to, onset].map((frame) => Math.round((frame / RATE) * 1000) / 1000);
}

describe('a short note', () => {
  it.each([
    [0.02, 0.06],
    [0.15, 0.15],
    [0.3, 0.3],
    [9, 0.4],
  ])('that falls by 10 dB in %s s is looked at for %s s from where it speaks', (fall, expected) => {
    const [from, to, onset] = looked('staccato', tone(falling(fall)));
    expect(Math.abs(onset - ONSET)).toBeLessThan(0.004);
    expect(from).toBe(onset);
    expect(Math.abs(to - onset - expected)).toBeLessThan(0.012);
  });
  it('is looked at no further than it lasts', () => {
    const [, to] = looked(
      'staccato',
      tone(() => 1, 0.3),
    );
    expect(to).toBeLessThanOrEqual(0.3);
  });
});

describe('a held note', () => {
  it('is looked at once it has settled, for as long as is asked', () => {
    const [from, to, onset] = looked(
      'long',
      tone(() => 1),
    );
    expect(from - onset).toBeCloseTo(0.2, 3);
    expect(to - from).toBeCloseTo(0.6, 3);
    const [, longer] = looked(
      'long',
      tone(() => 1),
      {},
      1.2,
    );
    expect(longer - from).toBeCloseTo(1.2, 3);
  });
  it('ends with its loop, or short of its end', () => {
    const loop = { start: RATE / 4, end: RATE / 2, untilRelease: false };
    expect(
      looked(
        'long',
        tone(() => 1),
        { loop },
      )[1],
    ).toBeCloseTo(0.5, 3);
    // Recordings fade at their end: its last 15 in 100 are left out.
    expect(
      looked(
        'long',
        tone(() => 1, 0.8),
      )[1],
    ).toBeCloseTo(0.68, 3);
  });
});

describe('how long a note takes to its height', () => {
  /** Rise told of a tone that follows a course. */
  function rise(course: (seconds: number) => number): number {
    const audio = tone(course);
    const zones = [plainZone({ samples: { close: { sample: 'a' } }, rootKey: 60 })];
    const articulation = { id: 'long', name: 'long', zones };
    const frames = audio.channels[0].length;
    const instrument = {
      ...instrumentOf([articulation], new Map(), ['close']),
      samples: {
        a: {
          id: 'a',
          rate: RATE,
          channels: 2 as const,
          format: 'i16' as const,
          frames,
          pack: 'pack',
          headOffset: 0,
          headFrames: 0,
          tailOffset: 0,
        },
      },
    };
    const [onset] = measureArticulation(
      instrument,
      articulation,
      () => audio,
      () => undefined,
    ).onsets;
    return onset.riseSeconds;
  }
  it('is told up to half its power, of what it comes to within the next fifth of a second', () => {
    // A straight rise has half its power at 0.707 of its way; it speaks a little after its beginning.
    const straight = (length: number) => rise((t) => Math.min(1, t / length));
    expect(straight(0.002)).toBeLessThan(0.01);
    for (const length of [0.05, 0.1]) {
      expect(straight(length)).toBeGreaterThan(0.3 * length);
      expect(straight(length)).toBeLessThan(0.75 * length);
    }
    // What swells much later is not how it speaks.
    expect(rise((t) => Math.min(1, t / 0.05) * (t < 0.3 ? 0.2 : 1))).toBeLessThan(0.05);
  });
});

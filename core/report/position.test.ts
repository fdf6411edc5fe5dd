import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import type { Measuring } from './measuring.ts';
import { endsOf } from './ends.ts';
import { measurePosition } from './position.ts';
import type { Touch } from '../performance/index.ts';
import { MIDDLE_TOUCH, type HeardSample, type Layer } from './zones.ts';

/** Figures of a position over sines of 997 Hz, whose loudness is that of a full sine less what they are softer by (BS.1770). */

const RATE = 48_000;
const dB = (value: number) => 10 ** (value / 20);
/** A 997 Hz sine of amplitude 1 on one side has −3.01 LUFS; on both, 0. */
function sine(levelDb: number, { lead = 0, hiss = 0, both = true } = {}): HeardSample {
  const noise = whiteNoise(3 * RATE, 7);
  const channel = Float32Array.from({ length: 3 * RATE }, (_, i) =>
    i < lead * RATE
      ? hiss * noise[i]
      : dB(levelDb) * Math.sin((2 * Math.PI * 997 * i) / RATE) + hiss * noise[i],
  );
  return { channels: [channel, both ? channel : new Float32Array(channel.length)], rate: RATE };
}
const zone = (sample: string, key: number, more: Partial<Zone> = {}) =>
  plainZone({ samples: { near: { sample } }, rootKey: key, keyLow: key, keyHigh: key, ...more });
const layer = (zones: Zone[], touch: Partial<Touch> = {}): Layer => ({
  zones,
  touch: { ...MIDDLE_TOUCH, ...touch },
});

function figures(layers: readonly Layer[], audio: Readonly<Record<string, HeardSample>>, id = 'long') {
  const context: Measuring = {
    articulation: { id, name: id, zones: layers.flatMap(({ zones }) => zones) },
    layers,
    near: 'near',
    sound: (one, position = 'near') => audio[one.samples[position]?.sample ?? ''],
  };
  const [ends] = endsOf(context, ['near'], new Map([['near', { arrivalSeconds: 0, isInverted: false }]]));
  return measurePosition(context, 'near', undefined, ends, 5);
}

describe('the loudness of a position', () => {
  it('is the mean of its keys at a middling touch, by their first takes', () => {
    const one = layer([
      zone('a', 60),
      zone('b', 64),
      zone('c', 67, { gainDb: -4 }),
      zone('loud', 60, { take: 1, takes: 2 }),
    ]);
    const found = figures([one], { a: sine(-20), b: sine(-26), c: sine(-26), loud: sine(0) });
    // −20, −26 and −30.
    expect(found.loudnessLufs).toBeCloseTo(-76 / 3, 1);
    expect(found.levels.map(({ key, lufs }) => [key, Math.round(10 * lufs) / 10])).toEqual([
      [60, -20],
      [64, -26],
      [67, -30],
    ]);
    expect(found.levels[0].centroidHz).toBeGreaterThan(950);
    expect(found.levels[0].centroidHz).toBeLessThan(1050);
    expect(found.bytes).toBe(5);
  });
  it.each([
    [89, -40],
    [90, -20],
    [127, -20],
  ])('leaves out layers a middling velocity does not reach: one up to %i', (high, expected) => {
    const soft = zone('soft', 60, { velocityLow: 1, velocityHigh: high });
    const rest = zone('rest', 60, { velocityLow: high + 1, velocityHigh: 127 });
    const layers = [
      layer([soft], { velocity: 40 }),
      ...(high < 127 ? [layer([rest], { velocity: 120 })] : []),
    ];
    expect(figures(layers, { soft: sine(-20), rest: sine(-40) }).loudnessLufs).toBeCloseTo(expected, 1);
  });
  it.each([
    [90, -20],
    [91, -40],
  ])('takes a layer from %i on', (low, expected) => {
    const layers = [
      layer([zone('loud', 60, { velocityLow: low, velocityHigh: 127 })], { velocity: 110 }),
      layer([zone('soft', 60, { velocityLow: 1, velocityHigh: low - 1 })], { velocity: 40 }),
    ];
    expect(figures(layers, { loud: sine(-20), soft: sine(-40) }).loudnessLufs).toBeCloseTo(expected, 1);
  });
  it('is told of every layer at its own touch, zones heard together by their powers', () => {
    const both = layer([zone('a', 60), zone('b', 60)]);
    const [level] = figures([both], { a: sine(-20), b: sine(-20) }).levels;
    expect(level.lufs).toBeCloseTo(-20 + 10 * Math.log10(2), 1);
  });
  it('is none where nothing is heard', () => {
    const found = figures([layer([zone('a', 60)])], { a: sine(-300) });
    expect([found.loudnessLufs, found.levels, found.noiseBelowDb]).toEqual([null, [], null]);
    const missing = figures([layer([zone('a', 60)])], {});
    expect([missing.loudnessLufs, missing.thirds, missing.width]).toEqual([null, null, null]);
  });
});

describe('short notes of a key', () => {
  /** A stroke whose treble dies away; it begins after a while, and is cut off. */
  function stroke(lead: number, seconds: number): HeardSample {
    const channel = Float32Array.from({ length: (lead + seconds + 0.3) * RATE }, (_, i) => {
      const t = i / RATE - lead;
      const gate = t < 0 || t > seconds ? 0 : Math.min(1, t / 0.002, (seconds - t) / 0.004);
      const treble = 0.6 * Math.exp(-t / 0.04) * Math.sin(2 * Math.PI * 3200 * t);
      return 0.2 * gate * (Math.sin(2 * Math.PI * 400 * t) + treble);
    });
    return { channels: [channel, channel], rate: RATE };
  }
  it('are looked at equally long in all its layers, wherever in a recording they begin', () => {
    const layers = (soft: HeardSample, loud: HeardSample) =>
      figures(
        [
          layer([zone('soft', 60, { velocityHigh: 63 })], { velocity: 40 }),
          layer([zone('loud', 60, { velocityLow: 64 })], { velocity: 100 }),
        ],
        { soft, loud },
        'staccato',
      ).levels.map(({ centroidHz }) => centroidHz);
    const [brief, long] = layers(stroke(0.5, 0.08), stroke(0.01, 0.39));
    expect(long / brief).toBeGreaterThan(0.95);
    expect(long / brief).toBeLessThan(1.05);
    const [first, second] = layers(stroke(0.01, 0.39), stroke(0.5, 0.08));
    expect(second / first).toBeCloseTo(brief / long, 1);
  });
});

describe('its width', () => {
  it('is how alike its sides are', () => {
    const keys = [60, 64].map((key) => zone('a', key));
    expect(figures([layer(keys)], { a: sine(-20) }).width?.correlation).toBeCloseTo(1, 3);
  });
});

describe('its hiss', () => {
  const keys = [60, 64, 67].map((key) => zone('a', key));
  it('is heard before notes begin, as loud as they are played, and stands below them', () => {
    const hissing = sine(-20, { lead: 0.3, hiss: dB(-60) });
    const found = figures([layer(keys)], { a: hissing });
    const played = figures([layer(keys.map((one) => ({ ...one, gainDb: -10 })))], { a: hissing });
    expect(found.noiseDb).not.toBeNull();
    expect((found.noiseDb ?? 0) - (played.noiseDb ?? 0)).toBeCloseTo(10, 1);
    expect(found.noiseBelowDb).toBeCloseTo((found.loudnessLufs ?? 0) - (found.noiseDb ?? 0), 3);
    expect(found.why.noise).toBeUndefined();
  });
  it('of fewer than three recordings, or of notes that begin at once, is not told, with the reason', () => {
    const hissing = sine(-20, { lead: 0.3, hiss: dB(-60) });
    expect(figures([layer(keys.slice(0, 2))], { a: hissing }).noiseDb).toBeNull();
    const at = figures([layer(keys)], { a: sine(-20) });
    expect([at.noiseDb, at.noiseBelowDb]).toEqual([null, null]);
    expect(at.why.noise).toContain('no quiet place');
  });
});

describe('a position that has nothing in common with the nearest', () => {
  it('has no arrival, and says why', () => {
    const found = figures([layer([zone('a', 60)])], { a: sine(-20) });
    expect([found.arrivalSeconds, found.isInverted]).toEqual([null, null]);
    expect(found.why.arrival).toContain('too little in common');
  });
});

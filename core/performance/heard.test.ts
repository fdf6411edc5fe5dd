import { describe, expect, it } from 'vitest';
import { SOURCE, type Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { PLAIN_POSITION, type PositionMix, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { mixOf, plainZone } from '../testing/fixtures.ts';
import { heardSpan, heardStart, rateOf, ratioAt, zoneGain } from './heard.ts';
import { sourceValue } from './touch.ts';

const touch = { velocity: 100, dynamics: 64, vibrato: 20 };
const samples = { close: { sample: 'a' } };
const db = (gain: number) => 20 * Math.log10(gain);

describe('the gain of a zone', () => {
  it('is its own level and its velocity curve', () => {
    expect(db(zoneGain(plainZone({ samples, gainDb: -6 }), touch))).toBeCloseTo(-6, 6);
    expect(zoneGain(plainZone({ samples, velocityTrack: 1 }), touch)).toBeCloseTo((100 / 127) ** 2, 9);
    expect(zoneGain(plainZone({ samples, velocityTrack: 0.5 }), touch)).toBeCloseTo(
      0.5 + 0.5 * (100 / 127) ** 2,
      9,
    );
  });
  it('fades by controllers, each of its fades', () => {
    const fade = (controller: number, inHigh: number) => ({
      controller,
      inLow: 0,
      inHigh,
      outLow: 127,
      outHigh: 127,
    });
    const half = plainZone({ samples, fades: [fade(CONTROLLER.dynamics, 128)] });
    expect(zoneGain(half, touch)).toBeCloseTo(Math.SQRT1_2, 9);
    const twice = plainZone({
      samples,
      fades: [fade(CONTROLLER.dynamics, 128), fade(CONTROLLER.vibrato, 40)],
    });
    expect(zoneGain(twice, touch)).toBeCloseTo(0.5, 9);
  });
  it('is moved by controllers in decibels or as a share, never below nothing', () => {
    const by = (
      target: 'gainDb' | 'amplitude' | 'cutoffCents',
      depth: number,
      controller: number = CONTROLLER.dynamics,
    ) => zoneGain(plainZone({ samples, modulations: [{ target, depth, controller }] }), touch);
    expect(db(by('gainDb', -12.7))).toBeCloseTo(-6.4, 6);
    expect(by('amplitude', 1)).toBeCloseTo(64 / 127, 9);
    expect(by('amplitude', 0.5)).toBeCloseTo(0.5 + 32 / 127, 9);
    expect(by('amplitude', 3)).toBe(0);
    expect(by('cutoffCents', 100)).toBe(1);
    expect(by('amplitude', 1, SOURCE.velocity)).toBeCloseTo(100 / 127, 9);
  });
  it('takes from a touch what it has, and rests otherwise', () => {
    const of = (controller: number) => sourceValue(controller, touch);
    expect([of(CONTROLLER.dynamics), of(CONTROLLER.vibrato), of(SOURCE.velocity)]).toEqual([64, 20, 100]);
    expect([of(11), of(10)]).toEqual([127, 64]);
  });
});

describe('the pitch a zone is played at', () => {
  it('is a semitone a key unless it tracks otherwise, and its tuning', () => {
    const at = (key: number, zone: Partial<Zone> = {}) =>
      ratioAt(plainZone({ samples, rootKey: 60, ...zone }), key);
    expect([at(60), at(72), at(48)]).toEqual([1, 2, 0.5]);
    expect(at(72, { keyTrack: 0 })).toBe(1);
    expect(at(84, { keyTrack: 50 })).toBeCloseTo(2, 9);
    expect(at(60, { tuneCents: -1200 })).toBeCloseTo(0.5, 9);
  });
});

describe('what is heard of a stretch', () => {
  /** Frames that count up, left positive, right a tenth of it. */
  const counting = (frames: number, rate = 48_000): SampleAudio => ({
    data: Float32Array.from({ length: 2 * frames }, (_, i) =>
      i % 2 === 0 ? (i >> 1) + 1 : ((i >> 1) + 1) / 10,
    ),
    channels: 2,
    frames,
    rate,
  });
  const zone = plainZone({ samples: { close: { sample: 'a' }, far: { sample: 'b' } }, startFrame: 2 });
  const audio = new Map([
    ['a', counting(8)],
    ['b', counting(8)],
  ]);
  const mix = (close: Partial<PositionMix>, far: Partial<PositionMix> = {}): TrackMix => ({
    ...mixOf([]),
    positions: { close: { ...PLAIN_POSITION, ...close }, far: { ...PLAIN_POSITION, muted: true, ...far } },
  });
  const left = (own: TrackMix, from = 2, frames = 4, of = audio) => {
    const heard = heardSpan(zone, own, of, from, frames);
    return heard && [...heard[0]];
  };
  it('is read from a frame on, and is silent beyond the end', () => {
    expect(left(mix({}))).toEqual([3, 4, 5, 6]);
    expect(left(mix({}), 6)).toEqual([7, 8, 0, 0]);
    const [, right] = heardSpan(zone, mix({}), audio, 2, 2) ?? [];
    expect(right?.[0]).toBeCloseTo(0.3, 6);
  });
  it('adds positions by their level, polarity and delay', () => {
    expect(left(mix({}, { muted: false }))).toEqual([6, 8, 10, 12]);
    for (const value of left(mix({}, { muted: false, inverted: true })) ?? [1])
      expect(value).toBeCloseTo(0, 9);
    // Two frames of 48 kHz.
    expect(left(mix({}, { muted: false, delayMs: 2 / 48 }))).toEqual([3, 4, 8, 10]);
    expect(left(mix({ levelDb: -60 }))).toEqual([0, 0, 0, 0]);
    expect(left(mix({ levelDb: 20 * Math.log10(0.5) }))?.[1]).toBeCloseTo(2, 6);
    expect(left(mix({ pan: 1 }))?.[0]).toBeCloseTo(0, 6);
    // Mono is the mean of both sides.
    expect(left(mix({ width: 0 }))?.[0]).toBeCloseTo(3 * 0.55, 6);
  });
  it('is unknown while a recording is missing that would be heard', () => {
    const some = new Map([['a', counting(8)]]);
    expect(left(mix({}), 2, 2, some)).toEqual([3, 4]);
    expect(left(mix({}, { muted: false }), 2, 2, some)).toBeUndefined();
  });
  it('of positions at different rates lies on the finer one, straight between frames', () => {
    const mixed = new Map([
      ['a', counting(8)],
      ['b', counting(8, 24_000)],
    ]);
    expect(rateOf(zone, mixed)).toBe(48_000);
    expect(rateOf(zone, new Map())).toBe(48_000);
    expect(rateOf(zone, new Map([['b', counting(8, 24_000)]]))).toBe(24_000);
    const far = mix({ muted: true }, { muted: false });
    expect(left(far, 2, 4, mixed)).toEqual([2, 2.5, 3, 3.5]);
    expect(left(mix({ muted: true }, { muted: false, delayMs: 1 / 48 }), 2, 3, mixed)).toEqual([0, 2, 2.5]);
    const [, right] = heardSpan(zone, far, mixed, 2, 2) ?? [];
    expect(right?.[0]).toBeCloseTo(0.2, 6);
    // The last frame has none behind it.
    expect(left(far, 12, 4, mixed)).toEqual([7, 7.5, 0, 0]);
  });
  it('of 16 bits is as loud, and of one channel the same on both sides', () => {
    const one: SampleAudio = { data: Int16Array.of(16_384, -32_768), channels: 1, frames: 2, rate: 48_000 };
    const [l, r] = heardSpan(zone, mix({}), new Map([['a', one]]), 0, 2) ?? [];
    expect([...(l ?? []), ...(r ?? [])]).toEqual([0.5, -1, 0.5, -1]);
  });
  it('at its beginning is 0.56 s from where it starts', () => {
    const [l] = heardStart(zone, mix({}), audio) ?? [];
    expect(l?.length).toBe(26_880);
    expect(l?.[0]).toBe(3);
  });
});

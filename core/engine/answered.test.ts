import { describe, expect, it } from 'vitest';
import { CONTROLLER } from '../music/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent, whiteNoise } from '../testing/fixtures.ts';
import type { Zone } from '../catalogue/index.ts';
import { Engine, prepareInstrument, sortEvents, type EngineEvent, type SampleAudio } from './index.ts';

/** What the engine answers to by itself: release, recorded ends, attack, brightness, noises, drift; and morphs. */

const RATE = 48_000;

function noise(seconds: number, seed: number, level = 0.2): SampleAudio {
  const frames = Math.round(seconds * RATE);
  const wave = whiteNoise(frames, seed);
  const data = Float32Array.from({ length: 2 * frames }, (_, i) => level * wave[i >> 1]);
  return { data, channels: 2, frames, rate: RATE };
}

const zoneOf = (sample: string, more: Partial<Zone> = {}) =>
  plainZone({ samples: { mix: { sample } }, ...more });
const control = (controller: number, value: number, frame = 0): EngineEvent => ({
  kind: 'control',
  frame,
  track: 0,
  controller,
  value,
});
const stop = (frame: number, sound = 1, release = true): EngineEvent => ({
  kind: 'stop',
  track: 0,
  frame,
  sound,
  fadeSeconds: -1,
  release,
});

/** Renders events over articulations of zones. @returns the left channel */
function render(
  articulations: Zone[][],
  audio: Map<string, SampleAudio>,
  events: EngineEvent[],
  seconds: number,
): Float32Array {
  const instrument = instrumentOf(
    articulations.map((zones, i) => ({ id: `a${i}`, name: `a${i}`, zones })),
    audio,
  );
  const engine = new Engine(16);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix(mixOf(['mix']), RATE);
  engine.reset();
  engine.setEvents(sortEvents([...events]));
  const blocks = Math.ceil((seconds * RATE) / 128);
  const left = new Float32Array(blocks * 128);
  const right = new Float32Array(blocks * 128);
  for (let b = 0; b < blocks; b++)
    engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
  return left;
}

/** Level of a stretch in dB, by plain root mean square. */
function levelDb(wave: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let i = Math.round(from * RATE); i < Math.round(to * RATE); i++) sum += wave[i] ** 2;
  return 10 * Math.log10(sum / ((to - from) * RATE) + 1e-20);
}

/** Frequency of a sine between two times, by its upward crossings of zero. */
function hertz(wave: Float32Array, from: number, to: number): number {
  const crossings: number[] = [];
  for (let i = Math.round(from * RATE); i < Math.round(to * RATE); i++)
    if (wave[i] <= 0 && wave[i + 1] > 0) crossings.push(i + wave[i] / (wave[i] - wave[i + 1]));
  return ((crossings.length - 1) * RATE) / (crossings[crossings.length - 1] - crossings[0]);
}

describe('a morph along a controller', () => {
  const audio = new Map([
    ['a', noise(2, 1)],
    ['b', noise(2, 2)],
    ['c', noise(2, 3, 0.1)],
  ]);
  const loop = { start: 0, end: 2 * RATE };
  const articulations = ['a', 'b', 'c'].map((sample) => [zoneOf(sample, { loop })]);
  const morph = (inLow: number, inHigh: number, outLow: number, outHigh: number) => ({
    controller: 2,
    inLow,
    inHigh,
    outLow,
    outHigh,
  });
  const starts = (middle: number) => [
    startEvent({ sound: 1, articulation: 0, morph: morph(0, 0, 0, middle) }),
    startEvent({ sound: 2, articulation: 1, morph: morph(0, middle, middle, 127) }),
    startEvent({ sound: 3, articulation: 2, morph: morph(middle, 127, 127, 127) }),
  ];
  const at = (value: number) =>
    levelDb(render(articulations, audio, [control(2, value), ...starts(64)], 1.5), 0.2, 1.5);
  it('neither dips nor bumps by half a decibel between sounds that are equally loud', () => {
    const ends = [at(0), at(64)];
    expect(Math.abs(ends[0] - ends[1])).toBeLessThan(0.1);
    for (const value of [8, 20, 32, 44, 56]) expect(Math.abs(at(value) - ends[0])).toBeLessThan(0.5);
  });
  it('goes straight down or up between unequal ones', () => {
    const levels = [64, 80, 96, 112, 127].map(at);
    // Half the amplitude is 6.02 dB less.
    expect(levels[0] - levels[4]).toBeGreaterThan(5.8);
    expect(levels[0] - levels[4]).toBeLessThan(6.2);
    for (let i = 1; i < levels.length; i++) expect(levels[i]).toBeLessThan(levels[i - 1] + 0.1);
  });
  it('is ridden while it sounds, without a click, and its ends sound each alone', () => {
    const ramp = Array.from({ length: 128 }, (_, i) => control(2, i, Math.round(i * 0.01 * RATE)));
    const wave = render(articulations, audio, [...ramp, ...starts(64)], 1.6);
    const alone = (index: number) =>
      render(articulations, audio, [startEvent({ sound: 9, articulation: index })], 1.6);
    const [first, last] = [alone(0), alone(2)];
    expect(
      levelDb(
        wave.map((v, i) => v - last[i]),
        1.4,
        1.55,
      ),
    ).toBeLessThan(-120);
    const quiet = render(articulations, audio, starts(64), 0.5);
    expect(
      levelDb(
        quiet.map((v, i) => v - first[i]),
        0,
        0.4,
      ),
    ).toBeLessThan(-120);
  });
});

describe('levels of sounds', () => {
  it('are taken in decibels, and hold for the recorded end too', () => {
    const audio = new Map([
      ['note', sine(440, 3, 0.2)],
      ['end', sine(440, 1, 0.2, 0)],
    ]);
    const zones = [
      zoneOf('note', { envelope: { ...plainZone({ samples: {} }).envelope, releaseSeconds: 0.05 } }),
      zoneOf('end', { role: 'release', oneShot: true }),
    ];
    const events = (levelDb_?: number) => [
      startEvent(levelDb_ === undefined ? {} : { levelDb: levelDb_ }),
      stop(RATE),
    ];
    const plain = render([zones], audio, events(), 1.6);
    const softer = render([zones], audio, events(-12), 1.6);
    for (const [from, to] of [
      [0.2, 0.9],
      [1.1, 1.5],
    ])
      expect(levelDb(plain, from, to) - levelDb(softer, from, to)).toBeCloseTo(12, 1);
  });
});

describe('release', () => {
  const audio = new Map([['note', sine(440, 4, 0.3)]]);
  const zone = zoneOf('note', {
    envelope: { ...plainZone({ samples: {} }).envelope, releaseSeconds: 0.4 },
  });
  /** Seconds after which a note let go at one second is gone. */
  const ring = (value: number | undefined) => {
    const wave = render(
      [[zone]],
      audio,
      [...(value === undefined ? [] : [control(CONTROLLER.release, value)]), startEvent(), stop(RATE)],
      3.5,
    );
    let last = 0;
    wave.forEach((v, i) => Math.abs(v) > 1e-4 && (last = i));
    return last / RATE - 1;
  };
  it('is as recorded at rest, and up to four times shorter or longer', () => {
    expect(ring(undefined)).toBeCloseTo(0.4, 1);
    expect(ring(64)).toBeCloseTo(0.4, 1);
    expect(ring(127)).toBeGreaterThan(1.5);
    expect(ring(127)).toBeLessThan(1.65);
    expect(ring(0)).toBeCloseTo(0.1, 1);
  });
  it('leaves an instrument alone that listens to the controller itself', () => {
    const own = {
      ...zone,
      modulations: [{ controller: CONTROLLER.release, target: 'pan' as const, depth: 0 }],
    };
    const wave = render([[own]], audio, [control(CONTROLLER.release, 127), startEvent(), stop(RATE)], 3);
    expect(levelDb(wave, 1.5, 2)).toBeLessThan(-100);
  });
});

describe('recorded ends', () => {
  const audio = new Map([
    ['note', sine(440, 3, 0.3)],
    ['end', sine(440, 1, 0.3, 0)],
    ['damper', noise(0.5, 5, 0.1)],
  ]);
  const zones = (end: string) => [zoneOf('note'), zoneOf(end, { role: 'release', oneShot: true })];
  const after = (end: string, controls: EngineEvent[], from = 1.1, to = 1.4) =>
    levelDb(render([zones(end)], audio, [...controls, startEvent(), stop(RATE)], 2), from, to);
  it('are as loud as is set, twice at the top, and can be switched off', () => {
    const rest = after('end', []);
    expect(after('end', [control(CONTROLLER.recordedEnds, 32)]) - rest).toBeCloseTo(-6.02, 0);
    expect(after('end', [control(CONTROLLER.recordedEnds, 0)])).toBeLessThan(-100);
  });
  it('that are noises follow the level of noises, tones do not', () => {
    const rest = after('damper', []);
    expect(after('damper', [control(CONTROLLER.noise, 32)]) - rest).toBeCloseTo(-6.02, 1);
    expect(after('damper', [control(CONTROLLER.noise, 0)])).toBeLessThan(-100);
    expect(after('end', [control(CONTROLLER.noise, 0)]) - after('end', [])).toBeCloseTo(0, 1);
  });
  it('are cut short with the release', () => {
    expect(after('end', [control(CONTROLLER.release, 8)], 1.3, 1.6)).toBeLessThan(-60);
    expect(after('end', [control(CONTROLLER.release, 100)], 1.3, 1.6)).toBeGreaterThan(-20);
  });
  it('a sound marked as a noise is ridden as one', () => {
    const level = (value: number) =>
      levelDb(
        render(
          [[zoneOf('damper')]],
          audio,
          [control(CONTROLLER.noise, value), startEvent({ noise: true })],
          0.5,
        ),
        0.1,
        0.4,
      );
    expect(level(64) - level(32)).toBeCloseTo(6.02, 1);
    expect(level(127) - level(64)).toBeCloseTo(20 * Math.log10(127 / 64), 1);
  });
});

describe('attack, brightness and drift', () => {
  const audio = new Map([
    ['note', sine(440, 12, 0.3, 0)],
    ['noise', noise(3, 9)],
  ]);
  const envelope = plainZone({ samples: {} }).envelope;
  it('fades notes in over up to a second, squared along the way', () => {
    const rise = (value: number) => {
      const wave = render([[zoneOf('note')]], audio, [control(CONTROLLER.attack, value), startEvent()], 2);
      const full = levelDb(wave, 1.5, 1.9);
      for (let t = 0; t < 1.5; t += 0.01) if (levelDb(wave, t, t + 0.02) > full - 3) return t;
      return NaN;
    };
    expect(rise(64)).toBeLessThan(0.02);
    // Half way through an equal-power fade of a second it is 3 dB down.
    expect(Math.abs(rise(127) - 0.5)).toBeLessThan(0.05);
    expect(Math.abs(rise(95.5) - 0.125)).toBeLessThan(0.03);
  });
  it('takes an instrument’s own rise away below the middle', () => {
    const slow = zoneOf('note', { envelope: { ...envelope, attackSeconds: 0.5 } });
    const early = (value: number) =>
      levelDb(render([[slow]], audio, [control(CONTROLLER.attack, value), startEvent()], 1), 0.02, 0.06);
    expect(early(0) - early(64)).toBeGreaterThan(15);
  });
  it('darkens by a filter of two poles, and is open at rest', () => {
    const bright = (value: number | undefined) =>
      render(
        [[zoneOf('noise')]],
        audio,
        [...(value === undefined ? [] : [control(CONTROLLER.brightness, value)]), startEvent()],
        2,
      );
    expect(bright(127)).toEqual(bright(undefined));
    // White noise through two poles at 250 Hz keeps about 1.11 × 250 of 24,000 Hz: −19.4 dB.
    const dark = levelDb(bright(0), 0.3, 1.9) - levelDb(bright(127), 0.3, 1.9);
    expect(Math.abs(dark + 19.4)).toBeLessThan(0.8);
    const half = levelDb(bright(64), 0.3, 1.9) - levelDb(bright(127), 0.3, 1.9);
    expect(half).toBeGreaterThan(dark + 5);
    expect(half).toBeLessThan(-2);
  });
  it('wanders by up to 15 cents, never twice alike, and keeps its pitch without', () => {
    const cents = (value: number, key = 69) => {
      const wave = render(
        [[zoneOf('note')]],
        audio,
        [control(CONTROLLER.drift, value), startEvent({ key })],
        9,
      );
      const root = 440 * 2 ** ((key - 69) / 12);
      return Array.from(
        { length: 16 },
        (_, i) => 1200 * Math.log2(hertz(wave, 0.1 + i / 2, 0.4 + i / 2) / root),
      );
    };
    for (const value of cents(0)) expect(Math.abs(value)).toBeLessThan(0.05);
    const wide = cents(127);
    expect(Math.max(...wide.map(Math.abs))).toBeLessThan(15.1);
    expect(Math.max(...wide) - Math.min(...wide)).toBeGreaterThan(8);
    expect(cents(127)).toEqual(wide);
    const half = cents(63.5);
    half.forEach((value, i) => expect(value).toBeCloseTo(wide[i] / 2, 0));
    const other = cents(127, 71);
    expect(other.some((value, i) => Math.abs(value - wide[i]) > 3)).toBe(true);
  });
});

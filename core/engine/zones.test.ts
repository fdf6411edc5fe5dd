import { describe, expect, it } from 'vitest';
import { SOURCE, type Zone } from '../catalogue/index.ts';
import { meanLevelDb } from '../measure/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent as start } from '../testing/fixtures.ts';
import {
  attachAudio,
  Engine,
  prepareInstrument,
  sortEvents,
  type EngineEvent,
  type SampleAudio,
} from './index.ts';

/** What zones ask of the engine beyond playing a recording: conditions, groups, filters, moves. */

const RATE = 48_000;
const AUDIO = new Map<string, SampleAudio>([
  ['low', sine(220, 3, 0.3, 0.001)],
  ['a', sine(440, 3, 0.3, 0.001)],
  ['high', sine(3520, 3, 0.3, 0.001)],
  ['half', sine(440, 3, 0.3, 0.001, RATE / 2)],
]);

const zone = (sample: string, more: Partial<Zone> = {}): Zone =>
  plainZone({ samples: { mix: { sample } }, keyTrack: 0, ...more });
const control = (controller: number, value: number, frame = 0): EngineEvent => ({
  kind: 'control',
  frame,
  track: 0,
  controller,
  value,
});
const stop = (sound: number, frame: number): EngineEvent => ({
  kind: 'stop',
  track: 0,
  frame,
  sound,
  fadeSeconds: -1,
  release: true,
});

function engineWith(zones: Zone[], positions = ['mix'], audio: ReadonlyMap<string, SampleAudio> = AUDIO) {
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones }], AUDIO, positions);
  const engine = new Engine(32);
  engine.ensureTracks(1);
  const prepared = prepareInstrument(instrument, audio);
  engine.tracks[0].setInstrument(prepared);
  engine.tracks[0].setMix(mixOf(positions), RATE);
  engine.reset();
  return { engine, prepared };
}

function render(engine: Engine, seconds: number) {
  const blocks = Math.ceil((seconds * RATE) / 128);
  const left = new Float32Array(blocks * 128);
  const right = new Float32Array(blocks * 128);
  for (let b = 0; b < blocks; b++)
    engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
  return { left, right };
}

function play(zones: Zone[], events: EngineEvent[], seconds: number, positions = ['mix']) {
  const { engine } = engineWith(zones, positions);
  engine.setEvents(sortEvents(events));
  return { engine, ...render(engine, seconds) };
}

/** Level of one frequency between two times, dB. */
function partial(sound: Float32Array, hertz: number, from: number, to: number): number {
  let re = 0;
  let im = 0;
  const first = Math.round(from * RATE);
  const last = Math.round(to * RATE);
  for (let i = first; i < last; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i - first)) / (last - first));
    re += w * sound[i] * Math.cos((2 * Math.PI * hertz * i) / RATE);
    im += w * sound[i] * Math.sin((2 * Math.PI * hertz * i) / RATE);
  }
  return 20 * Math.log10((4 * Math.hypot(re, im)) / (last - first) + 1e-12);
}
const at = (seconds: number) => Math.round(seconds * RATE);

describe('conditions', () => {
  it('let a zone sound only while a controller lies in its range when the note begins', () => {
    const zones = [
      zone('low', { gates: [{ controller: 20, low: 0, high: 63 }] }),
      zone('high', { gates: [{ controller: 20, low: 64, high: 127 }] }),
    ];
    const { left } = play(
      zones,
      [start(), stop(1, at(0.3)), control(20, 90, at(0.35)), start({ sound: 2, frame: at(0.5) })],
      1,
    );
    expect(partial(left, 220, 0.05, 0.25)).toBeGreaterThan(-12);
    expect(partial(left, 3520, 0.05, 0.25)).toBeLessThan(-80);
    expect(partial(left, 220, 0.6, 0.9)).toBeLessThan(-80);
    expect(partial(left, 3520, 0.6, 0.9)).toBeGreaterThan(-12);
  });
  it('tell a first note from one that joins another', () => {
    const { left } = play(
      [zone('low', { when: 'first' }), zone('high', { when: 'joined' })],
      [start(), start({ sound: 2, key: 71, frame: at(0.3) })],
      0.8,
    );
    expect(partial(left, 3520, 0.05, 0.25)).toBeLessThan(-80);
    expect(partial(left, 220, 0.4, 0.7)).toBeGreaterThan(-12);
    expect(partial(left, 3520, 0.4, 0.7)).toBeGreaterThan(-12);
  });
  it('cross over velocity and keys without changing while they sound', () => {
    const fade = { controller: SOURCE.velocity, inLow: 0, inHigh: 0, outLow: 20, outHigh: 100 };
    const { left } = play(
      [zone('a', { fades: [fade] })],
      [start({ velocity: 60 }), start({ sound: 2, velocity: 127, frame: at(0.5) })],
      0.9,
    );
    // Half way down an equal-power slope: −3 dB.
    expect(partial(left, 440, 0.1, 0.4)).toBeCloseTo(20 * Math.log10(0.3) - 3.01, 1);
  });
});

describe('groups', () => {
  it('cut each other off within milliseconds, without a click', () => {
    const { left } = play(
      [
        zone('low', { keyHigh: 60, group: 1, oneShot: true }),
        zone('high', { keyLow: 61, group: 2, offBy: 1, oneShot: true }),
      ],
      [start({ key: 70 }), start({ sound: 2, key: 50, frame: at(0.3) })],
      0.6,
    );
    expect(partial(left, 3520, 0.1, 0.28)).toBeGreaterThan(-12);
    expect(partial(left, 3520, 0.33, 0.55)).toBeLessThan(-70);
    const jump = left.reduce((most, v, i) => Math.max(most, Math.abs(v - (left[i - 1] ?? 0))), 0);
    expect(jump).toBeLessThan(0.22);
  });
  it('keep to the number of sounds they allow, giving up the oldest', () => {
    const events = [50, 60, 70].map((key, i) => start({ sound: i + 1, key, frame: at(i * 0.1) }));
    const { engine } = play([zone('a', { polyphony: 2 })], events, 0.5);
    expect(engine.voiceCount).toBe(2);
    const keys: number[] = [];
    engine.eachVoice(0, (key) => keys.push(key));
    expect(keys.sort()).toEqual([60, 70]);
    const again = [0, 1, 2].map((i) => start({ sound: i + 1, key: 50, frame: at(i * 0.1) }));
    expect(play([zone('a', { keyPolyphony: 1 })], again, 0.5).engine.voiceCount).toBe(1);
  });
});

describe('filters', () => {
  const through = (filter: Zone['filter'], sample: string, hertz: number) =>
    partial(play([zone(sample, { cutoffHz: 880, filter })], [start()], 0.6).left, hertz, 0.2, 0.5) -
    20 * Math.log10(0.3);
  it('pass and stop what their kind says, by 12 dB an octave with two poles and 6 with one', () => {
    expect(through('lowpass2', 'low', 220)).toBeGreaterThan(-0.5);
    expect(through('lowpass2', 'high', 3520)).toBeCloseTo(-24, -0.5);
    expect(through('lowpass1', 'high', 3520)).toBeCloseTo(-12.3, 0);
    expect(through('highpass2', 'low', 220)).toBeCloseTo(-24, -0.5);
    expect(through('highpass1', 'low', 220)).toBeCloseTo(-12.3, 0);
    expect(through('highpass2', 'high', 3520)).toBeGreaterThan(-0.5);
    expect(through('bandpass', 'low', 220)).toBeLessThan(-8);
  });
  it('of a notch take its centre away', () => {
    const { left } = play([zone('a', { cutoffHz: 440, filter: 'notch' })], [start()], 0.6);
    expect(partial(left, 440, 0.3, 0.5)).toBeLessThan(-50);
  });
  it('blend zones of different filters in voices of their own', () => {
    const { engine, left } = play([zone('low', { cutoffHz: 800 }), zone('high', {})], [start()], 0.5);
    expect(engine.voiceCount).toBe(2);
    expect(partial(left, 3520, 0.1, 0.4)).toBeGreaterThan(-11);
  });
});

describe('moves', () => {
  const pitchAt = (sound: Float32Array, from: number, to: number) => {
    const rises: number[] = [];
    for (let i = at(from) + 1; i < at(to); i++)
      if (sound[i - 1] < 0 && sound[i] >= 0) rises.push(i - 1 - sound[i - 1] / (sound[i] - sound[i - 1]));
    return ((rises.length - 1) * RATE) / (rises[rises.length - 1] - rises[0]);
  };
  const cents = (hertz: number) => 1200 * Math.log2(hertz / 440);
  it('of an envelope bend the pitch and come back', () => {
    const move = {
      target: 'tuneCents' as const,
      depth: 100,
      attackSeconds: 0,
      holdSeconds: 0.2,
      decaySeconds: 0.1,
      sustain: 0,
      releaseSeconds: 0,
    };
    const { left } = play([zone('a', { moves: [move] })], [start()], 0.8);
    expect(cents(pitchAt(left, 0.05, 0.18))).toBeCloseTo(100, 0);
    expect(cents(pitchAt(left, 0.4, 0.7))).toBeCloseTo(0, 0);
  });
  it('of an LFO swing it, as far as a controller says', () => {
    const lfo = {
      target: 'tuneCents' as const,
      depth: 0,
      hertz: 2,
      delaySeconds: 0,
      fadeSeconds: 0,
      controller: 77,
      controllerDepth: 50,
    };
    const swing = (value: number) => {
      const { left } = play([zone('a', { lfos: [lfo] })], [control(77, value), start()], 1);
      return cents(pitchAt(left, 0.1, 0.15)) - cents(pitchAt(left, 0.35, 0.4));
    };
    expect(Math.abs(swing(0))).toBeLessThan(1);
    expect(swing(127)).toBeGreaterThan(80);
  });
  it('of an envelope open a filter', () => {
    const move = {
      target: 'cutoffCents' as const,
      depth: 4800,
      attackSeconds: 0.4,
      holdSeconds: 1,
      decaySeconds: 0,
      sustain: 1,
      releaseSeconds: 0,
    };
    const { left } = play([zone('high', { cutoffHz: 500, moves: [move] })], [start()], 0.8);
    expect(partial(left, 3520, 0.5, 0.7) - partial(left, 3520, 0.02, 0.1)).toBeGreaterThan(15);
  });
});

describe('places', () => {
  it('of a zone and a controller set left and right by the balance law', () => {
    const { left, right } = play([zone('a', { pan: -1 })], [start()], 0.4);
    expect(meanLevelDb([right], at(0.1), at(0.3))).toBeLessThan(-100);
    expect(partial(left, 440, 0.1, 0.3)).toBeCloseTo(20 * Math.log10(0.3) + 3.01, 1);
    const ridden = play(
      [zone('a', { modulations: [{ controller: 10, target: 'pan', depth: 1, curve: 'bipolar' }] })],
      [control(10, 127), start()],
      0.4,
    );
    expect(meanLevelDb([ridden.left], at(0.1), at(0.3))).toBeLessThan(-60);
  });
});

describe('endings', () => {
  it('leave a loop that is only for the held key, and quieten recorded ends by the time held', () => {
    const loop = { start: at(0.1), end: at(0.2), untilRelease: true };
    const long = zone('a', {
      loop,
      endFrame: at(0.3),
      envelope: { ...plainZone({ samples: {} }).envelope, releaseSeconds: 2 },
    });
    const { left } = play([long], [start(), stop(1, at(1))], 2);
    expect(partial(left, 440, 0.7, 0.95)).toBeGreaterThan(-12);
    expect(meanLevelDb([left], at(1.4), at(1.6))).toBeLessThan(-100);
    const release = (heldSeconds: number) =>
      partial(
        play(
          [
            zone('low', { envelope: { ...plainZone({ samples: {} }).envelope, releaseSeconds: 0.01 } }),
            zone('high', { role: 'release', oneShot: true, decayDbPerSecond: 12 }),
          ],
          [start(), stop(1, at(heldSeconds))],
          heldSeconds + 0.4,
        ).left,
        3520,
        heldSeconds + 0.1,
        heldSeconds + 0.3,
      );
    expect(release(0.5) - release(1.5)).toBeCloseTo(12, 0);
  });
});

describe('a release that falls straight', () => {
  const held = (releaseDb: number | undefined, releaseSeconds = 0.8) =>
    zone('a', {
      loop: { start: at(0.1), end: at(0.2) },
      envelope: {
        ...plainZone({ samples: {} }).envelope,
        releaseSeconds,
        ...(releaseDb ? { releaseDb } : {}),
      },
    });
  const levels = (one: Zone, stopEvent = stop(1, at(1))) => {
    const { left } = play([one], [start(), stopEvent], 2.2);
    const held1 = partial(left, 440, 0.7, 0.95);
    return {
      left,
      after: (seconds: number) => partial(left, 440, 1 + seconds - 0.02, 1 + seconds + 0.02) - held1,
    };
  };
  it('is so many decibels down after each share of its time', () => {
    const { after, left } = levels(held(80));
    for (const share of [0.125, 0.25, 0.5, 0.75])
      expect(Math.abs(after(0.8 * share) + 80 * share), `${share}`).toBeLessThan(0.6);
    // At its end it is gone, without a step.
    expect(meanLevelDb([left], at(1.82), at(2.1))).toBeLessThan(-140);
    let jump = 0;
    for (let i = at(1.7); i < at(1.9); i++) jump = Math.max(jump, Math.abs(left[i] - left[i - 1]));
    expect(jump).toBeLessThan(1e-4);
  });
  it('is an equal-power fade where a zone asks for none, and where somebody else sets the time', () => {
    // At half of its time a fade is at sin 45°, 3 dB down.
    expect(Math.abs(levels(held(undefined)).after(0.4) + 3.01)).toBeLessThan(0.3);
    const set = { ...stop(1, at(1)), fadeSeconds: 0.8 };
    expect(Math.abs(levels(held(80), set).after(0.4) + 3.01)).toBeLessThan(0.3);
  });
});

describe('positions at different rates', () => {
  const both = () => [
    zone('a', {
      samples: { near: { sample: 'a' }, far: { sample: 'half' } },
      loop: { start: at(0.5), end: at(1.5) },
    }),
  ];
  it('stay in tune and in step, also through a loop', () => {
    const { left } = play(both(), [start()], 4, ['near', 'far']);
    // Two equal sines in step add up to twice the level, before and after the loop's seam.
    for (const [from, to] of [
      [0.2, 0.4],
      [1.6, 2],
      [3, 3.6],
    ])
      expect(partial(left, 440, from, to)).toBeCloseTo(20 * Math.log10(0.6), 1);
  });
  it('are attached and taken away while the engine runs', () => {
    const { engine, prepared } = engineWith([zone('a')], ['mix'], new Map());
    engine.apply(start());
    expect(meanLevelDb([render(engine, 0.2).left], 0, at(0.2))).toBeLessThan(-100);
    attachAudio(prepared, AUDIO);
    engine.apply(start({ sound: 2 }));
    expect(partial(render(engine, 0.4).left, 440, 0.1, 0.3)).toBeGreaterThan(-12);
    engine.stopAll(0.01);
    render(engine, 0.1);
    attachAudio(prepared, [['a', null]]);
    engine.apply(start({ sound: 3 }));
    expect(engine.voiceCount).toBe(0);
  });
});

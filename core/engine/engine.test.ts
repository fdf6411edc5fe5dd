import { describe, expect, it } from 'vitest';
import { magnitudeSpectrum, hann } from '../dsp/index.ts';
import { meanLevelDb } from '../measure/index.ts';
import { mixOf, plainZone, instrumentOf, sine, sineInstrument, startEvent } from '../testing/fixtures.ts';
import {
  Engine,
  fadeGain,
  prepareInstrument,
  type EngineEvent,
  type SampleAudio,
  type StartEvent,
} from './index.ts';
import type { Instrument } from '../catalogue/index.ts';

const start = (frame: number, more: Partial<StartEvent> = {}) => startEvent({ frame, ...more });

function render(
  instrument: Instrument,
  audio: ReadonlyMap<string, SampleAudio>,
  events: EngineEvent[],
  blocks: number,
  adjust?: (engine: Engine, block: number) => void,
  voices = 64,
) {
  const engine = new Engine(voices);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix(mixOf(instrument.positions.map((p) => p.id)), 48000);
  engine.reset();
  engine.setEvents(events);
  const left = new Float32Array(blocks * 128);
  const right = new Float32Array(blocks * 128);
  for (let b = 0; b < blocks; b++) {
    adjust?.(engine, b);
    engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
  }
  return { left, right, engine };
}

const biggestJump = (sound: Float32Array) =>
  sound.reduce((most, v, i) => Math.max(most, Math.abs(v - (sound[i - 1] ?? 0))), 0);
const one = (zones: ReturnType<typeof plainZone>[], audio: Map<string, SampleAudio>, positions?: string[]) =>
  instrumentOf([{ id: 'long', name: 'long', zones }], audio, positions);

describe('voices', () => {
  const { instrument, audio } = sineInstrument();
  const long = instrument.articulations.findIndex((a) => a.id === 'long');

  it('start exactly at their frame', () => {
    const loud = new Map([['a', sine(440, 1, 0.5, 0)]]);
    const { left } = render(
      one([plainZone({ samples: { mix: { sample: 'a' } } })], loud),
      loud,
      [start(301)],
      8,
    );
    expect(Math.max(...left.subarray(0, 301).map(Math.abs))).toBe(0);
    expect(Math.abs(left[305])).toBeGreaterThan(0.01);
  });
  it('play the pitch that is asked for within a cent', () => {
    for (const key of [60, 69, 75]) {
      const { left } = render(instrument, audio, [start(0, { articulation: long, key })], 256);
      const n = 16384;
      const window = hann(n);
      const spectrum = magnitudeSpectrum(
        Float64Array.from(left.subarray(8192, 8192 + n), (v, i) => v * window[i]),
      );
      const peak = spectrum.indexOf(Math.max(...spectrum));
      const [a, b, c] = [-1, 0, 1].map((d) => Math.log(spectrum[peak + d]));
      const hz = ((peak + (0.5 * (a - c)) / (a - 2 * b + c)) * 48000) / n;
      expect(Math.abs(1200 * Math.log2(hz / (440 * 2 ** ((key - 69) / 12))))).toBeLessThan(1);
    }
  });
  it('loop without a click for as long as they are held, and end in exact silence', () => {
    const stop: EngineEvent = {
      kind: 'stop',
      track: 0,
      frame: 48000 * 4,
      sound: 1,
      fadeSeconds: -1,
      release: true,
    };
    const { left } = render(instrument, audio, [start(0, { articulation: long, key: 71 }), stop], 1700);
    const slope = 2 * Math.PI * 494 * 0.5 * (1 / 48000) * 1.3;
    expect(biggestJump(left)).toBeLessThan(slope);
    expect(meanLevelDb([left], 48000 * 3, 48000 * 3 + 4800)).toBeGreaterThan(-12);
    expect(Math.max(...left.subarray(48000 * 4 + 4800).map(Math.abs))).toBe(0);
  });
  it('give the same samples every time', () => {
    const events = [
      start(77, { articulation: long, key: 64 }),
      start(5000, { articulation: long, key: 71, sound: 2 }),
    ];
    expect(render(instrument, audio, events, 200).left).toEqual(render(instrument, audio, events, 200).left);
  });
  it('give up the quietest without a click when there are too many, and say so', () => {
    const events = Array.from({ length: 40 }, (_, i) =>
      start(i * 400, { articulation: long, sound: i + 1, key: 60 + (i % 12) }),
    );
    const { engine, left } = render(instrument, audio, events, 200, undefined, 8);
    expect(engine.stolen).toBe(32);
    expect(engine.voiceCount).toBeLessThanOrEqual(8 + 48);
    expect(biggestJump(left)).toBeLessThan(0.6);
  });
  it('give way to others over the limit of the machine, those heard least first, by track and position levels too', () => {
    const { audio: sounds, instrument: sound } = sineInstrument();
    const engine = new Engine(64);
    engine.ensureTracks(2);
    const prepared = prepareInstrument(sound, sounds);
    for (const [i, gainDb] of [0, -30].entries()) {
      engine.tracks[i].setInstrument(prepared);
      engine.tracks[i].setMix({ ...mixOf(['mix']), gainDb }, 48_000);
    }
    engine.reset();
    // Louder by itself, but on the track that is turned down.
    const soft = { articulation: long, velocity: 127, key: 69 };
    engine.setEvents([
      start(0, { ...soft, track: 0, sound: 1 }),
      start(0, { ...soft, track: 1, sound: 2 }),
      start(0, { ...soft, track: 0, sound: 3, key: 71 }),
    ]);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    for (let b = 0; b < 40; b++) engine.renderMix(left, right);
    expect([engine.voiceCount, engine.takeGivenUp()]).toEqual([3, null]);
    engine.voiceLimit = 2;
    for (let b = 0; b < 20; b++) engine.renderMix(left, right);
    expect(engine.voiceCount).toBe(2);
    expect(engine.takeGivenUp()).toEqual({ track: 1, key: 69, why: 'machine' });
    expect([engine.takeGivenUp(), engine.stolen]).toEqual([null, 1]);
  });
  it('tell which key of which track was given up for a new one', () => {
    const { engine } = render(
      instrument,
      audio,
      [60, 62, 64].map((key, i) => start(i * 2000, { articulation: long, key, sound: i })),
      60,
      undefined,
      2,
    );
    expect(engine.takeGivenUp()).toMatchObject({ track: 0, why: 'track' });
    expect(engine.stolen).toBe(1);
  });
  it('survive missing audio, zero-length notes and keys that have no zone', () => {
    const events: EngineEvent[] = [
      start(0, { key: 3 }),
      start(0, { articulation: 9 }),
      start(10, { articulation: long }),
      { kind: 'stop', track: 0, frame: 10, sound: 1, fadeSeconds: 0, release: true },
    ];
    const { left } = render(instrument, new Map(), events, 10);
    expect(Math.max(...left)).toBe(0);
  });
});

describe('layers', () => {
  it('keep their summed power through a crossfade of unlike material', () => {
    const audio = new Map([
      ['soft', sine(440, 3, 0.4)],
      ['hard', sine(700, 3, 0.4)],
    ]);
    const fade = (inLow: number, inHigh: number, outLow: number, outHigh: number) => [
      { controller: 1, inLow, inHigh, outLow, outHigh },
    ];
    const zones = [
      plainZone({ samples: { mix: { sample: 'soft' } }, fades: fade(0, 0, 20, 110) }),
      plainZone({ samples: { mix: { sample: 'hard' } }, fades: fade(20, 110, 127, 127) }),
    ];
    const levels: number[] = [];
    for (const value of [0, 30, 50, 65, 80, 100, 127]) {
      const { left } = render(
        one(zones, audio),
        audio,
        [{ kind: 'control', frame: 0, track: 0, controller: 1, value }, start(0)],
        200,
      );
      levels.push(meanLevelDb([left], 9600, 19200));
    }
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(0.5);
  });
  it('meet in equal power at the middle', () => {
    const a = fadeGain({ controller: 1, inLow: 0, inHigh: 0, outLow: 20, outHigh: 100 }, 60);
    const b = fadeGain({ controller: 1, inLow: 20, inHigh: 100, outLow: 127, outHigh: 127 }, 60);
    expect(a * a + b * b).toBeCloseTo(1, 9);
  });
  it('glide when the controller jumps', () => {
    const audio = new Map([['a', sine(200, 3, 0.5)]]);
    const zones = [
      plainZone({
        samples: { mix: { sample: 'a' } },
        fades: [{ controller: 1, inLow: 0, inHigh: 127, outLow: 127, outHigh: 127 }],
      }),
    ];
    const events: EngineEvent[] = [
      start(0),
      { kind: 'control', frame: 12_800, track: 0, controller: 1, value: 127 },
      { kind: 'control', frame: 25_600, track: 0, controller: 1, value: 0 },
    ];
    expect(biggestJump(render(one(zones, audio), audio, events, 300).left)).toBeLessThan(0.03);
  });
});

describe('positions', () => {
  const audio = new Map([
    ['near', sine(440, 2, 0.5)],
    ['far', sine(440, 2, 0.5)],
  ]);
  const instrument = one(
    [plainZone({ samples: { close: { sample: 'near' }, far: { sample: 'far' } } })],
    audio,
    ['close', 'far'],
  );
  const level = (change: Parameters<Engine['tracks'][0]['setMix']>[0]['positions']) => {
    const { left, right } = render(instrument, audio, [start(0)], 150, (engine, block) => {
      if (block === 0) {
        const base = mixOf(['close', 'far']);
        engine.tracks[0].setMix({ ...base, positions: { ...base.positions, ...change } }, 48000);
        engine.tracks[0].reset();
      }
    });
    return { left: meanLevelDb([left], 9600, 19200), right: meanLevelDb([right], 9600, 19200) };
  };
  const plain = { levelDb: 0, pan: 0, width: 1, muted: false, inverted: false, delayMs: 0 };
  it('add up, mute, and cancel when one is turned over', () => {
    const both = level({}).left;
    expect(level({ far: { ...plain, muted: true } }).left - both).toBeCloseTo(-6.02, 1);
    expect(level({ far: { ...plain, levelDb: -6.02 } }).left - both).toBeCloseTo(-2.5, 1);
    expect(level({ far: { ...plain, inverted: true } }).left).toBeLessThan(-90);
  });
  it('pan to one side', () => {
    const { left, right } = level({ far: { ...plain, muted: true }, close: { ...plain, pan: 1 } });
    expect(right).toBeGreaterThan(-8);
    expect(left).toBeLessThan(-90);
  });
  it('cancel a half period later', () => {
    expect(level({ far: { ...plain, delayMs: 1000 / 880 } }).left).toBeLessThan(level({}).left - 20);
  });
  it('change level while sounding without a click', () => {
    const { left } = render(instrument, audio, [start(0)], 300, (engine, block) => {
      if (block !== 100) return;
      const base = mixOf(['close', 'far']);
      engine.tracks[0].setMix(
        { ...base, positions: { close: { ...plain, muted: true }, far: { ...plain, delayMs: 30 } } },
        48000,
      );
    });
    expect(biggestJump(left.subarray(4800))).toBeLessThan(0.09);
  });
});

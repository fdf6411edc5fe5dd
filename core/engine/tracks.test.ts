import { describe, expect, it } from 'vitest';
import { meanLevelDb } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent as start } from '../testing/fixtures.ts';
import {
  Engine,
  FIRST_PLANNED_SOUND,
  PITCH_BEND,
  prepareInstrument,
  sortEvents,
  velocityGain,
  type EngineEvent,
} from './index.ts';
import type { Zone } from '../catalogue/index.ts';

const control = (controller: number, value: number, frame = 0): EngineEvent => ({
  kind: 'control',
  frame,
  track: 0,
  controller,
  value,
});

function play(
  zone: Partial<Zone>,
  events: EngineEvent[],
  blocks: number,
  mix: Partial<TrackMix> = {},
  prepare?: (engine: Engine) => void,
) {
  const audio = new Map([['a', sine(440, 3, 0.5, 0.001)]]);
  const instrument = instrumentOf(
    [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample: 'a' } }, ...zone })] }],
    audio,
  );
  const engine = new Engine(16);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix({ ...mixOf(['mix']), ...mix }, 48000);
  prepare?.(engine);
  engine.reset();
  engine.setEvents(sortEvents(events));
  const left = new Float32Array(blocks * 128);
  const right = new Float32Array(blocks * 128);
  for (let b = 0; b < blocks; b++)
    engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
  return { left, right, engine };
}

const level = (sound: Float32Array, from: number, to: number) => meanLevelDb([sound], from, to);
const crossings = (sound: Float32Array, from: number, to: number) => {
  let count = 0;
  for (let i = from + 1; i < to; i++) if (sound[i - 1] < 0 && sound[i] >= 0) count++;
  return count / ((to - from) / 48000);
};

describe('envelopes', () => {
  it('rise over their attack and fall to their sustain', () => {
    const envelope = {
      attackSeconds: 0.2,
      holdSeconds: 0.1,
      decaySeconds: 0.2,
      sustain: 0.25,
      releaseSeconds: 0.1,
    };
    const { left } = play({ envelope }, [start()], 400);
    const at = (seconds: number) => level(left, seconds * 48000, (seconds + 0.02) * 48000);
    expect(at(0.09) - at(0.25)).toBeCloseTo(-6, 0);
    expect(at(0.8) - at(0.25)).toBeCloseTo(-12.04, 0);
  });
  it('fade in with equal power when told to', () => {
    const { left } = play({}, [start({ fadeInSeconds: 0.2 })], 200);
    expect(level(left, 4560, 5040) - level(left, 14_400, 14_880)).toBeCloseTo(-3, 0);
  });
});

describe('controllers', () => {
  it('scale the level by velocity as the zone tracks it', () => {
    expect(velocityGain(127, 1)).toBe(1);
    expect(velocityGain(64, 0)).toBe(1);
    // Turned round: what is struck softly is loud.
    expect(velocityGain(127, -1)).toBe(0);
    expect(velocityGain(63.5, -1)).toBeCloseTo(0.25, 9);
    expect(velocityGain(127, -0.5)).toBeCloseTo(0.5, 9);
    expect(velocityGain(0, -0.5)).toBeCloseTo(1, 9);
    expect(20 * Math.log10(velocityGain(64, 1))).toBeCloseTo(-11.9, 1);
    const [soft, hard] = [40, 127].map((velocity) =>
      level(play({ velocityTrack: 1 }, [start({ velocity })], 60).left, 2400, 7200),
    );
    expect(hard - soft).toBeCloseTo(40 * Math.log10(127 / 40), 1);
  });
  it('bend by two semitones at the ends', () => {
    const hz = (value: number) =>
      crossings(play({}, [control(PITCH_BEND, value), start()], 400).left, 4800, 48_000);
    expect(hz(64)).toBeCloseTo(440, -0.5);
    expect(hz(128) / 440).toBeCloseTo(2 ** (2 / 12), 2);
    expect(hz(0) / 440).toBeCloseTo(2 ** (-2 / 12), 2);
  });
  it('turn the whole track down by expression', () => {
    const at = (value: number) => level(play({}, [control(11, value), start()], 100).left, 6000, 12_000);
    expect(at(127) - at(64)).toBeCloseTo(40 * Math.log10(127 / 64), 0);
  });
  it('move level and cutoff where a zone says so', () => {
    const at = (zone: Partial<Zone>, value: number) =>
      level(play(zone, [control(1, value), start()], 100).left, 6000, 12_000);
    const louder = { modulations: [{ controller: 1, target: 'gainDb' as const, depth: 12 }] };
    expect(at(louder, 127) - at(louder, 0)).toBeCloseTo(12, 1);
    const brighter = {
      cutoffHz: 110,
      modulations: [{ controller: 1, target: 'cutoffCents' as const, depth: 4800 }],
    };
    expect(at(brighter, 127) - at(brighter, 0)).toBeGreaterThan(18);
  });
});

describe('filter', () => {
  it('is 3 dB down at its cutoff and 12 dB an octave beyond', () => {
    const through = (cutoffHz: number) =>
      level(play({ cutoffHz }, [start()], 100).left, 6000, 12_000) -
      level(play({}, [start()], 100).left, 6000, 12_000);
    expect(through(440)).toBeCloseTo(-3, 0);
    expect(through(110)).toBeLessThan(-22);
    expect(through(8000)).toBeGreaterThan(-0.2);
  });
});

describe('takes and roles', () => {
  it('play the take that is asked for, modulo those there are', () => {
    const silentExcept = (take: number) =>
      level(play({ take: 1, takes: 3 }, [start({ take })], 40).left, 1200, 4800);
    expect(silentExcept(1)).toBeGreaterThan(-20);
    expect(silentExcept(4)).toBeGreaterThan(-20);
    expect(silentExcept(0)).toBe(-200);
  });
  it('let one-shots ring when a key is let go', () => {
    const stop: EngineEvent = {
      kind: 'stop',
      track: 0,
      frame: 4800,
      sound: 1,
      fadeSeconds: -1,
      release: true,
    };
    expect(level(play({ oneShot: true }, [start(), stop], 200).left, 12_000, 24_000)).toBeGreaterThan(-20);
    expect(level(play({}, [start(), stop], 200).left, 12_000, 24_000)).toBe(-200);
  });
});

describe('hall, plans and meters', () => {
  const response = { left: new Float32Array(9600), right: new Float32Array(9600), earlyFrames: 0 };
  response.left[4800] = response.right[4800] = 0.5;
  const dry: EngineEvent[] = [
    start(),
    { kind: 'stop', track: 0, frame: 2400, sound: 1, fadeSeconds: 0.001, release: false },
  ];
  it('sends as much to the hall as the track says, and nothing at the bottom', () => {
    const echo = (hallSendDb: number) =>
      level(play({}, dry, 100, { hallSendDb }, (engine) => engine.setHall(response)).left, 4900, 7000);
    expect(echo(-60)).toBe(-200);
    expect(echo(0) - echo(-12)).toBeCloseTo(12, 1);
  });
  it('lets go of what a changed plan does not go on with, and leaves alone what hands play', () => {
    const planned = FIRST_PLANNED_SOUND;
    const kept = { kind: 'keep', track: 0, frame: 9600, sounds: [planned + 1] } as const;
    const events: EngineEvent[] = [1, 2].map((n) => start({ sound: planned + n }));
    const { engine } = play({}, [...events, start({ sound: 7 }), kept], 60);
    expect(engine.voiceCount).toBe(3);
    for (let b = 0; b < 100; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    expect(engine.voiceCount).toBe(2);
  });
  it('takes events as they come, and forgets those of one track from a frame on', () => {
    const { engine } = play({}, [start()], 4);
    engine.addEvents([start({ frame: 1000, sound: 2 }), start({ frame: 5000, sound: 3 })]);
    engine.dropEvents(0, 2000);
    for (let b = 4; b < 50; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    expect(engine.voiceCount).toBe(2);
    // A little late is begun at once, once; a tenth of a second late is not.
    engine.addEvents([start({ frame: 1500, sound: 4 }), start({ frame: 1000, sound: 2 })]);
    for (let b = 0; b < 4; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    expect(engine.voiceCount).toBe(2);
    engine.addEvents([start({ frame: 6000, sound: 5 }), start({ frame: 6000, sound: 2 })]);
    for (let b = 0; b < 4; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    expect(engine.voiceCount).toBe(3);
    engine.addEvents([{ kind: 'stop', track: 0, frame: 7000, sound: 5, fadeSeconds: 0, release: false }]);
    for (let b = 0; b < 4; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    // An end that comes late still ends what sounds.
    engine.addEvents([{ kind: 'stop', track: 0, frame: 2000, sound: 2, fadeSeconds: 0, release: false }]);
    for (let b = 0; b < 4; b++) engine.renderMix(new Float32Array(128), new Float32Array(128));
    expect(engine.voiceCount).toBe(1);
  });
  it('meters what is heard', () => {
    const { engine } = play({}, [start()], 400);
    expect(engine.tracks[0].peak).toBeCloseTo(0.5, 2);
    expect(engine.tracks[0].buses[0].peak).toBeCloseTo(0.5, 2);
    expect(engine.meter.momentary).toBeGreaterThan(-12);
  });
});

describe('the tone of a track', () => {
  const at = (eq: TrackMix['eq']) => level(play({}, [start()], 300, { eq }).left, 12_000, 36_000);
  it('lifts and lowers what sounds by what its bands say at that pitch', () => {
    const plain = at(undefined);
    const peak = { shape: 'peak', hertz: 440, q: 1 } as const;
    expect(at([{ ...peak, gainDb: 6 }]) - plain).toBeCloseTo(6, 1);
    expect(at([{ ...peak, gainDb: -9 }]) - plain).toBeCloseTo(-9, 1);
    const high = { shape: 'high shelf', hertz: 6000, gainDb: -12, q: 0.7 } as const;
    expect(Math.abs(at([high]) - plain)).toBeLessThan(0.1);
    expect(
      at([
        { ...peak, gainDb: 3 },
        { ...peak, gainDb: 3 },
      ]) - plain,
    ).toBeCloseTo(6, 1);
  });
  it('glides to another setting without a click', () => {
    const jump = (sound: Float32Array) =>
      sound.reduce((most, value, i) => (i < 9000 ? 0 : Math.max(most, Math.abs(value - sound[i - 1]))), 0);
    const peak = { shape: 'peak', hertz: 440, q: 1 } as const;
    const steady = play({}, [start()], 200, { eq: [{ ...peak, gainDb: 6 }] }).left;
    const moved = play({}, [start()], 1, {});
    const left = new Float32Array(200 * 128);
    for (let b = 0; b < 200; b++) {
      if (b === 100)
        moved.engine.tracks[0].setMix({ ...mixOf(['mix']), eq: [{ ...peak, gainDb: 6 }] }, 48000);
      moved.engine.renderMix(left.subarray(b * 128, (b + 1) * 128), new Float32Array(128));
    }
    expect(jump(left)).toBeLessThan(1.1 * jump(steady));
  });
});

describe('letting everything go', () => {
  it('ends what sounds on one track, or on all', () => {
    const both = (act: (engine: Engine) => void) => {
      const audio = new Map([['a', sine(440, 3, 0.3, 0.001)]]);
      const instrument = instrumentOf(
        [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample: 'a' } } })] }],
        audio,
      );
      const engine = new Engine(16);
      engine.ensureTracks(2);
      // One on each side, so that they are told apart.
      [-1, 1].forEach((pan, i) => {
        engine.tracks[i].setInstrument(prepareInstrument(instrument, audio));
        engine.tracks[i].setMix({ ...mixOf(['mix']), pan }, 48_000);
      });
      engine.reset();
      engine.setEvents([start({ track: 0 }), start({ track: 1, sound: 2 })]);
      const [left, right] = [new Float32Array(128 * 60), new Float32Array(128 * 60)];
      for (let b = 0; b < 60; b++) {
        if (b === 20) act(engine);
        engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
      }
      return [left, right].map((one) => level(one, 50 * 128, 60 * 128) > -40);
    };
    expect(both(() => undefined)).toEqual([true, true]);
    expect(both((engine) => engine.stopAll(0.02, 0))).toEqual([false, true]);
    expect(both((engine) => engine.stopAll(0.02, 1))).toEqual([true, false]);
    expect(both((engine) => engine.stopAll(0.02))).toEqual([false, false]);
  });
});

describe('controllers that rest elsewhere for one instrument', () => {
  const audio = new Map([['a', sine(440, 3, 0.5, 0.001)]]);
  const zone = plainZone({
    samples: { mix: { sample: 'a' } },
    modulations: [{ controller: 20, target: 'gainDb', depth: -20 }],
  });
  const made = (rests?: Record<number, number>) =>
    prepareInstrument(
      { ...instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], audio), ...(rests ? { rests } : {}) },
      audio,
    );
  const heard = (prepare: (engine: Engine) => void, events: EngineEvent[] = []) => {
    const engine = new Engine(16);
    engine.ensureTracks(1);
    prepare(engine);
    engine.tracks[0].setMix(mixOf(['mix']), 48_000);
    engine.reset();
    engine.setEvents(sortEvents([start(), ...events]));
    const [left, right] = [new Float32Array(12_800), new Float32Array(12_800)];
    for (let at = 0; at < left.length; at += 128)
      engine.renderMix(left.subarray(at, at + 128), right.subarray(at, at + 128));
    return level(left, 6400, 12_800);
  };
  const plain = heard((engine) => engine.tracks[0].setInstrument(made()));
  it('are there from the first note, until they are moved', () => {
    const rested = heard((engine) => engine.tracks[0].setInstrument(made({ 20: 127 })));
    expect(rested - plain).toBeCloseTo(-20, 1);
    const half = heard((engine) => engine.tracks[0].setInstrument(made({ 20: 63.5 })));
    expect(half - plain).toBeCloseTo(-10, 1);
    const moved = heard((engine) => engine.tracks[0].setInstrument(made({ 20: 127 })), [control(20, 0)]);
    expect(moved - plain).toBeCloseTo(0, 1);
  });
  it('go with it, unless they were moved', () => {
    const left = heard((engine) => {
      engine.tracks[0].setInstrument(made({ 20: 127 }));
      engine.tracks[0].setInstrument(made());
    });
    expect(left - plain).toBeCloseTo(0, 1);
    const other = heard((engine) => {
      engine.tracks[0].setInstrument(made({ 20: 127 }));
      engine.tracks[0].setControl(20, 63.5);
      engine.tracks[0].setInstrument(made({ 20: 127, 21: 3 }));
    });
    expect(other - plain).toBeCloseTo(-10, 1);
    const again = heard((engine) => {
      engine.tracks[0].setInstrument(made({ 20: 127 }));
      engine.tracks[0].setControl(20, 0);
      engine.tracks[0].restControllers();
    });
    expect(again - plain).toBeCloseTo(-20, 1);
  });
});

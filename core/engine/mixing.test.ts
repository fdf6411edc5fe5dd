import { describe, expect, it } from 'vitest';
import { meanLevelDb } from '../measure/index.ts';
import { PLAIN_POSITION, type EqBand, type TrackMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../testing/fixtures.ts';
import { Engine, prepareInstrument, sortEvents, type EngineEvent } from './index.ts';
import type { Zone } from '../catalogue/index.ts';

const RATE = 48_000;

/** A tone from some positions, each with a recording of its own. */
function play(
  hz: number,
  positions: readonly string[],
  zone: Partial<Zone>,
  mix: Partial<TrackMix>,
  events: EngineEvent[] = [startEvent()],
  frames = 38_400,
) {
  const audio = new Map(positions.map((id) => [id, sine(hz, 2, 0.4)]));
  const samples = Object.fromEntries(positions.map((id) => [id, { sample: id }]));
  const instrument = instrumentOf(
    [{ id: 'long', name: 'long', zones: [plainZone({ samples, ...zone })] }],
    audio,
    [...positions],
  );
  const engine = new Engine(16);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix({ ...mixOf([...positions]), ...mix }, RATE);
  engine.reset();
  engine.setEvents(sortEvents(events));
  const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += 128)
    engine.renderMix(left.subarray(at, at + 128), right.subarray(at, at + 128));
  const level = (sound: Float32Array) => meanLevelDb([sound], 19_200, 38_400);
  return { engine, left, right, leftDb: level(left), rightDb: level(right) };
}

const only = (positions: readonly string[], heard: string): TrackMix['positions'] =>
  Object.fromEntries(positions.map((id) => [id, { ...PLAIN_POSITION, muted: id !== heard }]));

describe('filters over positions', () => {
  const all = ['a', 'b', 'c', 'd', 'e', 'f', 'g'];
  it.each(['lowpass2', 'highpass2', 'bandpass', 'notch', 'lowpass1', 'highpass1'] as const)(
    '%s works on each of one to seven positions as on any other',
    (filter) => {
      const zone = { filter, cutoffHz: 300, resonanceDb: 3 };
      const alone = play(700, ['a'], zone, {}).leftDb;
      // In each place of the pairs and fours that are filtered together.
      for (const count of [3, 4, 7]) {
        const positions = all.slice(0, count);
        for (const id of [positions[0], positions[count - 1]])
          expect(play(700, positions, zone, { positions: only(positions, id) }).leftDb).toBeCloseTo(alone, 3);
        const together = play(700, positions, zone, { gainDb: -20 * Math.log10(count) });
        expect(together.leftDb).toBeCloseTo(alone, 2);
      }
    },
  );
  it('ring out when they close upon a sound: one that opens fully is left', () => {
    const modulations = [{ controller: 1, target: 'cutoffCents' as const, depth: 9600 }];
    const control = (value: number, frame: number): EngineEvent => ({
      kind: 'control',
      frame,
      track: 0,
      controller: 1,
      value,
    });
    const { left } = play(700, ['a'], { cutoffHz: 200, modulations }, {}, [
      control(0, 0),
      startEvent(),
      control(127, 12_800),
    ]);
    expect(meanLevelDb([left], 6400, 12_800)).toBeLessThan(-24);
    expect(meanLevelDb([left], 25_600, 38_400)).toBeCloseTo(-11, 0);
    const jump = left.reduce(
      (most, v, i) => (i > 4800 ? Math.max(most, Math.abs(v - left[i - 1])) : most),
      0,
    );
    expect(jump).toBeLessThan(0.4 * ((2 * Math.PI * 700) / RATE) * 1.2);
  });
});

describe('the level of a track', () => {
  const plain = play(440, ['a'], {}, {});
  it('is balanced with equal power, unity in the middle', () => {
    const right = play(440, ['a'], {}, { pan: 1 });
    expect(right.rightDb - plain.rightDb).toBeCloseTo(3.01, 2);
    expect(right.leftDb).toBeLessThan(-90);
    const half = play(440, ['a'], {}, { pan: -0.5 });
    expect(half.leftDb - plain.leftDb).toBeCloseTo(20 * Math.log10(Math.SQRT2 * Math.cos(Math.PI / 8)), 2);
    expect(half.rightDb - plain.rightDb).toBeCloseTo(20 * Math.log10(Math.SQRT2 * Math.sin(Math.PI / 8)), 2);
  });
  it('glides to another, over some 10 ms, and becomes exactly silent', () => {
    const { engine } = play(440, ['a'], {}, {});
    engine.tracks[0].setMix({ ...mixOf(['a']), muted: true }, RATE);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    const peaks = Array.from({ length: 100 }, () => {
      engine.renderMix(left, right);
      return Math.max(...left.map(Math.abs));
    });
    expect(peaks[0]).toBeGreaterThan(0.25);
    expect(peaks[8]).toBeLessThan(0.06);
    expect(peaks[99]).toBe(0);
    // It goes on in time while it is not heard, and comes back by a glide.
    expect(engine.voiceCount).toBe(1);
    engine.tracks[0].setMix(mixOf(['a']), RATE);
    engine.renderMix(left, right);
    const first = Math.max(...left.map(Math.abs));
    expect(first).toBeLessThan(0.15);
    for (let b = 0; b < 60; b++) engine.renderMix(left, right);
    expect(Math.max(...left.map(Math.abs))).toBeCloseTo(0.4, 2);
  });
  it('leaves positions silent that the mix does not name', () => {
    const { ['b']: _left, ...named } = mixOf(['a', 'b']).positions;
    expect(play(440, ['a', 'b'], {}, { positions: named }).leftDb).toBeCloseTo(plain.leftDb, 2);
  });
  it('is heard on one side alone, whichever it is', () => {
    for (const pan of [-1, 1]) {
      const { engine } = play(440, ['a'], {}, { pan });
      const [left, right] = [new Float32Array(128), new Float32Array(128)];
      engine.renderMix(left, right);
      const [loud, silent] = pan < 0 ? [left, right] : [right, left];
      expect(Math.max(...loud.map(Math.abs))).toBeGreaterThan(0.5);
      expect(Math.max(...silent.map(Math.abs))).toBeLessThan(1e-6);
      // From that side to nothing, and from nothing to the other.
      engine.tracks[0].setMix({ ...mixOf(['a']), muted: true }, RATE);
      for (let b = 0; b < 100; b++) engine.renderMix(left, right);
      expect(Math.max(...left.map(Math.abs), ...right.map(Math.abs))).toBe(0);
      engine.tracks[0].setMix({ ...mixOf(['a']), pan: -pan }, RATE);
      for (let b = 0; b < 60; b++) engine.renderMix(left, right);
      expect(Math.max(...silent.map(Math.abs))).toBeGreaterThan(0.5);
    }
  });
  it('is taken at once where nothing sounds', () => {
    const { engine } = play(440, ['a'], {}, {}, []);
    engine.tracks[0].setMix({ ...mixOf(['a']), gainDb: -12 }, RATE);
    engine.apply(startEvent());
    const [left, right] = [new Float32Array(1280), new Float32Array(128)];
    for (let at = 0; at < 1280; at += 128) engine.renderMix(left.subarray(at, at + 128), right);
    expect(Math.max(...left.map(Math.abs))).toBeCloseTo(0.4 * 10 ** (-12 / 20), 2);
  });
});

describe('the tone of a track', () => {
  it('has each of eight bands at its own place', () => {
    const places = [60, 150, 350, 800, 1800, 4000, 8000, 14_000];
    const gains = [6, -6, 4, -3, 5, -8, 3, -5];
    // Narrow, so that none reaches the others.
    const eq = places.map((hertz, i): EqBand => ({ shape: 'peak', hertz, gainDb: gains[i], q: 12 }));
    places.forEach((hertz, i) => {
      const change = play(hertz, ['a'], {}, { eq }).leftDb - play(hertz, ['a'], {}, {}).leftDb;
      expect(Math.abs(change - gains[i]), `${hertz} Hz`).toBeLessThan(0.3);
    });
    const between = play(2700, ['a'], {}, { eq }).leftDb - play(2700, ['a'], {}, {}).leftDb;
    expect(Math.abs(between)).toBeLessThan(0.5);
  });
  it('lets go of a band that is taken away by a glide', () => {
    const eq: EqBand[] = [{ shape: 'peak', hertz: 440, gainDb: 12, q: 1 }];
    const { engine } = play(440, ['a'], {}, { eq });
    engine.tracks[0].setMix(mixOf(['a']), RATE);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    engine.renderMix(left, right);
    expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(1);
    for (let b = 0; b < 80; b++) engine.renderMix(left, right);
    expect(Math.max(...left.map(Math.abs))).toBeCloseTo(0.4, 2);
  });
});

describe('the delay of a position', () => {
  const impulse = (delayMs: number, change?: (engine: Engine, block: number) => void) => {
    const data = new Int16Array(9600 * 2);
    data[0] = data[1] = 20_000;
    const audio = new Map([['a', { data, channels: 2 as const, frames: 9600, rate: RATE }]]);
    const instrument = instrumentOf(
      [{ id: 'long', name: 'long', zones: [plainZone({ samples: { a: { sample: 'a' } } })] }],
      audio,
      ['a'],
    );
    const engine = new Engine(4);
    engine.ensureTracks(1);
    engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
    const set = (ms: number) =>
      engine.tracks[0].setMix(
        { ...mixOf(['a']), positions: { a: { ...PLAIN_POSITION, delayMs: ms } } },
        RATE,
      );
    set(delayMs);
    engine.reset();
    engine.setEvents([startEvent({ frame: 100 }), startEvent({ frame: 9700, sound: 2 })]);
    const [left, right] = [new Float32Array(19_200), new Float32Array(128)];
    for (let b = 0; b < 150; b++) {
      change?.(engine, b);
      engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right);
    }
    return { places: [...left].flatMap((v, i) => (Math.abs(v) > 0.3 ? i : [])), set };
  };
  it.each([0, 1, 2.5, 5.4, 30, 99.9])('is exact to the frame: %d ms', (delayMs) => {
    const frames = Math.round(delayMs * 48);
    expect(impulse(delayMs).places).toEqual([100 + frames, 9700 + frames]);
  });
  it('goes on with what is under way when it becomes longer than any before', () => {
    // The second sound is in the line when it grows, 10 ms from being heard.
    const at = (delayMs: number, to: number) =>
      impulse(delayMs, (engine, block) => {
        if (block === 77)
          engine.tracks[0].setMix(
            { ...mixOf(['a']), positions: { a: { ...PLAIN_POSITION, delayMs: to } } },
            RATE,
          );
      }).places;
    for (const to of [40, 90]) expect(at(10, to).slice(0, 2)).toEqual([100 + 480, 9700 + 480]);
    // What is known already is read at once.
    expect(at(10, 12)).toEqual([100 + 480, 9700 + 576]);
  });
  it('grows step by step, and is there as soon as the past is known', () => {
    const steps = impulse(0, (engine, block) => {
      if (block === 10 || block === 20 || block === 30)
        engine.tracks[0].setMix(
          { ...mixOf(['a']), positions: { a: { ...PLAIN_POSITION, delayMs: block } } },
          RATE,
        );
    });
    expect(steps.places).toEqual([100, 9700 + 30 * 48]);
  });
});

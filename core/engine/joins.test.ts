import { describe, expect, it } from 'vitest';
import { PowerTape } from '../testing/ear/k-level.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../testing/fixtures.ts';
import {
  blendGain,
  Engine,
  joinGain,
  prepareInstrument,
  type EngineEvent,
  type SampleAudio,
} from './index.ts';
import type { Zone } from '../catalogue/index.ts';

describe('a crossfade', () => {
  it('of unlike sounds is the equal-power one', () => {
    // sin 45° = 0.7071
    expect(joinGain(0.5, 0)).toBeCloseTo(0.7071, 4);
    expect([joinGain(0, 0), joinGain(1, 0), joinGain(-1, 0.5), joinGain(2, 0.5)]).toEqual([0, 1, 0, 1]);
  });
  it('of one sound with itself is half of each in the middle', () => {
    // sin 45° / √(1 + 1) = 0.5
    expect(joinGain(0.5, 1)).toBeCloseTo(0.5, 6);
  });
  it.each([-0.5, -0.2, 0, 0.3, 0.8, 1])('keeps the power of the sum where both agree by %f', (likeness) => {
    for (let x = 0; x <= 1; x += 0.125) {
      const [a, b] = [joinGain(x, likeness), joinGain(1 - x, likeness)];
      expect(a * a + b * b + 2 * likeness * a * b).toBeCloseTo(1, 6);
    }
  });
  it('of opposed sounds is not lifted without end', () => {
    // 0.7071 / √(1 − 0.6) = 1.118, however opposed.
    expect(joinGain(0.5, -1)).toBeCloseTo(1.118, 3);
  });
});

describe('layers that sound together', () => {
  it('keep their power: like ones are taken back, unlike ones left alone', () => {
    const half = Math.SQRT1_2;
    // Two like waves of 0.7071 add up to 1.414 of power 2; unlike ones would have power 1.
    expect(blendGain(2, [half, half], [1, 1], [0, 0, 1, 0])).toBeCloseTo(half, 6);
    expect(blendGain(2, [half, half], [1, 1], [0, 0, 0, 0])).toBe(1);
    // Half alike: √(1 / 1.5).
    expect(blendGain(2, [half, half], [1, 1], [0, 0, 0.5, 0])).toBeCloseTo(0.8165, 4);
  });
  it('count by what their recordings hold', () => {
    // Powers 4 and 1 at full gain, alike: (4 + 1) / (4 + 1 + 2·2) = 5/9.
    expect(blendGain(2, [1, 1], [4, 1], [0, 0, 1, 0])).toBeCloseTo(Math.sqrt(5 / 9), 6);
    expect(blendGain(3, [1, 0, 1], [1, 1, 1], [0, 0, 0, 1, 0, 0, 1, 1, 0])).toBeCloseTo(Math.SQRT1_2, 6);
    expect(blendGain(1, [1], [1], [0])).toBe(1);
  });
});

/** Two held sines of one pitch, the second begins somewhere else in its period. */
function instrumentOfTwo(hertz: number) {
  const audio = new Map<string, SampleAudio>([
    ['a', sine(hertz, 2, 0.4, 0.001)],
    ['b', sine(hertz, 2, 0.4, 0.001)],
  ]);
  const zone = (sample: string, more: Partial<Zone> = {}) =>
    plainZone({ samples: { mix: { sample } }, rootKey: 69, ...more });
  const instrument = instrumentOf(
    [
      { id: 'long', name: 'long', zones: [zone('a')] },
      { id: 'muted', name: 'muted', zones: [zone('b')] },
    ],
    audio,
  );
  return { instrument, audio };
}

function play(events: EngineEvent[], seconds: number, hertz = 441.7) {
  const { instrument, audio } = instrumentOfTwo(hertz);
  const engine = new Engine(16);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix(mixOf(['mix']), 48_000);
  engine.reset();
  engine.setEvents(events);
  const frames = Math.ceil((seconds * 48_000) / 128) * 128;
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  for (let at = 0; at < frames; at += 128)
    engine.renderMix(left.subarray(at, at + 128), right.subarray(at, at + 128));
  return { left, tape: new PowerTape([left, right]) };
}

describe('a sound that takes over from another of its pitch', () => {
  const first = startEvent({ sound: 1, frame: 0 });
  const handOver = (more: object, offsetSeconds = 0.5): EngineEvent[] => [
    first,
    { kind: 'stop', track: 0, frame: 24_000, sound: 1, fadeSeconds: 0.08, release: false },
    startEvent({ sound: 2, articulation: 1, frame: 24_000, offsetSeconds, fadeInSeconds: 0.08, ...more }),
  ];
  const spread = (events: EngineEvent[]) => {
    const { low, high } = play(events, 0.9).tape.extremes(0.4, 0.8, 0.02);
    return high - low;
  };
  // Half a period of 441.7 Hz later than the other has come by then: the waves are opposed.
  const opposed = 0.5 + 1 / 441.7 / 2;
  it('is placed where both waves agree: no hole and no bump, wherever it would have begun', () => {
    for (const offset of [0.5, 0.5004, opposed, 0.5013, 0.5021])
      expect(spread(handOver({ joins: 1, alignSeconds: 0.012 }, offset)), `${offset}`).toBeLessThan(0.3);
  });
  it('would fight it otherwise', () => {
    const worst = Math.max(
      ...[0.5, 0.5004, opposed, 0.5013, 0.5021].map((offset) => spread(handOver({}, offset))),
    );
    expect(worst).toBeGreaterThan(3);
  });
  it('is not moved further than it may be', () => {
    // A period is 2.26 ms; 0.2 ms cannot bring opposed waves together.
    expect(spread(handOver({ joins: 1, alignSeconds: 0.0002 }, opposed))).toBeGreaterThan(0.5);
  });
  it('joins the newest of its number: one from before the seam of a loop may still ring', () => {
    // The older sound 1 stands opposed to the newer and hardly sounds any more; the newer one is what is taken over from.
    const events: EngineEvent[] = [
      startEvent({ sound: 1, frame: 0, levelsDb: [-40] }),
      { kind: 'stop', track: 0, frame: 100, sound: 1, fadeSeconds: 1.5, release: false },
      startEvent({ sound: 1, frame: 2000, offsetSeconds: 2000 / 48_000 + opposed - 0.5 }),
      { kind: 'stop', track: 0, frame: 40_000, sound: 1, fadeSeconds: 0.08, release: false },
      startEvent({
        sound: 2,
        articulation: 1,
        frame: 40_000,
        offsetSeconds: 0.3,
        fadeInSeconds: 0.08,
        joins: 1,
        alignSeconds: 0.012,
      }),
    ];
    const { low, high } = play(events, 1.2).tape.extremes(0.72, 1.1, 0.02);
    expect(high - low).toBeLessThan(0.3);
  });
  it('comes in like any other when what it would join is gone', () => {
    const { tape } = play(
      [startEvent({ sound: 2, frame: 9600, fadeInSeconds: 0.02, joins: 7, alignSeconds: 0.01 })],
      0.6,
    );
    expect(tape.db(0.3, 0.5)).toBeGreaterThan(-20);
  });
});

describe('a sound with a level of its own', () => {
  it('goes straight from one level to the next, and keeps the last', () => {
    const level = (more: object) => {
      const { tape } = play([startEvent({ sound: 1, frame: 0, ...more })], 1);
      return [tape.db(0.02, 0.04), tape.db(0.25, 0.27), tape.db(0.7, 0.9)];
    };
    const plain = level({});
    // One value every 25 ms, twenty-one of them: −12 + 18 · t / 0.5.
    const levelsDb = Array.from({ length: 21 }, (_, i) => -12 + 18 * (i / 20));
    const ramp = level({ levelsDb });
    expect(ramp[0] - plain[0]).toBeCloseTo(-12 + 18 * 0.06, 0);
    expect(ramp[1] - plain[1]).toBeCloseTo(-12 + 18 * 0.52, 0);
    expect(ramp[2] - plain[2]).toBeCloseTo(6, 1);
    expect(level({ levelsDb: [-9] })[1] - plain[1]).toBeCloseTo(-9, 1);
    expect(level({ levelsDb: [] })).toEqual(plain);
  });
});

describe('the place a sound is entered at', () => {
  it('is counted at the pitch played', () => {
    // A recording that is silent for its first second and played an octave up speaks after half a second.
    const audio = new Map([['a', sine(220, 3, 0.4, 0.001)]]);
    const data = audio.get('a')?.data as Int16Array;
    data.fill(0, 0, 2 * 48_000);
    const instrument = instrumentOf(
      [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample: 'a' } }, rootKey: 57 })] }],
      audio,
    );
    const engine = new Engine(4);
    engine.ensureTracks(1);
    engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
    engine.tracks[0].setMix(mixOf(['mix']), 48_000);
    engine.reset();
    engine.setEvents([startEvent({ key: 69, offsetSeconds: 0.4 })]);
    const left = new Float32Array(128);
    const right = new Float32Array(128);
    let heard = -1;
    for (let block = 0; block < 100 && heard < 0; block++) {
      engine.renderMix(left, right);
      const at = left.findIndex((value) => Math.abs(value) > 0.01);
      if (at >= 0) heard = (block * 128 + at) / 48_000;
    }
    expect(heard).toBeGreaterThan(0.098);
    expect(heard).toBeLessThan(0.103);
  });
});

import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import { measuringOf } from '../testing/measuring.ts';
import type { HeardApart } from './apart.ts';
import { endsOf } from './ends.ts';
import type { HeardSample } from './zones.ts';

/** How notes end in a room whose decay and share of the sound are known: a noise that stops, and another one that dies away from there. */

const RATE = 48_000;
const HELD = 1;
const DECAY = 0.5;
const dB = (value: number) => 10 ** (value / 20);

interface Note {
  seed?: number;
  /** Direct sound against the room. */
  directDb?: number;
  levelDb?: number;
  decay?: number;
  /** Later than it was played. */
  delay?: number;
  seconds?: number;
  hissDb?: number;
}
function note({
  seed = 1,
  directDb = 6,
  levelDb = 0,
  decay = DECAY,
  delay = 0,
  seconds = 2,
  hissDb = -300,
}: Note = {}): HeardSample {
  const frames = seconds * RATE;
  const channels = [0, 1].map((side) => {
    const [direct, room, hiss] = [0, 1, 2].map((i) => whiteNoise(frames, seed * 31 + 7 * side + i + 1));
    return direct.map((value, i) => {
      const t = i / RATE - delay;
      if (t < 0) return dB(hissDb) * hiss[i];
      const falls = 10 ** ((-3 * Math.max(0, t - HELD)) / decay);
      return (
        0.1 * dB(levelDb) * ((t < HELD ? dB(directDb) * value : 0) + falls * room[i]) + dB(hissDb) * hiss[i]
      );
    });
  });
  return { channels, rate: RATE };
}
/** The same from where it is let go. */
function endOf(order: Note): HeardSample {
  const whole = note(order);
  return {
    ...whole,
    channels: whole.channels.map((side) => side.slice(Math.round((HELD + (order.delay ?? 0)) * RATE))),
  };
}
const zone = (sample: string, key: number, more: Partial<Zone> = {}) =>
  plainZone({
    samples: { near: { sample }, far: { sample: `far ${sample}` } },
    rootKey: key,
    keyLow: key,
    keyHigh: key,
    ...more,
  });
const apart = (arrivalSeconds: number) =>
  new Map<string, HeardApart>([
    ['near', { arrivalSeconds: 0, isInverted: false }],
    ['far', { arrivalSeconds, isInverted: false }],
  ]);
const ends = (
  id: string,
  zones: readonly Zone[],
  audio: Record<string, HeardSample>,
  position = 'near',
  where = apart(0),
) =>
  endsOf(measuringOf(id, zones, audio), position === 'near' ? ['near'] : ['near', position], where).slice(
    -1,
  )[0];

describe('short notes', () => {
  it.each([
    [0.5, 6],
    [0.3, 0],
  ])('tell a decay of %s s, and the direct sound %s dB above it', (decay, directDb) => {
    const audio = Object.fromEntries([1, 2, 3].map((seed) => [`${seed}`, note({ seed, decay, directDb })]));
    const found = ends(
      'staccato',
      [1, 2, 3].map((n) => zone(`${n}`, 60 + n)),
      audio,
    );
    expect(found.decay?.seconds).toBeCloseTo(decay, 1);
    expect(found.decay?.rangeDb).toBe(30);
    expect(Math.abs((found.directToRoomDb ?? 99) - directDb)).toBeLessThan(1);
    // 60 dB below direct sound and room together: the room alone has that much less to fall.
    const fallsDb = 60 - 10 * Math.log10(1 + 10 ** (directDb / 10));
    expect(Math.abs((found.tailSeconds ?? 9) - (decay * fallsDb) / 60)).toBeLessThan(0.06);
    expect(found.why).toEqual({});
  });
  it('that are hardly heard at a middling touch do not count', () => {
    const audio = { loud: note({ decay: 0.3 }), soft: note({ seed: 2, decay: 0.9 }) };
    const layers = [
      zone('soft', 60, { velocityLow: 1, velocityHigh: 60 }),
      zone('loud', 60, { velocityLow: 61, velocityHigh: 127 }),
    ];
    expect(ends('staccato', layers, audio).decay?.seconds).toBeCloseTo(0.3, 1);
  });
  it('count alike however loud they are', () => {
    const audio = { loud: note({ decay: 0.3 }), soft: note({ seed: 2, decay: 0.9, levelDb: -40 }) };
    const found = ends('staccato', [zone('loud', 60), zone('soft', 61)], audio);
    // What dies away more slowly is left in the end; by its own level it would be lost beneath the loud one for a third of a second.
    expect(found.decay?.seconds ?? 0).toBeGreaterThan(0.7);
  });
  it('that are cut off much sooner than the others are left out', () => {
    const audio = { a: note(), b: note({ seed: 2 }), c: note({ seed: 3, seconds: 1.15 }) };
    const found = ends(
      'staccato',
      ['a', 'b', 'c'].map((name, i) => zone(name, 60 + i)),
      audio,
    );
    expect(found.decay?.seconds).toBeCloseTo(DECAY, 1);
    expect(found.decay?.rangeDb).toBe(30);
  });
  it.each([-2, -5])('are over at a far position, of %s dB, as much later as it hears them', (directDb) => {
    const delay = 0.05;
    const audio = Object.fromEntries(
      [1, 2, 3].flatMap((seed) => [
        [`${seed}`, note({ seed })],
        [`far ${seed}`, note({ seed: seed + 9, delay, directDb })],
      ]),
    );
    const zones = [1, 2, 3].map((n) => zone(`${n}`, 60 + n));
    const found = ends('staccato', zones, audio, 'far', apart(delay));
    expect(Math.abs((found.directToRoomDb ?? 99) - directDb)).toBeLessThan(1);
    const wrong = ends('staccato', zones, audio, 'far', apart(0));
    expect(Math.abs((found.tailSeconds ?? 9) + delay - (wrong.tailSeconds ?? 9))).toBeLessThan(0.011);
  });
});

describe('held notes', () => {
  const order = { directDb: 3 };
  const keys = [60, 62, 64];
  const audio = Object.fromEntries(
    keys.flatMap((key) => [
      [`held ${key}`, note({ ...order, seed: key, seconds: HELD })],
      [`end ${key}`, endOf({ ...order, seed: key })],
    ]),
  );
  const held = (more: Partial<Zone> = {}) => keys.map((key) => zone(`held ${key}`, key, more));
  const released = (gainDb = 0) => keys.map((key) => zone(`end ${key}`, key, { role: 'release', gainDb }));
  it('tell the room by their recorded ends, joined to what was held', () => {
    const found = ends('long', [...held(), ...released()], audio);
    expect(found.decay?.seconds).toBeCloseTo(DECAY, 1);
    expect(Math.abs((found.directToRoomDb ?? 99) - 3)).toBeLessThan(1);
  });
  it('have their ends as loud as both are played', () => {
    const softer = ends('long', [...held(), ...released(-6)], audio);
    // A room 6 dB softer than the tone: the direct sound is what is left of it.
    const direct = 10 * Math.log10((1 + 10 ** 0.3) / 10 ** -0.6 - 1);
    expect(Math.abs((softer.directToRoomDb ?? 99) - direct)).toBeLessThan(1);
    const both = ends('long', [...held({ gainDb: -6 }), ...released(-6)], audio);
    expect(Math.abs((both.directToRoomDb ?? 99) - 3)).toBeLessThan(1);
  });
  it('take the end of their own root, else one that serves it, else any', () => {
    const wrong = { ...audio, wrong: endOf({ decay: 0.2, seed: 5 }) };
    const serving = [
      zone('end 60', 60, { role: 'release', keyHigh: 66 }),
      zone('wrong', 70, { role: 'release' }),
    ];
    expect(ends('long', [...held(), ...serving], wrong).decay?.seconds).toBeCloseTo(DECAY, 1);
    const own = [...released(), zone('wrong', 70, { role: 'release', keyLow: 0, keyHigh: 127 })];
    expect(ends('long', [...held(), ...own], wrong).decay?.seconds).toBeCloseTo(DECAY, 1);
    const any = [zone('wrong', 90, { role: 'release' })];
    expect(ends('long', [...held(), ...any], wrong).decay?.seconds).toBeCloseTo(0.2, 1);
  });
  it('without recorded ends tell nothing, and why', () => {
    expect(ends('long', held(), audio)).toEqual({
      decay: null,
      directToRoomDb: null,
      tailSeconds: null,
      why: Object.fromEntries(
        ['decay', 'directToRoomDb', 'tailSeconds'].map((name) => [name, 'no end of a note was recorded']),
      ),
    });
  });
});

describe('what cannot be told', () => {
  const zones = [60, 61].map((key) => zone('a', key));
  it('says that recordings are missing or silent', () => {
    const silent = { channels: [new Float32Array(RATE), new Float32Array(RATE)], rate: RATE };
    for (const audio of [{}, { a: silent }])
      expect(ends('staccato', zones, audio as Record<string, HeardSample>).why).toMatchObject({
        decay: 'its recordings are missing or silent',
        tailSeconds: 'its recordings are missing or silent',
      });
  });
  it('says that too little of the decay stands out', () => {
    const found = ends('staccato', zones, { a: note({ hissDb: -24, directDb: -10 }) });
    expect(found.decay).toBeNull();
    expect(found.why).toEqual({
      decay: 'less than 15 dB of how its notes die away stand out of what else is there',
      directToRoomDb: 'no decay is heard',
    });
    expect(found.tailSeconds).not.toBeNull();
  });
  it('says that recordings were faded out, and tells the direct sound all the same', () => {
    const faded = (seed: number) => {
      const { channels, rate } = note({ seed, decay: 1.5, seconds: 1.5 });
      const from = 1.3 * RATE;
      return {
        rate,
        channels: channels.map((side) =>
          side.map((value, i) => value * Math.min(1, (side.length - i) / (side.length - from))),
        ),
      };
    };
    const found = ends('staccato', zones, { a: faded(1) });
    expect(found.decay).toBeNull();
    expect(found.why).toEqual({ decay: 'its recordings were faded out before they had died away by 15 dB' });
    expect(Math.abs((found.directToRoomDb ?? 99) - 6)).toBeLessThan(1.5);
  });
  it('is the room of a position that hisses, while the others tell theirs', () => {
    const audio = { a: note(), 'far a': note({ seed: 3, directDb: 0, hissDb: -22 }) };
    const far = ends('staccato', zones, audio, 'far');
    expect(far.directToRoomDb).toBeNull();
    expect(far.why.directToRoomDb).toBe('its room is lost in hiss');
    expect(Math.abs((ends('staccato', zones, audio).directToRoomDb ?? 99) - 6)).toBeLessThan(1);
  });
  it('is told of positions deep in the room, and called no direct sound at all where there is none', () => {
    const found = ends('staccato', zones, { a: note({ directDb: -40 }) });
    expect(found.decay?.seconds).toBeCloseTo(DECAY, 1);
    if (found.directToRoomDb === null)
      expect(found.why.directToRoomDb).toBe('no direct sound stands out of the room when notes end');
    else expect(found.directToRoomDb).toBeLessThan(-7);
  });
});

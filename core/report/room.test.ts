import { describe, expect, it } from 'vitest';
import type { Articulation, Instrument, SampleInfo, Zone } from '../catalogue/index.ts';
import { instrumentOf, plainZone } from '../testing/fixtures.ts';
import { heldNoise, planned, type PlannedPosition } from '../testing/positions.ts';
import { measureArticulation, type HeardSample, type PositionFigures } from './index.ts';

/** Reports over positions whose place in a room of 1.2 s is known: what is told of the room is held against it. */

const RATE = 48_000;
const KEYS = [55, 62, 69];
const POSITIONS: PlannedPosition[] = [
  { id: 'close', levelDb: 0, depthDb: 10, delayMs: 0, at: -0.2 },
  { id: 'tree', levelDb: -5, depthDb: 4, delayMs: 9.5, at: 0 },
  { id: 'far', levelDb: -8, depthDb: -4, delayMs: 28, at: 0.1 },
];

interface Made {
  zones: Zone[];
  audio: Map<string, HeardSample>;
}

/** Recordings of a sound at every position, under names with the position behind them. */
function record(made: Made, name: string, sound: Float32Array, seed: number, cut = 0): Zone['samples'] {
  return Object.fromEntries(
    planned(sound, POSITIONS, seed).map(({ id, left, right }) => {
      const turned = id === 'far' ? -1 : 1;
      const channels = [left, right].map((side) => side.slice(cut).map((value) => turned * value));
      made.audio.set(`${name} ${id}`, { channels, rate: RATE });
      return [id, { sample: `${name} ${id}` }];
    }),
  );
}

function shorts(takes: number): Made {
  const made: Made = { zones: [], audio: new Map() };
  for (const key of KEYS)
    for (let take = 0; take < takes; take++)
      made.zones.push(
        plainZone({
          rootKey: key,
          keyLow: key - 2,
          keyHigh: key + 2,
          take,
          takes,
          oneShot: true,
          samples: record(made, `short ${key} ${take}`, heldNoise(100 * key + take, 0.35, 2.6), key + take),
        }),
      );
  return made;
}

/** Held notes with ends recorded at some of the roots, which serve all keys between them. */
function longs(keys: readonly number[], ends: readonly number[]): Made {
  const made: Made = { zones: [], audio: new Map() };
  for (const key of keys) {
    const held = { rootKey: key, keyLow: key - 2, keyHigh: key + 2 };
    const whole = heldNoise(key, 2.2, 4.6);
    const samples = record(made, `long ${key}`, whole, key);
    for (const { sample } of Object.values(samples)) {
      const audio = made.audio.get(sample);
      if (audio)
        made.audio.set(sample, {
          rate: RATE,
          channels: audio.channels.map((side) => side.slice(0, 2.2 * RATE)),
        });
    }
    made.zones.push(plainZone({ ...held, samples }));
    if (ends.includes(key))
      made.zones.push(
        plainZone({
          ...held,
          // An end serves the roots around it as well.
          keyLow: key - 7,
          keyHigh: key + 7,
          role: 'release',
          oneShot: true,
          samples: record(made, `end ${key}`, whole, key, 2.2 * RATE),
        }),
      );
  }
  return made;
}

function figures(id: string, { zones, audio }: Made): Record<string, PositionFigures> {
  const articulation: Articulation = { id, name: id, zones };
  const infoOf = (sample: string): SampleInfo => ({
    id: sample,
    rate: RATE,
    channels: 2,
    format: 'f32',
    frames: audio.get(sample)?.channels[0].length ?? 0,
    pack: 'pack',
    headOffset: 0,
    headFrames: 0,
    tailOffset: 0,
  });
  const instrument: Instrument = {
    ...instrumentOf(
      [],
      new Map(),
      POSITIONS.map((one) => one.id),
    ),
    articulations: [articulation],
    samples: Object.fromEntries([...audio.keys()].map((sample) => [sample, infoOf(sample)])),
  };
  const report = measureArticulation(
    instrument,
    articulation,
    (sample) => audio.get(sample),
    () => undefined,
  );
  return Object.fromEntries(report.positions.map((one) => [one.id, one]));
}

function isRight(heard: Record<string, PositionFigures>): void {
  for (const { id, delayMs, depthDb } of POSITIONS) {
    const own = heard[id];
    expect(Math.abs((own.arrivalSeconds ?? 9) * 1000 - delayMs), `arrival ${id}`).toBeLessThan(0.5);
    expect(own.isInverted, `polarity ${id}`).toBe(id === 'far');
    expect(Math.abs((own.decay?.seconds ?? 9) - 1.2), `decay ${id}`).toBeLessThan(0.12);
    expect(Math.abs((own.directToRoomDb ?? 99) - depthDb), `direct ${id}`).toBeLessThan(1);
  }
}

describe('the room of several positions', () => {
  it('is told by short notes that ring out by themselves, take by take', () => {
    isRight(figures('staccato', shorts(2)));
  });
  it('is told by held notes with their recorded ends', () => {
    isRight(figures('long', longs([55, 69], [55, 69])));
  });
  it('is told by the ends that serve a key where it has none of its own', () => {
    isRight(figures('long', longs([60, 64], [60])));
  });
  it('cannot be told where no end was recorded, or where a position is silent, and says so', () => {
    const open = figures('long', longs([60], []));
    for (const { decay, directToRoomDb, tailSeconds, why } of Object.values(open)) {
      expect([decay, directToRoomDb, tailSeconds]).toEqual([null, null, null]);
      expect(why.decay).toBe('no end of a note was recorded');
    }
    // Arrivals need no ends.
    expect(Math.abs((open.far.arrivalSeconds ?? 9) - 0.028)).toBeLessThan(0.0005);
    const made = shorts(1);
    for (const [name, { channels }] of made.audio)
      if (name.endsWith('far')) for (const side of channels) side.fill(0);
    const { far, tree } = figures('staccato', made);
    expect(far).toMatchObject({ decay: null, directToRoomDb: null, arrivalSeconds: null });
    expect(far.why.decay).toContain('silent');
    expect(tree.decay).not.toBeNull();
  });
});

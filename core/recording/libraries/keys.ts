import { PILOT_HOUSE } from '../../rooms/index.ts';
import { Random } from '../../dsp/index.ts';
import { ENGINE_RATE, centsToRatio, midiToHertz } from '../../units/index.ts';
import type { InstrumentPlan, LayerPlan, LibraryPlan, Radiate, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { strike, stringPartials, type Struck } from '../struck.ts';
import { FAULTS } from '../truth.ts';
import { every, MIDDLE } from './common.ts';

/** Pilot House Keys: grand piano, celesta and harp in a wooden room. */

const LAYERS: readonly LayerPlan[] = [
  { force: 0.25, amplitude: 0.4, tapeDb: 6 },
  { force: 0.85, amplitude: 1, tapeDb: 0 },
];

/** A technique of something struck or plucked; sound and length come from the instrument. */
export function struckNotes(
  id: string,
  roots: readonly number[],
  seconds: number,
  more: Partial<NonNullable<TechniquePlan['notes']>> = {},
): TechniquePlan {
  return {
    id,
    notes: {
      roots,
      layers: LAYERS,
      takes: 1,
      seconds,
      control: 'velocity',
      velocityTrack: 0.75,
      perform: () => [],
      ...more,
    },
  };
}

/** One stroke per order, as a source of sound at one place. */
export function struckBy(
  seed: string,
  soundOf: (technique: string, root: number) => Struck,
  cents: (root: number) => number = () => 0,
): Radiate {
  return (order, technique) => {
    const { notes } = technique;
    const layer = notes?.layers[order.layer] ?? MIDDLE;
    const out = new Float32Array(Math.round((notes?.seconds ?? 1) * ENGINE_RATE));
    const random = new Random(`${seed} ${order.technique} ${order.root} ${order.layer} ${order.take}`);
    const pitch = midiToHertz(order.root) * centsToRatio(cents(order.root) + random.normal() * 1.2);
    strike(out, soundOf(order.technique, order.root), pitch, layer.force, layer.amplitude, 0.002, random);
    return [out];
  };
}

const PIANO: Struck = {
  partials: stringPartials(16, 0.0004, 1.05, 1.9),
  shorten: 0.55,
  referenceHz: 261.6,
  noise: { level: 0.5, decay: 0.012, lowHz: 200, highHz: 3000 },
  attackSeconds: 0.0025,
};
const CELESTA: Struck = {
  partials: [
    { ratio: 1, level: 1, decay: 0.8 },
    { ratio: 2.76, level: 0.12, decay: 0.2 },
    { ratio: 5.4, level: 0.06, decay: 0.08 },
  ],
  shorten: 0.5,
  referenceHz: 523,
  noise: { level: 0.25, decay: 0.006, lowHz: 1500, highHz: 7000 },
  attackSeconds: 0.0012,
};
const HARP: Struck = {
  partials: stringPartials(10, 0.00005, 1.3, 0.85),
  shorten: 0.6,
  referenceHz: 261.6,
  noise: { level: 0.12, decay: 0.008, lowHz: 400, highHz: 4000 },
  attackSeconds: 0.003,
};

function keyboard(
  name: string,
  slug: string,
  struck: Struck,
  range: { low: number; high: number; roots: number[]; seconds: number; seat: number; trimDb: number },
  tags: readonly string[],
): InstrumentPlan {
  const players = seatPlayers(`Pilot ${slug}`, 1, { x: range.seat, y: 1.2, z: 1 }, undefined, {
    tuneCents: 0,
  });
  const fault = FAULTS.mistunedZone;
  return {
    name,
    slug,
    family: 'keys',
    kind: 'solo',
    playerCount: 1,
    players,
    low: range.low,
    high: range.high,
    techniques: [struckNotes('hit', range.roots, range.seconds)],
    radiate: struckBy(
      `Pilot ${slug}`,
      () => struck,
      (root) => (name === fault.instrument && root === fault.root ? fault.cents : 0),
    ),
    trimDb: range.trimDb + 8,
    inputDb: 14,
    tags,
  };
}

export const KEYS: LibraryPlan = {
  slug: 'pilot-house-keys',
  name: 'Pilot House Keys',
  maker: 'Pilot House',
  hall: PILOT_HOUSE,
  revision: 2,
  facts: {
    players: 'soloists',
    roomSound: 'dry',
    edition: 'full',
    price: 95,
    text: 'A grand piano, a celesta and a harp in a small wooden room.',
  },
  instruments: [
    keyboard(
      'Grand piano',
      'grand-piano',
      PIANO,
      { low: 21, high: 108, roots: every(8, 27, 106), seconds: 2.2, seat: 0, trimDb: 4 },
      ['warm', 'dry'],
    ),
    keyboard(
      'Celesta',
      'celesta',
      CELESTA,
      { low: 60, high: 108, roots: every(10, 64, 106), seconds: 1.3, seat: -1.4, trimDb: 2 },
      ['glassy', 'dry'],
    ),
    keyboard(
      'Harp',
      'harp',
      HARP,
      { low: 24, high: 103, roots: every(10, 30, 101), seconds: 1.5, seat: 1.6, trimDb: 4 },
      ['plucked', 'dry'],
    ),
  ],
  compiled: [],
};

import { SAIL_LOFT } from '../../rooms/index.ts';
import type { InstrumentPlan, LibraryPlan, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { radiateTone } from '../studio.ts';
import { TONES, type Tone } from '../tones.ts';
import { FAULTS } from '../truth.ts';
import {
  BOW,
  bothWays,
  changes,
  colour,
  connected,
  every,
  long,
  MIDDLE,
  shorts,
  THREE_LAYERS,
  TWO_LAYERS,
} from './common.ts';
import { pulled, strokes } from '../gestures.ts';
import { ringing } from './ringing.ts';

/** Tarrowby Sound in the Old Sail Loft: a small dry section, and two soloists. */

function plucked(roots: readonly number[], reference: number): TechniquePlan {
  return {
    id: 'pizzicato',
    notes: {
      roots,
      layers: [{ ...MIDDLE, amplitude: 1, tapeDb: 3 }],
      takes: 2,
      seconds: 0.5,
      control: 'velocity',
      velocityTrack: 0.9,
      perform: pulled(0.14, 0, reference),
    },
  };
}

function small(
  name: string,
  slug: string,
  count: number,
  seat: { x: number; y: number; dx: number },
  tone: Tone,
  range: { low: number; high: number; roots: number[] },
): InstrumentPlan {
  const players = seatPlayers(
    `Tarrowby ${slug}`,
    count,
    { x: seat.x, y: seat.y, z: 1.15 },
    { x: seat.dx, y: 0.5 },
  );
  const staccato = shorts('staccato', range.roots, 3, 0.32, { hold: 0.09, fall: 0.06, noise: 0.5 });
  const fault = FAULTS.repeatedTake;
  return {
    name,
    slug,
    family: 'strings',
    kind: 'section',
    playerCount: count,
    players,
    low: range.low,
    high: range.high,
    techniques: [
      long(range.roots, TWO_LAYERS, 0.95, BOW, false, []),
      colour('muted', range.roots.slice(0, 2), 0.9, BOW, { tiltDb: -5 }),
      colour('tremolo', range.roots.slice(0, 2), 1, BOW, {}, strokes(BOW, 1, 11)),
      name === fault.instrument
        ? { ...staccato, instead: (order) => (order.take === fault.take ? { take: fault.same } : undefined) }
        : staccato,
      plucked(range.roots.slice(0, 2), range.low + 8),
    ],
    radiate: radiateTone(players, () => tone),
    trimDb: -7,
    inputDb: 0,
    tags: ['dry', 'intimate'],
  };
}

const RANGES = {
  violins: { low: 55, high: 91, roots: [60, 72, 84] },
  violas: { low: 48, high: 81, roots: [54, 65, 76] },
  cellos: { low: 36, high: 74, roots: [42, 55, 68] },
  basses: { low: 28, high: 57, roots: [34, 48] },
};

export const STRINGS_SMALL: LibraryPlan = {
  slug: 'tarrowby-chamber',
  name: 'Tarrowby Chamber',
  maker: 'Tarrowby Sound',
  hall: SAIL_LOFT,
  revision: 5,
  facts: {
    players: '5-4-4-2',
    roomSound: 'dry',
    edition: 'full',
    price: 190,
    text: 'Fifteen players among boards and canvas: close, quick, and easily sent further away.',
  },
  instruments: [
    small('Violins', 'violins', 5, { x: -1.6, y: 0.6, dx: -0.9 }, TONES.violin, RANGES.violins),
    small('Violas', 'violas', 4, { x: 0.4, y: 1.4, dx: 0.9 }, TONES.viola, RANGES.violas),
    small('Cellos', 'cellos', 4, { x: 1.5, y: 0.5, dx: 0.9 }, TONES.cello, RANGES.cellos),
    small('Basses', 'basses', 2, { x: 3.2, y: 1.6, dx: 0.9 }, TONES.bass, RANGES.basses),
  ],
  compiled: [
    {
      name: 'Whole section across the keys',
      slug: 'whole',
      kind: 'ensemble',
      playerCount: 15,
      tags: ['dry', 'intimate', 'combined'],
      parts: [
        { library: 'tarrowby-chamber', instrument: 'basses', low: 28, high: 42 },
        { library: 'tarrowby-chamber', instrument: 'cellos', low: 43, high: 55 },
        { library: 'tarrowby-chamber', instrument: 'violas', low: 56, high: 66 },
        { library: 'tarrowby-chamber', instrument: 'violins', low: 67, high: 91 },
      ],
    },
  ],
};

/** The loft with two of its pairs: near, and at the far wall. */
const SOLO_LOFT = {
  ...SAIL_LOFT,
  mics: SAIL_LOFT.mics.filter((mic) => mic.id === 'close' || mic.id === 'far'),
};
const SOLO_BOW = { ...BOW, attackSeconds: [0.11, 0.035] as const, chiff: 0.12 };

function solo(
  name: string,
  slug: string,
  tone: Tone,
  range: { low: number; high: number; roots: number[]; moves: number[] },
): InstrumentPlan {
  const players = seatPlayers(`Tarrowby ${slug}`, 1, { x: 0, y: 1, z: 1.2 }, undefined, {
    tuneCents: 2,
    vibratoCents: [26, 30],
  });
  const slow = FAULTS.slowTransition;
  const late = (interval: number) =>
    name === slow.instrument && interval >= slow.fromInterval ? slow.lateSeconds : 0;
  const shape = { before: 0.15, after: 0.42, glide: [0.016, 0.0006] as const, dip: 0.06 };
  const radiate = radiateTone(players, () => tone);
  const all = bothWays(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12);
  return {
    name,
    slug,
    family: 'strings',
    kind: 'solo',
    playerCount: 1,
    players,
    low: range.low,
    high: range.high,
    techniques: [
      long(
        range.roots,
        THREE_LAYERS,
        1.2,
        SOLO_BOW,
        true,
        range.roots.filter((_, i) => i % 2 === 0),
      ),
      connected(range.moves, all, SOLO_BOW, shape, late),
      connected(
        range.moves,
        bothWays(2, 4, 7),
        SOLO_BOW,
        { before: 0.19, after: 0.5, glide: [0.2, 0.008], dip: 0.04 },
        undefined,
        'slide',
      ),
      connected(
        range.moves,
        [0],
        SOLO_BOW,
        { ...shape, glide: [0.02, 0], dip: 0.85 },
        undefined,
        'bow change',
      ),
      connected(
        range.moves,
        bothWays(1, 2, 3),
        SOLO_BOW,
        { before: 0.09, after: 0.4, glide: [0.018, 0.001], dip: 0.12 },
        undefined,
        'runs',
      ),
      colour('harmonics', range.roots.slice(0, 2), 1.2, { ...BOW, noise: 0.05 }, { partials: 3 }),
      colour('tremolo', range.roots.slice(0, 2), 1.2, BOW, {}, strokes(BOW, 1.2, 11.5)),
      shorts('staccato', range.roots, 3, 0.36, { hold: 0.09, fall: 0.05, noise: 0.5 }),
      plucked(
        range.roots.filter((_, i) => i % 2 === 0),
        range.low + 8,
      ),
      ...changes(range.roots.slice(1, 2), SOLO_BOW),
    ],
    radiate: name === FAULTS.ringing.instrument ? ringing(radiate, FAULTS.ringing) : radiate,
    trimDb: -2,
    inputDb: 4,
    tags: ['dry', 'singing', 'close'],
  };
}

export const SOLO_STRINGS: LibraryPlan = {
  slug: 'tarrowby-soloists',
  name: 'Tarrowby Soloists',
  maker: 'Tarrowby Sound',
  hall: SOLO_LOFT,
  revision: 5,
  facts: {
    players: '1-1',
    roomSound: 'dry',
    edition: 'full',
    price: 140,
    text: 'A violin and a cello with every move up to an octave recorded, slides, new bows and runs.',
  },
  instruments: [
    solo('Solo violin', 'solo-violin', TONES.violin, {
      low: 55,
      high: 94,
      roots: every(8, 58, 92),
      moves: [58, 66, 74, 82, 90],
    }),
    solo('Solo cello', 'solo-cello', TONES.cello, {
      low: 36,
      high: 79,
      roots: every(9, 40, 78),
      moves: [41, 49, 57, 65, 73],
    }),
  ],
  compiled: [],
};

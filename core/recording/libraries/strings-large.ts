import { HARBOUR_HALL } from '../../rooms/index.ts';
import type { BowedPlan } from './common.ts';
import { bothWays, bowedTechniques, every, THREE_LAYERS, TWO_LAYERS } from './common.ts';
import type { InstrumentPlan, LibraryPlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { radiateTone } from '../studio.ts';
import { TONES, type Tone } from '../tones.ts';
import { FAULTS } from '../truth.ts';

/** Wrenlow Strings, large: thirty-four players in five sections in Harbour Hall. */

const INTERVALS = bothWays(1, 2, 3, 4, 5, 7, 12);

function section(
  name: string,
  slug: string,
  count: number,
  seat: { x: number; y: number; dx: number; dy: number },
  tone: Tone,
  bowed: Omit<BowedPlan, 'intervals' | 'layers' | 'takes' | 'longSeconds' | 'pluckReference'> &
    Partial<BowedPlan>,
): InstrumentPlan {
  const players = seatPlayers(
    `Wrenlow ${slug}`,
    count,
    { x: seat.x, y: seat.y, z: 1.15 },
    { x: seat.dx, y: seat.dy },
  );
  return {
    name,
    slug,
    family: 'strings',
    kind: 'section',
    playerCount: count,
    players,
    low: bowed.low,
    high: bowed.high,
    techniques: bowedTechniques({
      intervals: bothWays(1, 2, 3, 4, 5, 7),
      layers: TWO_LAYERS,
      takes: 2,
      longSeconds: 1.0,
      pluckReference: bowed.low + 8,
      ...bowed,
    }),
    radiate: radiateTone(players, () => tone),
    trimDb: -8,
    inputDb: 0,
    tags: ['wet', 'broad', 'warm'],
  };
}

const violins = section(
  'Violins I',
  'violins-1',
  10,
  { x: -2.2, y: 0.6, dx: -1.15, dy: 0.55 },
  TONES.violin,
  {
    low: 55,
    high: 94,
    roots: every(6, 58, 92),
    shortRoots: every(7, 59, 92),
    fewRoots: [62, 74, 86],
    moveRoots: [62, 73, 84],
    layers: THREE_LAYERS,
    takes: 3,
    longSeconds: 1.15,
    intervals: INTERVALS,
  },
);

export const STRINGS_LARGE: LibraryPlan = {
  slug: 'wrenlow-strings-large',
  name: 'Wrenlow Strings, large',
  maker: 'Wrenlow Sound',
  hall: HARBOUR_HALL,
  revision: 11,
  facts: {
    players: '10-8-6-6-4',
    roomSound: 'wet',
    edition: 'full',
    price: 480,
    text: 'A broad symphonic section in a former rope works. Five positions from one performance; every technique with the dynamics it needs.',
  },
  instruments: [
    violins,
    section('Violins II', 'violins-2', 8, { x: -0.9, y: 1.9, dx: -1.1, dy: 0.7 }, TONES.violin, {
      low: 55,
      high: 91,
      roots: every(9, 59, 90),
      shortRoots: every(9, 60, 90),
      fewRoots: [64, 80],
      moveRoots: [64, 80],
      lacks: FAULTS.lackingSection.techniques,
    }),
    section('Violas', 'violas', 6, { x: 1, y: 1.9, dx: 1.1, dy: 0.7 }, TONES.viola, {
      low: 48,
      high: 84,
      roots: every(9, 52, 82),
      shortRoots: every(9, 53, 82),
      fewRoots: [57, 72],
      moveRoots: [57, 72],
    }),
    section('Cellos', 'cellos', 6, { x: 2.4, y: 0.6, dx: 1.15, dy: 0.6 }, TONES.cello, {
      low: 36,
      high: 76,
      roots: every(10, 41, 74),
      shortRoots: every(10, 41, 74),
      fewRoots: [46, 63],
      moveRoots: [46, 63],
    }),
    section('Basses', 'basses', 4, { x: 5.2, y: 2.2, dx: 1, dy: 0.8 }, TONES.bass, {
      low: 28,
      high: 60,
      roots: every(10, 33, 56),
      shortRoots: every(10, 33, 56),
      fewRoots: [38, 51],
      moveRoots: [38, 51],
    }),
  ],
  compiled: [
    {
      name: 'Whole section across the keys',
      slug: 'whole',
      kind: 'ensemble',
      playerCount: 34,
      tags: ['wet', 'broad', 'combined'],
      parts: [
        { library: 'wrenlow-strings-large', instrument: 'basses', low: 28, high: 40 },
        { library: 'wrenlow-strings-large', instrument: 'cellos', low: 41, high: 54 },
        { library: 'wrenlow-strings-large', instrument: 'violas', low: 55, high: 66 },
        { library: 'wrenlow-strings-large', instrument: 'violins-1', low: 67, high: 94 },
      ],
    },
  ],
};

/** The same recordings for small machines: one position, fewer layers, takes and techniques. */
export const STRINGS_LIGHT: LibraryPlan = {
  ...STRINGS_LARGE,
  slug: 'wrenlow-strings-light',
  name: 'Wrenlow Strings, light',
  facts: {
    ...STRINGS_LARGE.facts,
    edition: 'light',
    price: 120,
    text: 'The tree alone, two layers and two takes of the large edition, for small machines.',
  },
  instruments: [],
  compiled: STRINGS_LARGE.instruments.map((full) => ({
    name: full.name,
    slug: `light-${full.slug}`,
    kind: 'section',
    playerCount: full.playerCount,
    tags: ['light', 'wet'],
    parts: [{ library: STRINGS_LARGE.slug, instrument: full.slug, low: 0, high: 127 }],
    keep: {
      positions: ['tree'],
      layers: 2,
      takes: 2,
      techniques: ['connected', 'long', 'tremolo', 'staccato', 'off the string', 'pizzicato'],
    },
  })),
};

import { CHAPEL } from '../../rooms/index.ts';
import { Random } from '../../dsp/index.ts';
import { ENGINE_RATE } from '../../units/index.ts';
import type { Speech } from '../gestures.ts';
import type { InstrumentPlan, LibraryPlan, Radiate, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { addNoise } from '../struck.ts';
import { radiateTone } from '../studio.ts';
import { scaled, VOWELS } from '../tones.ts';
import { bothWays, changes, colour, connected, long, TWO_LAYERS } from './common.ts';

/** Ellow Choir in Pellory Chapel: vowels, hums, and consonants that later carry words. */

const VOICE: Speech = { attackSeconds: [0.2, 0.09], noise: 0.03, chiff: 0.04, scoop: 25, vibrato: 0.7 };

/** Consonants by key from C2 on: band of noise in hertz, time to 1/e in seconds, level. */
export const CONSONANTS: readonly {
  name: string;
  lowHz: number;
  highHz: number;
  decay: number;
  level: number;
}[] = [
  { name: 's', lowHz: 4500, highHz: 11000, decay: 0.06, level: 0.5 },
  { name: 'sh', lowHz: 2200, highHz: 6500, decay: 0.07, level: 0.6 },
  { name: 'f', lowHz: 1500, highHz: 9000, decay: 0.06, level: 0.3 },
  { name: 'h', lowHz: 600, highHz: 4000, decay: 0.05, level: 0.3 },
  { name: 't', lowHz: 3000, highHz: 9000, decay: 0.012, level: 1 },
  { name: 'k', lowHz: 1400, highHz: 4500, decay: 0.016, level: 1 },
  { name: 'p', lowHz: 250, highHz: 1800, decay: 0.014, level: 1.2 },
  { name: 'r', lowHz: 300, highHz: 2200, decay: 0.05, level: 0.5 },
];
const FIRST_CONSONANT = 36;

function voices(
  name: string,
  slug: string,
  seat: { x: number; y: number },
  range: { low: number; high: number; roots: number[] },
  size: number,
): InstrumentPlan {
  const players = seatPlayers(
    `Ellow ${slug}`,
    12,
    { ...seat, z: 1.6 },
    { x: 0.8, y: 0.12 },
    {
      tuneCents: 8,
      vibratoCents: [18, 34],
      vibratoHz: [4.9, 6],
    },
  );
  const sung = radiateTone(players, ({ technique }) =>
    scaled(
      VOWELS[
        (technique === 'long' || technique === 'connected' || technique === 'swell'
          ? 'ah'
          : technique) as keyof typeof VOWELS
      ],
      size,
    ),
  );
  const spoken: Radiate = (order) =>
    players.map((player, i) => {
      const out = new Float32Array(Math.round(0.5 * ENGINE_RATE));
      const consonant = CONSONANTS[order.root - FIRST_CONSONANT];
      const random = new Random(`${player.seed} ${consonant.name}`);
      const start = Math.round((0.01 + (i % 5) * 0.0012) * ENGINE_RATE);
      addNoise(
        out,
        start,
        { ...consonant, attack: consonant.decay > 0.03 ? 0.02 : 0.001 },
        consonant.level * 0.35,
        random,
      );
      return out;
    });
  const vowel = (id: string, roots: readonly number[]): TechniquePlan => colour(id, roots, 1.2, VOICE);
  const consonants: TechniquePlan = {
    id: 'consonants',
    notes: {
      roots: CONSONANTS.map((_, i) => FIRST_CONSONANT + i),
      layers: [{ force: 0.6, amplitude: 0.8, tapeDb: 0 }],
      takes: 1,
      seconds: 0.5,
      control: 'velocity',
      velocityTrack: 0.7,
      keyTrack: 0,
      reach: 0,
      perform: () => [],
    },
  };
  const ah = long(range.roots, TWO_LAYERS, 1.5, VOICE, false, range.roots.slice(1, 2));
  return {
    name,
    slug,
    family: 'choir',
    kind: 'section',
    playerCount: 12,
    players,
    low: range.low,
    high: range.high,
    techniques: [
      { ...ah, label: 'long ah' },
      connected(range.roots.slice(0, 2), bothWays(1, 2, 3, 5, 7), VOICE, {
        before: 0.17,
        after: 0.42,
        glide: [0.04, 0.001],
        dip: 0.05,
      }),
      vowel('oh', range.roots.slice(0, 2)),
      vowel('oo', range.roots.slice(0, 2)),
      vowel('ee', range.roots.slice(0, 2)),
      vowel('hum', range.roots.slice(0, 2)),
      ...changes(range.roots.slice(1, 2), VOICE).slice(0, 1),
      consonants,
    ],
    radiate: (order, technique) => (order.technique === 'consonants' ? spoken : sung)(order, technique),
    trimDb: -8,
    inputDb: -4,
    tags: ['wet', 'sung', 'soft'],
  };
}

export const CHOIR: LibraryPlan = {
  slug: 'ellow-choir',
  name: 'Ellow Choir',
  maker: 'Pellory & Daughters',
  hall: CHAPEL,
  revision: 6,
  facts: {
    players: '12-12',
    roomSound: 'wet',
    edition: 'full',
    price: 260,
    text: 'Twelve women and twelve men in a stone chapel: four vowels, hums, and consonants on keys of their own.',
  },
  instruments: [
    voices('Women', 'women', { x: -5, y: 2.5 }, { low: 53, high: 84, roots: [58, 68, 78] }, 1),
    voices('Men', 'men', { x: -4.6, y: 4 }, { low: 40, high: 69, roots: [45, 55, 64] }, 0.84),
  ],
  compiled: [],
};

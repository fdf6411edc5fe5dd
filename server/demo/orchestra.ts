import type { Family } from '#core/catalogue/index.ts';
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { demoId, DEMO_INSTRUMENTS } from './libraries.ts';

/** One track of the demo orchestra. */
export interface OrchestraTrack {
  name: string;
  family: Family;
  instrumentId: string;
  /** What is played where nothing is marked. */
  articulation: string;
  gainDb: number;
  hallSendDb: number;
  /** Level of each of its positions in dB; the others are off. */
  levels: Record<string, number>;
}

/** Levels of positions by library: how each was first set up, by ear, library by library. */
const LEVELS: Record<string, Record<string, number>> = {
  'pellory-winds': { close: -3, far: -6 },
  'brackwater-brass': { close: -10, tree: 0, far: -8 },
  'harbour-percussion': { close: -6, far: -3 },
  'pilot-house-keys': { close: -4, far: -6 },
  'ellow-choir': { close: -6, far: -2 },
  'wrenlow-strings-large': { close: -6, mid: -60, tree: 0, outriggers: -60, far: -10 },
  'tarrowby-soloists': { close: -4, far: -8 },
};
/** What is sent to the shared hall: the drier the room, the more. */
const SENDS: Record<string, number> = {
  'pellory-winds': -13,
  'brackwater-brass': -15,
  'harbour-percussion': -13,
  'pilot-house-keys': -9,
  'ellow-choir': -18,
  'wrenlow-strings-large': -16,
  'tarrowby-soloists': -8,
};

/** Name, library, instrument, level; the shorts of the strings have tracks of their own beside the longs. */
const SEATED: [name: string, library: string, instrument: string, gainDb: number, articulation?: string][] = [
  ['Piccolo', 'pellory-winds', 'piccolo', -6],
  ['Flute 1', 'pellory-winds', 'flute-1', -2],
  ['Flute 2', 'pellory-winds', 'flute-2', -3],
  ['Oboe', 'pellory-winds', 'oboe', -2],
  ['Clarinet', 'pellory-winds', 'clarinet', -2],
  ['Bass clarinet', 'pellory-winds', 'bass-clarinet', -2],
  ['Bassoon', 'pellory-winds', 'bassoon', -2],
  ['Horns A', 'brackwater-brass', 'horns-a', -2],
  ['Horns B', 'brackwater-brass', 'horns-b', -2],
  ['Trumpets', 'brackwater-brass', 'trumpets', -4],
  ['Trombones', 'brackwater-brass', 'trombones', -4],
  ['Tuba', 'brackwater-brass', 'tuba', -4],
  ['Timpani', 'harbour-percussion', 'timpani', -4, 'hit'],
  ['Bass drum', 'harbour-percussion', 'bass-drum', -4, 'hit'],
  ['Snare drum', 'harbour-percussion', 'snare-drum', -9, 'hit'],
  ['Cymbals', 'harbour-percussion', 'cymbals', -9, 'hit'],
  ['Glockenspiel', 'harbour-percussion', 'glockenspiel', -10, 'hit'],
  ['Marimba', 'harbour-percussion', 'marimba', -4, 'hit'],
  ['Harp', 'pilot-house-keys', 'harp', -2, 'hit'],
  ['Piano', 'pilot-house-keys', 'grand-piano', -6, 'hit'],
  ['Celesta', 'pilot-house-keys', 'celesta', -3, 'hit'],
  ['Women', 'ellow-choir', 'women', -3],
  ['Men', 'ellow-choir', 'men', -3],
  ['Violins I', 'wrenlow-strings-large', 'violins-1', 0],
  ['Violins II', 'wrenlow-strings-large', 'violins-2', -1],
  ['Violas', 'wrenlow-strings-large', 'violas', 0],
  ['Cellos', 'wrenlow-strings-large', 'cellos', 0],
  ['Basses', 'wrenlow-strings-large', 'basses', 0],
  ['Violins I, short', 'wrenlow-strings-large', 'violins-1', 0, 'staccato'],
  ['Violins II, short', 'wrenlow-strings-large', 'violins-2', 0, 'staccato'],
  ['Violas, short', 'wrenlow-strings-large', 'violas', 0, 'staccato'],
  ['Cellos, short', 'wrenlow-strings-large', 'cellos', 0, 'staccato'],
  ['Basses, short', 'wrenlow-strings-large', 'basses', 0, 'staccato'],
  ['Solo violin', 'tarrowby-soloists', 'solo-violin', -3],
  ['Solo cello', 'tarrowby-soloists', 'solo-cello', -3],
];

/** All tracks are so much softer that the loudest bars stay below full scale. */
const HEADROOM_DB = -6;

/** The orchestra of “The Night Ferry to Ellowick”, in the order of its score. */
export const ORCHESTRA: readonly OrchestraTrack[] = [
  ...SEATED.map(([name, library, instrument, gainDb, articulation = 'long']): OrchestraTrack => {
    const plan = DEMO_LIBRARIES.find(({ slug }) => slug === library)?.instruments.find(
      ({ slug }) => slug === instrument,
    );
    if (!plan) throw new Error(`no ${instrument} in ${library}`);
    return {
      name,
      family: plan.family,
      instrumentId: demoId(library, instrument),
      articulation,
      gainDb: gainDb + HEADROOM_DB,
      hallSendDb: SENDS[library],
      levels: LEVELS[library],
    };
  }),
  {
    name: 'Lamp bells',
    family: 'percussion',
    instrumentId: DEMO_INSTRUMENTS.bells,
    articulation: 'hit',
    gainDb: -6 + HEADROOM_DB,
    hallSendDb: -10,
    levels: { mix: -6 },
  },
];

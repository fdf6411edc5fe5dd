import { FOUNDRY_WINDS } from '../../rooms/index.ts';
import { held, trill, type Speech } from '../gestures.ts';
import type { InstrumentPlan, LibraryPlan, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { radiateTone } from '../studio.ts';
import { scaled, TONES, type Tone } from '../tones.ts';
import { FAULTS } from '../truth.ts';
import { bothWays, changes, colour, connected, every, long, shorts, TWO_LAYERS } from './common.ts';

/** Pellory Winds: seven soloists on the Foundry Stage, recorded alone so that sections can be built from them. */

const BREATH: Speech = { attackSeconds: [0.09, 0.035], noise: 0.06, chiff: 0.14, scoop: 6, vibrato: 0.05 };
const REED: Speech = { attackSeconds: [0.06, 0.025], noise: 0.02, chiff: 0.05, scoop: 5, vibrato: 0.05 };

interface WindPlan {
  low: number;
  high: number;
  tone: Tone;
  speech: Speech;
  seat: number;
  vibrato?: boolean;
  more?: (roots: readonly number[]) => TechniquePlan[];
}

/** The rolled tongue: loudness broken about 26 times a second. */
const flutter = (roots: readonly number[]): TechniquePlan => {
  const base = held(BREATH, 1);
  return colour('flutter', roots, 1, BREATH, {}, (order, layer, player) =>
    base(order, layer, player).map(({ force, gesture }) => ({
      force,
      gesture: {
        ...gesture,
        amplitude: (t) => gesture.amplitude(t) * (0.65 + 0.35 * Math.sin(2 * Math.PI * 26 * t)),
      },
    })),
  );
};

function wind(name: string, slug: string, plan: WindPlan): InstrumentPlan {
  const { low, high, tone, speech } = plan;
  const players = seatPlayers(`Pellory ${slug}`, 1, { x: plan.seat, y: 4.2, z: 1.2 }, undefined, {
    tuneCents: 2,
    vibratoCents: [12, 18],
    vibratoHz: [4.8, 5.6],
  });
  const roots = every(Math.ceil((high - low) / 4), low + 4, high - 2);
  const few = roots.filter((_, i) => i % 2 === 0);
  const late = FAULTS.lateShort;
  let staccato = shorts('staccato', roots, 3, 0.34, {
    hold: 0.09,
    fall: 0.05,
    noise: 0.3,
    late: (take) => (name === late.instrument ? late.lateSeconds[take] : 0),
  });
  if (name === FAULTS.borrowedTakes.instrument)
    staccato = {
      ...staccato,
      instead: ({ root, take }) => {
        if (take !== FAULTS.borrowedTakes.take) return undefined;
        const at = roots.indexOf(root);
        return { root: roots[at > 0 ? at - 1 : at + 1], take: 0 };
      },
    };
  if (name === FAULTS.loudArticulation.instrument && staccato.notes)
    staccato = { ...staccato, notes: { ...staccato.notes, gainDb: FAULTS.loudArticulation.gainDb } };
  return {
    name,
    slug,
    family: 'winds',
    kind: 'solo',
    playerCount: 1,
    players,
    low,
    high,
    techniques: [
      long(roots, TWO_LAYERS, 1, speech, plan.vibrato ?? false, few),
      connected(roots, bothWays(1, 2, 3, 4, 5, 7), speech, {
        before: 0.14,
        after: 0.42,
        glide: [0.018, 0.0006],
        dip: 0.06,
      }),
      colour('trill half', few.slice(0, 2), 0.8, speech, {}, trill(speech, 0.8, 100)),
      colour('trill whole', few.slice(0, 2), 0.8, speech, {}, trill(speech, 0.8, 200)),
      ...(plan.more?.(few.slice(0, 2)) ?? []),
      staccato,
      ...changes(few.slice(1, 2), speech).slice(0, 1),
    ],
    radiate: radiateTone(players, () => tone),
    trimDb: 4,
    inputDb: 12,
    tags: plan.speech === BREATH ? ['airy', 'clear'] : ['clear', 'reedy'],
  };
}

export const WINDS: LibraryPlan = {
  slug: 'pellory-winds',
  name: 'Pellory Winds',
  maker: 'Pellory & Daughters',
  hall: FOUNDRY_WINDS,
  revision: 5,
  facts: {
    players: '1-2-1-1-1-1',
    roomSound: 'medium',
    edition: 'full',
    price: 210,
    text: 'Seven soloists recorded alone on the Foundry Stage. Two flutes, so that unisons and sections are two people.',
  },
  instruments: [
    wind('Piccolo', 'piccolo', {
      low: 74,
      high: 102,
      tone: scaled(TONES.flute, 1.9),
      speech: BREATH,
      seat: -2.6,
      vibrato: true,
    }),
    wind('Flute 1', 'flute-1', {
      low: 60,
      high: 96,
      tone: TONES.flute,
      speech: BREATH,
      seat: -1.9,
      vibrato: true,
      more: (roots) => [flutter(roots)],
    }),
    wind('Flute 2', 'flute-2', {
      low: 60,
      high: 96,
      tone: scaled(TONES.flute, 0.96),
      speech: BREATH,
      seat: -1.2,
      vibrato: true,
      more: (roots) => [flutter(roots)],
    }),
    wind('Oboe', 'oboe', { low: 58, high: 91, tone: TONES.oboe, speech: REED, seat: -0.4, vibrato: true }),
    wind('Clarinet', 'clarinet', { low: 50, high: 91, tone: TONES.clarinet, speech: REED, seat: 0.5 }),
    wind('Bass clarinet', 'bass-clarinet', {
      low: 38,
      high: 77,
      tone: TONES.bassClarinet,
      speech: REED,
      seat: 1.3,
    }),
    wind('Bassoon', 'bassoon', { low: 34, high: 75, tone: TONES.bassoon, speech: REED, seat: 2.1 }),
  ],
  compiled: [],
};

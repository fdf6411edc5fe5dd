import { FOUNDRY_BRASS } from '../../rooms/index.ts';
import { accented, type Speech } from '../gestures.ts';
import type { InstrumentPlan, LibraryPlan, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { radiateTone } from '../studio.ts';
import { TONES, type Tone } from '../tones.ts';
import { FAULTS } from '../truth.ts';
import { bothWays, changes, colour, connected, every, long, shorts, THREE_LAYERS } from './common.ts';

/** Brackwater Brass on the Foundry Stage: brightness rises steeply with force. */

const LIPS: Speech = { attackSeconds: [0.11, 0.03], noise: 0.015, chiff: 0.06, scoop: 18, vibrato: 0.04 };
/** The second group of horns tongues softer and later. */
const SOFT_LIPS: Speech = { attackSeconds: [0.2, 0.07], noise: 0.02, chiff: 0.03, scoop: 30, vibrato: 0.08 };

interface BrassPlan {
  players: number;
  low: number;
  high: number;
  tone: Tone;
  speech: Speech;
  seat: { x: number; y: number };
  tags: readonly string[];
}

function brass(name: string, slug: string, plan: BrassPlan): InstrumentPlan {
  const { low, high, tone, speech } = plan;
  const players = seatPlayers(
    `Brackwater ${slug}`,
    plan.players,
    { ...plan.seat, z: 1.2 },
    { x: 0.9, y: 0.1 },
    { tuneCents: 4, vibratoCents: [6, 10] },
  );
  const roots = every(Math.ceil((high - low) / 3.4), low + 5, high - 2);
  const few = roots.slice(0, 2);
  let held = long(roots, THREE_LAYERS, 1, speech, false, roots.slice(1, 2));
  const step = FAULTS.layerStep;
  if (name === step.instrument && held.notes) {
    const { at, width, gainDb, layer } = step;
    // Taken back by less than was put on tape: the layer comes out too loud.
    const layers = held.notes.layers.map((l, i) =>
      i === layer ? { ...l, amplitude: l.amplitude * 10 ** (gainDb / 20), tapeDb: l.tapeDb - 3 } : l,
    );
    const windows = [
      [0, 0, 24, 64],
      [24, 64, at - width / 2, at + width / 2],
      [at - width / 2, at + width / 2, 127, 127],
    ] as const;
    held = { ...held, notes: { ...held.notes, layers, windows } };
  }
  if (name === FAULTS.staticLoop.instrument && held.notes)
    held = { ...held, notes: { ...held.notes, loopSeconds: FAULTS.staticLoop.loopSeconds } };
  const accent: TechniquePlan = {
    id: 'accented',
    notes: {
      roots: few,
      layers: [{ force: 0.85, amplitude: 0.9, tapeDb: -1 }],
      takes: 1,
      seconds: 0.8,
      control: 'velocity',
      velocityTrack: 0.6,
      perform: accented(speech, 0.7),
    },
  };
  return {
    name,
    slug,
    family: 'brass',
    kind: plan.players > 1 ? 'section' : 'solo',
    playerCount: plan.players,
    players,
    low,
    high,
    techniques: [
      held,
      connected(roots, bothWays(1, 2, 3, 4, 5, 7), speech, {
        before: 0.15,
        after: 0.42,
        glide: [0.02, 0.0008],
        dip: 0.1,
      }),
      colour('muted', few, 0.75, speech, { thinDb: 8, tiltDb: 2 }),
      shorts('staccato', roots, 2, 0.42, { hold: 0.1, fall: 0.06, noise: 0.2 }),
      accent,
      ...changes(roots.slice(1, 2), speech).slice(0, 3),
    ],
    radiate: radiateTone(players, () => tone),
    trimDb: 0,
    inputDb: 6,
    tags: plan.tags,
  };
}

export const BRASS: LibraryPlan = {
  slug: 'brackwater-brass',
  name: 'Brackwater Brass',
  maker: 'Brackwater Recording',
  hall: FOUNDRY_BRASS,
  revision: 5,
  facts: {
    players: '2+2-3-3-1',
    roomSound: 'medium',
    edition: 'full',
    price: 320,
    text: 'Two groups of horns that attack differently, trumpets, trombones and a tuba. Loud is very loud.',
  },
  instruments: [
    brass('Horns A', 'horns-a', {
      players: 2,
      low: 41,
      high: 77,
      tone: TONES.horn,
      speech: LIPS,
      seat: { x: -4.5, y: 5 },
      tags: ['round', 'bold'],
    }),
    brass('Horns B', 'horns-b', {
      players: 2,
      low: 41,
      high: 77,
      tone: { ...TONES.horn, cornerHz: 360 },
      speech: SOFT_LIPS,
      seat: { x: -2.6, y: 5.4 },
      tags: ['round', 'soft'],
    }),
    brass('Trumpets', 'trumpets', {
      players: 3,
      low: 54,
      high: 84,
      tone: TONES.trumpet,
      speech: LIPS,
      seat: { x: 0.4, y: 6 },
      tags: ['bright', 'bold'],
    }),
    brass('Trombones', 'trombones', {
      players: 3,
      low: 40,
      high: 72,
      tone: TONES.trombone,
      speech: LIPS,
      seat: { x: 2.8, y: 6 },
      tags: ['bold'],
    }),
    brass('Tuba', 'tuba', {
      players: 1,
      low: 29,
      high: 60,
      tone: TONES.tuba,
      speech: { ...LIPS, attackSeconds: [0.14, 0.05] },
      seat: { x: 5, y: 6.2 },
      tags: ['round'],
    }),
  ],
  compiled: [],
};

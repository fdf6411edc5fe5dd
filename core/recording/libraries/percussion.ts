import { CHAPEL } from '../../rooms/index.ts';
import { Random } from '../../dsp/index.ts';
import { ENGINE_RATE, midiToHertz } from '../../units/index.ts';
import type { InstrumentPlan, LibraryPlan, Radiate, TechniquePlan } from '../plan.ts';
import { seatPlayers } from '../players.ts';
import { addNoise, addShapedNoise, strike, type Struck } from '../struck.ts';
import { every, MIDDLE } from './common.ts';
import { struckBy, struckNotes } from './keys.ts';

/** Harbour Percussion: drums, cymbals and tuned bars. */

const STAGE = { ...CHAPEL, name: 'Foundry Stage', decaySeconds: 1.1, reflection: 0.6, width: 18, height: 8 };

const TIMPANO: Struck = {
  partials: [
    { ratio: 1, level: 1, decay: 0.75 },
    { ratio: 1.5, level: 0.6, decay: 0.6 },
    { ratio: 1.98, level: 0.4, decay: 0.45 },
    { ratio: 2.44, level: 0.22, decay: 0.3 },
    { ratio: 0.61, level: 0.25, decay: 0.09 },
  ],
  shorten: 0.3,
  referenceHz: 98,
  noise: { level: 0.7, decay: 0.02, lowHz: 60, highHz: 900 },
  attackSeconds: 0.003,
};
const BASS_DRUM: Struck = {
  partials: [
    { ratio: 1, level: 1, decay: 0.5 },
    { ratio: 1.59, level: 0.5, decay: 0.25 },
    { ratio: 2.14, level: 0.3, decay: 0.15 },
  ],
  shorten: 0,
  referenceHz: 46,
  noise: { level: 0.9, decay: 0.03, lowHz: 30, highHz: 500 },
  attackSeconds: 0.004,
};
const GLOCKENSPIEL: Struck = {
  partials: [
    { ratio: 1, level: 1, decay: 0.9 },
    { ratio: 2.76, level: 0.25, decay: 0.3 },
    { ratio: 5.4, level: 0.12, decay: 0.12 },
  ],
  shorten: 0.4,
  referenceHz: 1046,
  noise: { level: 0.4, decay: 0.004, lowHz: 3000, highHz: 12000 },
  attackSeconds: 0.0008,
};
const MARIMBA: Struck = {
  partials: [
    { ratio: 1, level: 1, decay: 0.35 },
    { ratio: 3.93, level: 0.22, decay: 0.08 },
    { ratio: 9.5, level: 0.06, decay: 0.03 },
  ],
  shorten: 0.6,
  referenceHz: 262,
  noise: { level: 0.3, decay: 0.006, lowHz: 400, highHz: 3500 },
  attackSeconds: 0.0015,
};

function percussion(
  name: string,
  slug: string,
  seat: number,
  range: { low: number; high: number },
  techniques: readonly TechniquePlan[],
  radiate: Radiate,
  tags: readonly string[],
  trimDb = 0,
): InstrumentPlan {
  return {
    name,
    slug,
    family: 'percussion',
    kind: 'solo',
    playerCount: 1,
    players: seatPlayers(`Harbour ${slug}`, 1, { x: seat, y: 5.5, z: 1 }, undefined, { tuneCents: 0 }),
    ...range,
    techniques,
    radiate,
    trimDb: trimDb + 14,
    inputDb: 20,
    tags,
  };
}

/** Strokes that follow each other, louder towards the end, on a landing that the name tells in seconds. */
function rolled(seed: string, struck: Struck, landSeconds: number, perSecond: number): Radiate {
  return (order, technique) => {
    const out = new Float32Array(Math.round((technique.notes?.seconds ?? 2) * ENGINE_RATE));
    const random = new Random(`${seed} ${order.root}`);
    const pitch = midiToHertz(order.root);
    for (let t = 0; t < landSeconds; t += (1 + random.normal() * 0.08) / perSecond) {
      const x = t / landSeconds;
      strike(out, struck, pitch, 0.2 + 0.4 * x, 0.12 + 0.45 * x * x, Math.max(0, t), random);
    }
    strike(out, struck, pitch, 0.95, 1, landSeconds, random);
    return [out];
  };
}

const CYMBAL = { lowHz: 1800, highHz: 15000 };

function crash(out: Float32Array, at: number, level: number, random: Random): void {
  const start = Math.round(at * ENGINE_RATE);
  addNoise(out, start, { ...CYMBAL, decay: 0.55, attack: 0.002 }, level * 0.8, random);
  addNoise(out, start, { lowHz: 400, highHz: 3500, decay: 0.3, attack: 0.002 }, level * 0.5, random);
}

/** Cymbal: hits, and swells that arrive after a known time. */
const cymbal: Radiate = (order, technique) => {
  const seconds = technique.notes?.seconds ?? 2;
  const out = new Float32Array(Math.round(seconds * ENGINE_RATE));
  const random = new Random(`Harbour cymbals ${order.technique} ${order.layer} ${order.take}`);
  const layer = technique.notes?.layers[order.layer] ?? MIDDLE;
  const arrival = order.technique === 'swell' ? 1.5 : order.technique === 'crescendo long' ? 3 : 0;
  if (arrival === 0) crash(out, 0.003, layer.amplitude, random);
  else {
    addShapedNoise(
      out,
      CYMBAL,
      (t) => (t < arrival ? 0.7 * (t / arrival) ** 2.6 : 0.7 * Math.exp(-(t - arrival) / 0.5)),
      random,
    );
    crash(out, arrival, 0.7, random);
  }
  return [out];
};

const snare: Radiate = (order, technique) => {
  const out = new Float32Array(Math.round((technique.notes?.seconds ?? 1) * ENGINE_RATE));
  const random = new Random(`Harbour snare ${order.technique} ${order.layer} ${order.take}`);
  const layer = technique.notes?.layers[order.layer] ?? MIDDLE;
  const hit = (at: number, level: number) => {
    addNoise(out, Math.round(at * ENGINE_RATE), { lowHz: 900, highHz: 9000, decay: 0.055 }, level, random);
    addNoise(
      out,
      Math.round(at * ENGINE_RATE),
      { lowHz: 150, highHz: 400, decay: 0.05 },
      level * 1.4,
      random,
    );
  };
  if (order.technique === 'hit') hit(0.002, layer.amplitude);
  else {
    for (let t = 0; t < 1.5; t += 0.045 + random.normal() * 0.003)
      hit(Math.max(0, t), 0.1 + 0.4 * (t / 1.5) ** 2);
    hit(1.5, 0.9);
  }
  return [out];
};

const once = [MIDDLE] as const;
const loud = { layers: [{ force: 0.8, amplitude: 1, tapeDb: 0 }], velocityTrack: 0.3 };
const still = { keyTrack: 0, reach: 6 };

export const PERCUSSION: LibraryPlan = {
  slug: 'harbour-percussion',
  name: 'Harbour Percussion',
  maker: 'Brackwater Recording',
  hall: STAGE,
  revision: 2,
  facts: {
    players: 'soloists',
    roomSound: 'medium',
    edition: 'full',
    price: 150,
    text: 'Timpani with rolls, bass drum, snare, cymbals with swells that say when they arrive, glockenspiel and marimba.',
  },
  instruments: [
    percussion(
      'Timpani',
      'timpani',
      2.5,
      { low: 38, high: 57 },
      [
        struckNotes('hit', [41, 47, 53], 1.4, { takes: 2 }),
        { ...struckNotes('roll', [41, 50], 2.6, loud), label: 'roll' },
        { ...struckNotes('crescendo short', [41, 50], 1.8, loud), label: 'crescendo short 1 s' },
      ],
      (order, technique) =>
        order.technique === 'hit'
          ? struckBy('Harbour timpani', () => TIMPANO)(order, technique)
          : rolled('Harbour timpani roll', TIMPANO, order.technique === 'roll' ? 2 : 1, 13)(order, technique),
      ['deep', 'pitched'],
      2,
    ),
    percussion(
      'Bass drum',
      'bass-drum',
      -3,
      { low: 30, high: 42 },
      [struckNotes('hit', [36], 1.5, { takes: 2, ...still })],
      (order, technique) => struckBy('Harbour bass drum', () => BASS_DRUM)({ ...order, root: 30 }, technique),
      ['deep'],
      2,
    ),
    percussion(
      'Snare drum',
      'snare-drum',
      -1.5,
      { low: 54, high: 66 },
      [
        struckNotes('hit', [60], 0.6, { takes: 3, ...still }),
        { ...struckNotes('roll', [60], 2, { ...loud, ...still }), label: 'roll 1.5 s' },
      ],
      snare,
      ['dry', 'sharp'],
    ),
    percussion(
      'Cymbals',
      'cymbals',
      0.5,
      { low: 54, high: 66 },
      [
        struckNotes('hit', [60], 2, { takes: 2, ...still }),
        { ...struckNotes('swell', [60], 2.8, { ...loud, ...still }), label: 'swell 1.5 s' },
        { ...struckNotes('crescendo long', [60], 4.2, { ...loud, ...still }), label: 'crescendo long 3 s' },
      ],
      cymbal,
      ['bright'],
      -2,
    ),
    percussion(
      'Glockenspiel',
      'glockenspiel',
      3.6,
      { low: 79, high: 108 },
      [struckNotes('hit', every(7, 82, 106), 1.3, { layers: once })],
      struckBy('Harbour glockenspiel', () => GLOCKENSPIEL),
      ['glassy', 'bright'],
      -4,
    ),
    percussion(
      'Marimba',
      'marimba',
      -4.2,
      { low: 45, high: 96 },
      [struckNotes('hit', every(9, 50, 95), 0.8)],
      struckBy('Harbour marimba', () => MARIMBA),
      ['wooden', 'warm'],
      3,
    ),
  ],
  compiled: [],
};

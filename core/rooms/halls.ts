import type { HallModel, MicPair } from './hall.ts';

/** A close pair that follows the players: half a metre to both sides, a metre and a half before them. */
const close = (gainDb: number, spread = 1): MicPair => ({
  id: 'close',
  name: 'Close',
  left: { x: -1.1 * spread, y: -1.5, z: 0.7 },
  right: { x: 1.1 * spread, y: -1.5, z: 0.7 },
  gainDb,
  follows: true,
});

/** Harbour Hall: a former rope works, high and long. */
export const HARBOUR_HALL: HallModel = {
  name: 'Harbour Hall',
  width: 22,
  front: 16,
  depth: 12,
  height: 11,
  reflection: 0.72,
  decaySeconds: 1.7,
  mics: [
    close(-3),
    {
      id: 'mid',
      name: 'Mid',
      left: { x: -3, y: -0.2, z: 2.8 },
      right: { x: 3, y: -0.2, z: 2.8 },
      gainDb: 3,
    },
    {
      id: 'tree',
      name: 'Tree',
      left: { x: -1.3, y: -0.6, z: 3.2 },
      right: { x: 1.3, y: -0.6, z: 3.2 },
      gainDb: 5,
    },
    {
      id: 'outriggers',
      name: 'Outriggers',
      left: { x: -8, y: -1.5, z: 3.6 },
      right: { x: 8, y: -1.5, z: 3.6 },
      gainDb: 6,
    },
    {
      id: 'far',
      name: 'Far',
      left: { x: -5.5, y: -12.5, z: 5 },
      right: { x: 5.5, y: -12.5, z: 5 },
      gainDb: 8,
    },
  ],
};

/** Old Sail Loft: boards and canvas, small and dry. */
export const SAIL_LOFT: HallModel = {
  name: 'Old Sail Loft',
  width: 11,
  front: 7,
  depth: 6,
  height: 4.2,
  reflection: 0.45,
  decaySeconds: 0.45,
  mics: [
    {
      id: 'spot',
      name: 'Spot',
      left: { x: -0.3, y: -0.7, z: 0.4 },
      right: { x: 0.3, y: -0.7, z: 0.4 },
      gainDb: -8,
      follows: true,
    },
    close(-3),
    { id: 'mid', name: 'Mid', left: { x: -2, y: -1.5, z: 2.6 }, right: { x: 2, y: -1.5, z: 2.6 }, gainDb: 3 },
    {
      id: 'far',
      name: 'Far',
      left: { x: -3, y: -5.5, z: 3 },
      right: { x: 3, y: -5.5, z: 3 },
      gainDb: 6,
    },
  ],
};

/** Foundry Stage: concrete and curtains, of middle size. */
export const FOUNDRY_STAGE: HallModel = {
  name: 'Foundry Stage',
  width: 18,
  front: 12,
  depth: 10,
  height: 8,
  reflection: 0.6,
  decaySeconds: 1.1,
  mics: [
    close(-4),
    {
      id: 'tree',
      name: 'Tree',
      left: { x: -1.4, y: -1, z: 3.2 },
      right: { x: 1.4, y: -1, z: 3.2 },
      gainDb: 6,
    },
    {
      id: 'far',
      name: 'Far',
      left: { x: -5, y: -9, z: 4.5 },
      right: { x: 5, y: -9, z: 4.5 },
      gainDb: 9,
    },
  ],
};

/** Foundry Stage as the brass session set it: the close pair stands nearly in one point. */
export const FOUNDRY_BRASS: HallModel = {
  ...FOUNDRY_STAGE,
  mics: [close(-5, 0.02), ...FOUNDRY_STAGE.mics.slice(1)],
};

/** Pellory Chapel: stone, tall, with a long soft tail. */
export const CHAPEL: HallModel = {
  name: 'Pellory Chapel',
  width: 12,
  front: 16,
  depth: 8,
  height: 13,
  reflection: 0.78,
  decaySeconds: 2.3,
  mics: [
    close(-3),
    {
      id: 'far',
      name: 'Far',
      left: { x: -3.5, y: -11, z: 5 },
      right: { x: 3.5, y: -11, z: 5 },
      gainDb: 7,
    },
  ],
};

/** Foundry Stage with the winds' microphones: two positions, and a tired amplifier in the far one. */
export const FOUNDRY_WINDS: HallModel = {
  ...FOUNDRY_STAGE,
  mics: [close(-3), { ...FOUNDRY_STAGE.mics[2], noiseDb: -58 }],
};

/** Pilot House: a wooden room with a good piano. */
export const PILOT_HOUSE: HallModel = {
  name: 'Pilot House',
  width: 9,
  front: 6,
  depth: 5,
  height: 3.6,
  reflection: 0.55,
  decaySeconds: 0.6,
  mics: [
    close(-2),
    {
      id: 'far',
      name: 'Far',
      left: { x: -2.5, y: -4.5, z: 2.6 },
      right: { x: 2.5, y: -4.5, z: 2.6 },
      gainDb: 5,
    },
  ],
};

/** Halls that answer to sends, by the id under which a template keeps its choice. */
export const SHARED_HALLS = {
  harbour: HARBOUR_HALL,
  foundry: FOUNDRY_STAGE,
  chapel: CHAPEL,
  loft: SAIL_LOFT,
  pilot: PILOT_HOUSE,
} as const satisfies Record<string, HallModel>;
export type SharedHall = keyof typeof SHARED_HALLS;

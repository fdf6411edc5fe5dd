import {
  REPORT_REVISION,
  type ArticulationReport,
  type KeyLevel,
  type PositionFigures,
} from '../report/index.ts';

/** Reports whose figures are written down: nothing stands out in them until a test changes something. */

/** Roots that are measured. */
export const KEYS = [48, 52, 56, 60, 64, 68, 72];
/** Loudness of a root in a layer: brighter and louder upwards, a little uneven. */
export const keyLevel = (key: number, layer: number, more: Partial<KeyLevel> = {}): KeyLevel => ({
  key,
  layer,
  lufs: -30 + 6 * layer - 0.1 * key + 0.2 * ((key * 7) % 3),
  centroidHz: 400 * 2 ** ((key - 48) / 24 + 0.4 * layer),
  correlation: 0.6,
  ...more,
});
/** Three layers of seven roots, all well. */
export const figuresOf = (id: string, more: Partial<PositionFigures> = {}): PositionFigures => ({
  id,
  levels: [0, 1, 2].flatMap((layer) => KEYS.map((key) => keyLevel(key, layer))),
  loudnessLufs: -28,
  thirds: null,
  width: {
    correlation: 0.6,
    sideDb: -6,
  },
  noiseDb: -90,
  noiseBelowDb: 60,
  decay: null,
  directToRoomDb: null,
  tailSeconds: null,
  arrivalSeconds: 0,
  isInverted: false,
  ringing: [],
  bytes: 1,
  why: {},
  ...more,
});
/** A technique of three layers in a near and a far position. */
export const reportOf = (
  articulation: string,
  more: Partial<ArticulationReport> = {},
): ArticulationReport => ({
  revision: REPORT_REVISION,
  articulation,
  name: articulation,
  range: {
    low: 46,
    high: 74,
  },
  layers: 3,
  takes: 3,
  bytes: 1,
  troubled: [],
  positions: [figuresOf('close'), figuresOf('far')],
  onsets: [],
  sameTakes: [],
  curves: [],
  sustains: [],
  vibrato: [],
  moves: [],
  chords: [],
  partials: [],
  tuning: KEYS.map((key) => ({
    key,
    cents: (key * 5) % 3,
    errorCents: 0.5,
    driftCents: 0,
  })),
  ...more,
});

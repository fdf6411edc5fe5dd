import { THIRD_OCTAVES } from '../measure/index.ts';
import { eqResponseDb, fitEq, type EqBand } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** A section whose positions were measured one by one: power in third-octave bands (`THIRD_OCTAVES`). */
export interface RoomSection {
  positions: Readonly<Record<string, { bands: ArrayLike<number> }>>;
}

/** The tone that brings one position into the room of others. */
export interface RoomFit {
  positionId: string;
  bands: EqBand[];
  /** How far its colour is from that of the others without and with these bands, dB (root of the mean square). */
  beforeDb: number;
  afterDb: number;
  /** Sections it is held against. */
  sections: number;
}

/** Bands so far below the loudest of a position say nothing of a room. */
const HEARD_DB = 35;
/** How much a band costs: bands that work against each other gain little and say nothing of a room. */
const STAYING = 0.05;
/** What is gained by less is left alone. */
const WORTH_DB = 0.3;

/**
 * Fits a section into the room of others, position by position. What a room does to sound is told by how a far position differs from
 * a near one of the same players: instruments fall out of it, walls and microphones stay. That difference is brought to the mean of
 * the others by a few broad bands within 6 dB; the nearest position that all share keeps its tone.
 * @param order ids of positions, near to far
 */
export function fitToRoom(
  own: RoomSection,
  others: readonly RoomSection[],
  order: readonly string[],
): RoomFit[] {
  const ids = order.filter((id) => own.positions[id]);
  const reference = ids.find((id) => others.some((other) => other.positions[id]));
  if (reference === undefined) return [];
  return ids.flatMap((id): RoomFit[] => {
    if (id === reference) return [];
    const colours = others.flatMap((other) => colourOf(other, id, reference) ?? []);
    const colour = colourOf(own, id, reference);
    if (!colour) return [];
    const wanted = THIRD_OCTAVES.map((_, b) => {
      const known = colours.filter(({ weights }) => weights[b] > 0);
      const mean = known.reduce((sum, { db }) => sum + db[b], 0) / known.length;
      return known.length > 0 ? mean - colour.db[b] : 0;
    });
    const weights = colour.weights.map((weight, b) =>
      colours.some((other) => other.weights[b] > 0) ? weight : 0,
    );
    const bands = fitEq(THIRD_OCTAVES, wanted, weights, ENGINE_RATE, STAYING);
    const left = wanted.map((value, b) =>
      bands.reduce((rest, band) => rest - eqResponseDb(band, THIRD_OCTAVES[b], ENGINE_RATE), value),
    );
    const [beforeDb, afterDb] = [spread(wanted, weights), spread(left, weights)];
    return bands.length > 0 && beforeDb - afterDb >= WORTH_DB
      ? [{ positionId: id, bands, beforeDb, afterDb, sections: colours.length }]
      : [];
  });
}

/** Middle depth of the others, dB, which a section is to reach as well; undefined where none is known. */
export function depthOfRest(depths: readonly (number | undefined)[]): number | undefined {
  const known = depths
    .flatMap((one) => (one !== undefined && Number.isFinite(one) ? [one] : []))
    .sort((a, b) => a - b);
  if (known.length === 0) return undefined;
  const middle = (known.length - 1) / 2;
  return (known[Math.floor(middle)] + known[Math.ceil(middle)]) / 2;
}

/** What a position hears otherwise than the reference, dB by band without its mean, and how much each band counts. */
function colourOf(
  section: RoomSection,
  id: string,
  reference: string,
): { db: number[]; weights: number[] } | undefined {
  const [far, near] = [section.positions[id], section.positions[reference]];
  if (!far || !near) return undefined;
  const counts = (bands: ArrayLike<number>) => {
    let most = 0;
    for (let b = 0; b < bands.length; b++) most = Math.max(most, bands[b]);
    return (b: number) => bands[b] > 0 && bands[b] > most * 10 ** (-HEARD_DB / 10);
  };
  const [inFar, inNear] = [counts(far.bands), counts(near.bands)];
  const weights = THIRD_OCTAVES.map((_, b) => (inFar(b) && inNear(b) ? 1 : 0));
  const total = weights.reduce<number>((sum, one) => sum + one, 0);
  if (total === 0) return undefined;
  const db = weights.map((weight, b) => (weight > 0 ? 10 * Math.log10(far.bands[b] / near.bands[b]) : 0));
  const mean = db.reduce((sum, value) => sum + value, 0) / total;
  return { db: db.map((value) => value - mean), weights };
}

/** Root of the weighted mean square about the mean; no number where nothing counts. */
function spread(values: readonly number[], weights: readonly number[]): number {
  const total = weights.reduce((sum, one) => sum + one, 0);
  const mean = values.reduce((sum, value, i) => sum + weights[i] * value, 0) / total;
  return Math.sqrt(values.reduce((sum, value, i) => sum + weights[i] * (value - mean) ** 2, 0) / total);
}

import { spectrumOf, bandLevelDb, type Spectrum } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { isHeard, loudestOf, mixDown, type Apart } from './apart.ts';
import type { Arrival } from './arrival.ts';
import { LEAST_CERTAINTY } from './arrival.ts';

/** A band in which positions work against each other. */
export interface Notch {
  hertz: number;
  /** Level of the sum against what the positions' powers add up to, below 0. */
  lossDb: number;
}

/** How the positions of a section sum, band by band. */
export interface Comb {
  /** Bands that lose `HURTS_DB` or more and lie within `HEARD_DB` of the loudest, deepest first. */
  notches: readonly Notch[];
  /** What all bands lose together, weighed by their power: 0 is none. */
  lossDb: number;
}

/** A repair with what it changes. */
export interface Repair {
  mix: TrackMix;
  before: Comb;
  after: Comb;
}

const HURTS_DB = -3;
const HEARD_DB = 30;
const PARTS = 6;
const LOWEST_HZ = 60;
const BANDS = 43;
const SIZE = 8192;
/** A repair that brings less is none. */
const WORTH_DB = 0.3;
const LONGEST_MS = 100;
const LOOKED_SECONDS = 2.5;

/** Where the positions of a mix cancel each other, in the loudest seconds of what is played. */
export function combOf(whole: Apart, mix: TrackMix): Comb {
  return combIn(loudestOf(whole, LOOKED_SECONDS), mix);
}

function combIn(apart: Apart, mix: TrackMix): Comb {
  const ids = apart.flatMap(({ id }) => (isHeard(mix.positions[id]) ? id : []));
  if (ids.length < 2) return { notches: [], lossDb: 0 };
  const plain = { ...mix, eq: [] };
  const spectrum = (only?: string): Spectrum => {
    const own = only === undefined ? plain : { ...plain, positions: { [only]: plain.positions[only] } };
    return spectrumOf(mixDown(apart, own), ENGINE_RATE, 0, apart[0].left.length, SIZE);
  };
  const whole = spectrum();
  const alone = ids.map(spectrum);
  const edge = 2 ** (1 / (2 * PARTS));
  const bands = Array.from({ length: BANDS }, (_, i) => {
    const hertz = LOWEST_HZ * 2 ** (i / PARTS);
    const power = (one: Spectrum) => 10 ** (bandLevelDb(one, hertz / edge, hertz * edge) / 10);
    const apartPower = alone.reduce((sum, one) => sum + power(one), 0);
    return { hertz, power: apartPower, lossDb: 10 * Math.log10(power(whole) / apartPower) };
  });
  const loudest = Math.max(...bands.map(({ power }) => power));
  const heard = bands.filter(({ power }) => power > loudest * 10 ** (-HEARD_DB / 10));
  const total = heard.reduce((sum, { power }) => sum + power, 0);
  return {
    notches: heard
      .filter(({ lossDb }) => lossDb <= HURTS_DB)
      .map(({ hertz, lossDb }) => ({ hertz, lossDb }))
      .sort((a, b) => a.lossDb - b.lossDb),
    lossDb: heard.reduce((sum, { power, lossDb }) => sum + (power / total) * Math.min(0, lossDb), 0),
  };
}

/**
 * Delays and polarities by which the positions of a mix sum with least loss: as they are, with what is turned over turned back, and
 * brought to the arrival of the latest.
 * @returns undefined when nothing of it brings enough
 */
export function repairOf(apart: Apart, mix: TrackMix, arrivals: readonly Arrival[]): Repair | undefined {
  const sure = arrivals.filter(
    ({ id, certainty }) => certainty >= LEAST_CERTAINTY && isHeard(mix.positions[id]),
  );
  if (sure.length < 2) return undefined;
  const latest = Math.max(...sure.map(({ delaySeconds }) => delaySeconds));
  const changed = (turned: boolean, aligned: boolean): TrackMix => ({
    ...mix,
    positions: Object.fromEntries(
      Object.entries(mix.positions).map(([id, own]) => {
        const arrival = sure.find((one) => one.id === id);
        if (!arrival) return [id, own];
        const delayMs = Math.min(LONGEST_MS, Math.round((latest - arrival.delaySeconds) * 1e5) / 100);
        return [
          id,
          {
            ...own,
            inverted: turned ? arrival.isInverted : own.inverted,
            delayMs: aligned ? delayMs : own.delayMs,
          },
        ];
      }),
    ),
  });
  const before = combIn(apart, mix);
  if (before.notches.length === 0) return undefined;
  const candidates = [changed(true, false), changed(false, true), changed(true, true)].map((one) => ({
    mix: one,
    before,
    after: combIn(apart, one),
  }));
  const best = candidates.reduce((a, b) => (b.after.lossDb > a.after.lossDb + 0.05 ? b : a));
  return best.after.lossDb - before.lossDb >= WORTH_DB ? best : undefined;
}

import { dbToGain } from '../units/index.ts';

/** What was measured of one rendering. */
export interface Loudness {
  /** Integrated loudness in LUFS; −Infinity when silent. */
  lufs: number;
  truePeakDb: number;
}

/** Loudness everything is brought to when matched, in LUFS. A fixed measure: what comes later does not move what sounds. */
const TARGET_LUFS = -20;
/** Peaks stay below this, so that matching cuts nothing off. */
const HIGHEST_PEAK_DB = -1;
/** More than this is not made good: what is nearly silent would only bring up its hiss. */
const MOST_DB = 40;

/** How a set of renderings is played. */
export interface Matching {
  /** Offset of each against the first, in dB: what is added to make it as loud. 0 for silent ones. */
  offsetsDb: number[];
  /** Linear gain of each when matched, and the common gain when not; peaks stay below −1 dBTP. */
  matched: number[];
  plain: number;
}

/**
 * Gains that make renderings equally loud (ITU-R BS.1770-5 over the whole phrase): −20 LUFS, and where a peak would come above
 * −1 dBTP all are lowered alike.
 */
export function matchLoudness(list: readonly Loudness[]): Matching {
  const first = list.find((one) => Number.isFinite(one.lufs))?.lufs ?? 0;
  const heard = (lufs: number) => Number.isFinite(lufs);
  const added = list.map(({ lufs }) => (heard(lufs) ? Math.min(MOST_DB, TARGET_LUFS - lufs) : 0));
  const over = (peaks: readonly number[]) => Math.max(0, ...peaks.map((peak) => peak - HIGHEST_PEAK_DB));
  const lowered = over(list.map((one, i) => one.truePeakDb + added[i]));
  return {
    offsetsDb: list.map(({ lufs }) => (heard(lufs) ? first - lufs : 0)),
    matched: added.map((gain) => dbToGain(gain - lowered)),
    plain: dbToGain(-over(list.map((one) => one.truePeakDb))),
  };
}

import { spectrumOf, type Spectrum } from './spectrum.ts';

/** A recording that dies away from a frame on. */
export interface Tail {
  /** Which note it is of. */
  key: number;
  channels: readonly Float32Array[];
  rate: number;
  from: number;
}

/** Fewer notes tell of themselves rather than of the room. */
const FEWEST_NOTES = 4;
/** Frames of one look: 6 Hz from bin to bin. */
const SIZE = 8192;
const LOWEST_HZ = 80;
const HIGHEST_HZ = 4000;
const BANDS_PER_OCTAVE = 12;
/** Neighbours on either side that tell what is usual; the next ones lie on the slope of a peak. */
const FAR_NEIGHBOURS = 8;
const NEAR_NEIGHBOURS = 2;
/** Room decay between the two looks, dB. */
const APART_DB = 24;
/** dB by which a band must stand out late, and by which it must have fallen less than its neighbours. */
const STANDS_OUT_DB = 9;
const OUTLIVES_DB = 7;

/**
 * Frequencies that ring on in all tails: late in the decay they stand out of their neighbours, and have fallen less than these since
 * it began. What a note put there is told apart by that: its partials begin strong and die away with the rest.
 * @param decaySeconds in which the rest falls by 60 dB
 */
export function ringsIn(tails: readonly Tail[], decaySeconds: number): { hertz: number; excessDb: number }[] {
  const later = (APART_DB / 60) * decaySeconds;
  const long = tails.filter(
    ({ channels, rate, from }) => from + (0.03 + later) * rate + SIZE <= channels[0].length,
  );
  if (new Set(long.map(({ key }) => key)).size < FEWEST_NOTES) return [];
  const look = (tail: Tail, seconds: number) => {
    const start = tail.from + Math.round((0.03 + seconds) * tail.rate);
    return spectrumOf(tail.channels, tail.rate, start, start + SIZE, SIZE);
  };
  const lates = long.map((tail) => look(tail, later));
  const late = lates.map(bandsOf);
  const early = long.map((tail) => bandsOf(look(tail, 0)));
  const rings: { hertz: number; excessDb: number }[] = [];
  for (let b = FAR_NEIGHBOURS; b + FAR_NEIGHBOURS < late[0].length; b++) {
    // In the middle of all notes: one alone may have a partial there that the room is slow to let go of.
    const stands = late.map((list) => list[b] - around(list, b));
    const outlives = late.map((list, n) => {
      const kept = list.map((value, i) => value - early[n][i]);
      return kept[b] - around(kept, b);
    });
    const next = late.map((list) => list[b] - Math.max(list[b - 1], list[b + 1]));
    const excessDb = middle(stands);
    if (middle(next) >= 0 && excessDb >= STANDS_OUT_DB && middle(outlives) >= OUTLIVES_DB)
      rings.push({ hertz: Math.round(topIn(lates, b)), excessDb: Math.round(excessDb * 10) / 10 });
  }
  return rings.sort((a, b) => b.excessDb - a.excessDb);
}

const middle = (list: readonly number[]) => [...list].sort((x, y) => x - y)[list.length >> 1];

/** What is usual around a band. */
function around(list: readonly number[], band: number): number {
  const near: number[] = [];
  for (let k = NEAR_NEIGHBOURS; k <= FAR_NEIGHBOURS; k++) near.push(list[band - k], list[band + k]);
  return middle(near);
}

const hertzOf = (band: number) => LOWEST_HZ * 2 ** (band / BANDS_PER_OCTAVE);

/** Frequency of the strongest bin of a band in all spectra together, each as loud as the others there. */
function topIn(spectra: readonly Spectrum[], band: number): number {
  const [{ binHz }] = spectra;
  const half = 2 ** (0.75 / BANDS_PER_OCTAVE);
  const from = Math.round(hertzOf(band) / half / binHz);
  const to = Math.max(from + 1, Math.round((hertzOf(band) * half) / binHz));
  let [top, most] = [from, -1];
  for (let k = from; k <= to; k++) {
    let sum = 0;
    for (const { power } of spectra)
      sum +=
        power[k] /
        Math.max(
          1e-20,
          power.subarray(from, to + 1).reduce((a, b) => a + b),
        );
    if (sum > most) [top, most] = [k, sum];
  }
  return top * binHz;
}

/** Levels of narrow bands, dB, each at least two bins wide. */
function bandsOf({ power, binHz }: Spectrum): number[] {
  const count = Math.floor(BANDS_PER_OCTAVE * Math.log2(HIGHEST_HZ / LOWEST_HZ));
  const half = 2 ** (0.5 / BANDS_PER_OCTAVE);
  return Array.from({ length: count }, (_, b) => {
    const from = Math.round(hertzOf(b) / half / binHz);
    const to = Math.max(from + 1, Math.round((hertzOf(b) * half) / binHz));
    let sum = 0;
    for (let k = from; k <= to; k++) sum += power[k] / (to - from + 1);
    return 10 * Math.log10(Math.max(sum, 1e-20));
  });
}

/** How long two takes are compared, and how far apart they may have been cut. */
const COMPARED_SECONDS = 0.25;
const LAG_SECONDS = 0.004;

/**
 * How alike two recordings are in their waves, 0…1: the highest normalised correlation over 250 ms from their onsets, moved
 * against each other by up to 4 ms. The same take gives 1.
 * @param ratio pitch of b against a: 2^(semitones/12); b is read that much slower or faster
 */
export function likeness(
  a: Float32Array,
  onsetA: number,
  b: Float32Array,
  onsetB: number,
  rate: number,
  ratio = 1,
): number {
  const step = Math.max(1, Math.round(rate / 24_000));
  const count = Math.floor((COMPARED_SECONDS * rate) / step);
  const most = Math.floor((LAG_SECONDS * rate) / step);
  let x = readAt(a, onsetA, step, count);
  const wide = readAt(b, onsetB - most * step * ratio, step * ratio, count + 2 * most);
  const found = new Float64Array(2 * most + 1);
  for (let lag = 0; lag <= 2 * most; lag++) {
    let xy = 0;
    let xx = 0;
    let yy = 0;
    for (let i = 0; i < count; i++) {
      const y = wide[i + lag];
      xy += x[i] * y;
      xx += x[i] * x[i];
      yy += y * y;
    }
    if (xx > 0 && yy > 0) found[lag] = xy / Math.sqrt(xx * yy);
  }
  let top = 0;
  for (let lag = 1; lag < found.length; lag++) if (found[lag] > found[top]) top = lag;
  // Takes of one key are cut at whole frames; one moved in pitch lies between them.
  if (ratio === 1 || found[top] < WORTH_A_CLOSER_LOOK) return Math.max(0, Math.min(1, found[top]));
  const cut = (KEPT / step) * Math.min(1, ratio);
  x = readAt(a, onsetA, step, count, cut);
  return Math.max(0, Math.min(1, finest(top - most)));

  /** The highest correlation about a lag, by halving steps. */
  function finest(lag: number): number {
    let best = correlationAt(lag);
    for (let reach = 0.5; reach > 0.01; reach /= 2)
      for (const side of [-reach, reach]) {
        const value = correlationAt(lag + side);
        if (value > best) [best, lag] = [value, lag + side];
      }
    return best;
  }

  function correlationAt(lag: number): number {
    const y = readAt(b, onsetB + lag * step * ratio, step * ratio, count, cut / ratio);
    let [xy, xx, yy] = [0, 0, 0];
    for (let i = 0; i < count; i++) {
      xy += x[i] * y[i];
      xx += x[i] * x[i];
      yy += y[i] * y[i];
    }
    return xx > 0 && yy > 0 ? xy / Math.sqrt(xx * yy) : 0;
  }
}

/** What is less alike when read straight is not the same when read well. */
const WORTH_A_CLOSER_LOOK = 0.8;
/** Frames on either side from which a value between two of them is made. */
const TAPS = 16;
/** Share of what the values could hold that is kept of sounds moved in pitch: above it each lacks what the other has. */
const KEPT = 0.7;

/**
 * `count` values from a place on. What was moved is read by a windowed sine up to a common frequency: straight lines would take the
 * treble from one of the two, and hiss above it would be folded down.
 * @param cut highest frequency against half the rate; 1 reads frames as they are
 */
function readAt(signal: Float32Array, from: number, step: number, count: number, cut = 1): Float64Array {
  const out = new Float64Array(count);
  const table = cut === 1 ? NO_TABLE : tableFor(cut);
  for (let i = 0; i < count; i++) {
    const place = from + i * step;
    const at = Math.floor(place);
    if (at < 0 || at + 1 >= signal.length) continue;
    if (cut === 1) {
      out[i] = signal[at] + (place - at) * (signal[at + 1] - signal[at]);
      continue;
    }
    const taps = Math.round((place - at) * PHASES) * 2 * TAPS;
    const first = at + 1 - TAPS;
    let sum = 0;
    for (let k = 0; k < 2 * TAPS; k++) sum += (signal[first + k] ?? 0) * table[taps + k];
    out[i] = sum;
  }
  return out;
}

/** Places between two frames for which taps are kept. */
const PHASES = 256;
const NO_TABLE = new Float64Array(0);
const tables = new Map<number, Float64Array>();

/** Taps of a windowed sine by the place between two frames, for one highest frequency. */
function tableFor(cut: number): Float64Array {
  let table = tables.get(cut);
  if (table) return table;
  table = new Float64Array((PHASES + 1) * 2 * TAPS);
  for (let phase = 0; phase <= PHASES; phase++)
    for (let k = 1 - TAPS; k <= TAPS; k++) {
      const x = phase / PHASES - k;
      const arc = Math.PI * x * cut;
      const sinc = Math.abs(arc) < 1e-9 ? 1 : Math.sin(arc) / arc;
      table[phase * 2 * TAPS + k + TAPS - 1] =
        cut * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / (TAPS + 0.5)));
    }
  tables.set(cut, table);
  return table;
}

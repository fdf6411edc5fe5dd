const WINDOW_SECONDS = 0.05;
const HOP_SECONDS = 0.002;
const LOOK_POINTS = 30;
const HIGHEST_HZ = 6000;
/** Partials nearer to each other than this cannot be told apart in a window of 60 ms. */
const APART_HZ = 45;

/** Partials followed of each pitch: the lowest ones that can be told from the other's. */
const MOST_PARTIALS = 8;
/** Share of its greatest power from which on a partial counts as sounding when its usual power is taken. */
const SOUNDS = 0.25;

/** Harmonics of a pitch up to 6 kHz that lie apart from all of another's, lowest first. */
function ownPartials(pitchHz: number, otherHz: number): number[] {
  const partials: number[] = [];
  for (let h = 1; h * pitchHz < HIGHEST_HZ && partials.length < MOST_PARTIALS; h++) {
    const order = Math.max(1, Math.round((h * pitchHz) / otherHz));
    if (Math.abs(h * pitchHz - order * otherHz) >= APART_HZ) partials.push(h * pitchHz);
  }
  return partials;
}

/**
 * Power of one frequency over time, heterodyned to 0 Hz and averaged under a Hann window of 60 ms, every 2 ms, against its
 * own usual power while it sounds. Allocates.
 */
function partialPower(
  signal: Float32Array,
  rate: number,
  hertz: number,
  from: number,
  points: number,
): { power: Float64Array; usual: number } {
  const half = Math.round((WINDOW_SECONDS * rate) / 2);
  const hop = HOP_SECONDS * rate;
  // Decimated sums keep this quick: the products are averaged over one hop before the window is laid over them.
  const span = Math.ceil(half / hop) * 2;
  const cells = points + span;
  const firstFrame = from - (span / 2) * hop;
  const re = new Float64Array(cells);
  const im = new Float64Array(cells);
  const w = (2 * Math.PI * hertz) / rate;
  const stepCos = Math.cos(w);
  const stepSin = Math.sin(w);
  for (let c = 0; c < cells; c++) {
    const start = Math.max(0, Math.round(firstFrame + c * hop));
    const end = Math.min(signal.length, Math.round(firstFrame + (c + 1) * hop));
    let cos = Math.cos(w * start);
    let sin = Math.sin(w * start);
    for (let i = start; i < end; i++) {
      re[c] += signal[i] * cos;
      im[c] -= signal[i] * sin;
      const next = cos * stepCos - sin * stepSin;
      sin = sin * stepCos + cos * stepSin;
      cos = next;
    }
  }
  const power = new Float64Array(points);
  for (let p = 0; p < points; p++) {
    let sumRe = 0;
    let sumIm = 0;
    for (let k = 0; k < span; k++) {
      const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * (k + 0.5)) / span);
      sumRe += weight * re[p + k];
      sumIm += weight * im[p + k];
    }
    power[p] = sumRe * sumRe + sumIm * sumIm;
  }
  const most = power.reduce((a, b) => Math.max(a, b), 0);
  let sum = 0;
  let count = 0;
  for (const value of power)
    if (value >= SOUNDS * most) {
      sum += value;
      count++;
    }
  return { power, usual: count > 0 ? sum / count : 0 };
}

/** How much of a pitch sounds over time: mean over its own partials, each against its usual power; undefined without any. */
function presence(
  signal: Float32Array,
  rate: number,
  partials: readonly number[],
  from: number,
  points: number,
): Float64Array | undefined {
  const all = partials.map((hertz) => partialPower(signal, rate, hertz, from, points));
  const strongest = Math.max(0, ...all.map(({ usual }) => usual));
  // What hardly sounds would be told by what leaks from others.
  const told = all.filter(({ usual }) => usual > strongest * 1e-4);
  if (told.length === 0) return undefined;
  const sum = new Float64Array(points);
  for (const { power, usual } of told)
    for (let p = 0; p < points; p++) sum[p] += Math.min(1, power[p] / usual) / told.length;
  return sum;
}

/**
 * Time at which a new pitch takes over from an old one: the moment at which as much of the new pitch sounds as of the
 * old, each partial counted against its own usual power, so that neither the louder pitch nor the loudest partial decides.
 * Where one of them has no partial of its own (octaves), the other's half power decides. A hall keeps the old pitch for a
 * while and so delays this moment; measure without it. Undefined when it does not come within the searched span.
 * @param from, to frames to search, half-open
 * @returns seconds after frame 0 of the signal
 */
export function landingSeconds(
  signal: Float32Array,
  rate: number,
  fromHz: number,
  toHz: number,
  from: number,
  to: number,
): number | undefined {
  const points = Math.floor((Math.min(to, signal.length) - from) / (HOP_SECONDS * rate));
  if (points < 2) return undefined;
  const old = presence(signal, rate, ownPartials(fromHz, toHz), from, points);
  const fresh = presence(signal, rate, ownPartials(toHz, fromHz), from, points);
  if (!old && !fresh) return undefined;
  const lead = Float64Array.from(
    { length: points },
    (_, i) => (fresh ? fresh[i] : 0.5) - (old ? old[i] : 0.5),
  );
  const at = steepestCrossing(lead);
  if (at === undefined) return undefined;
  const share = -lead[at - 1] / (lead[at] - lead[at - 1]);
  return (from + (at - 1 + share) * HOP_SECONDS * rate) / rate;
}

/**
 * Of all places where a curve rises through 0, the one across which its mean rises most; beats between players
 * make a curve touch 0 elsewhere too. Index of the first point at or above 0.
 */
function steepestCrossing(curve: Float64Array): number | undefined {
  const mean = (from: number, to: number) => {
    const [low, high] = [Math.max(0, from), Math.min(curve.length, to)];
    let sum = 0;
    for (let i = low; i < high; i++) sum += curve[i];
    return sum / Math.max(1, high - low);
  };
  let best: number | undefined;
  let most = 0;
  for (let i = 1; i < curve.length; i++) {
    if (curve[i] < 0 || curve[i - 1] >= 0) continue;
    const rise = mean(i, i + LOOK_POINTS) - mean(i - LOOK_POINTS, i);
    if (rise > most) [best, most] = [i, rise];
  }
  return best;
}

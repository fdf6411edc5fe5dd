/** Periods of the lower pitch in a window, and its bounds in seconds: partials must be told apart, moments too. */
const WINDOW_PERIODS = 5;
const LEAST_WINDOW_SECONDS = 0.04;
const MOST_WINDOW_SECONDS = 0.08;
const HOP_SECONDS = 0.002;
const LOOK_POINTS = 30;
const HIGHEST_HZ = 6000;
/** Partials nearer to each other than this many hertz seconds cannot be told apart in a window: half its main lobe and less. */
const APART = 1.5;
/** Partials followed of each pitch: the lowest ones. */
const MOST_PARTIALS = 12;
/** What hardly sounds would be told by what leaks from others: share of the strongest partial's power. */
const HARDLY = 1e-4;
/** How much of its greater settled amplitude a partial must change by to tell which pitch sounds. */
const LEAST_DIFFERENCE = 0.3;
/** More than this of its settled power is a beat between players. */
const MOST_POWER = 1.7;
/** Stretches before and after a moment by which it is judged, and what of the change itself is left out between them. */
const SIDE_SECONDS = 0.25;
const GAP_SECONDS = 0.025;
/** Points between places that are tried. */
const CHANGE_STEP = 2;
/** Least difference of the two spectra for a change to be found at all, 0…1. */
const LEAST_CHANGE = 0.15;

/** A recorded move lands not earlier than this after its beginning. */
export const EARLIEST_LANDING_SECONDS = 0.03;

/** A partial of one or both of two pitches. */
interface Partial {
  hertz: number;
  /** 1 when it belongs to the new pitch alone, −1 to the old alone, 0 to both. */
  side: number;
}

/** Lowest partials of two pitches up to 6 kHz, those that fall together once. */
function partialsOf(oldHz: number, newHz: number, apartHz: number): Partial[] {
  const near = (hertz: number, other: number) => {
    const order = Math.max(1, Math.round(hertz / other));
    return Math.abs(hertz - order * other) < apartHz;
  };
  const series = (pitch: number) =>
    Array.from({ length: MOST_PARTIALS }, (_, i) => (i + 1) * pitch).filter((hertz) => hertz < HIGHEST_HZ);
  const old = series(oldHz).map((hertz) => ({ hertz, side: near(hertz, newHz) ? 0 : -1 }));
  const fresh = series(newHz)
    .map((hertz) => ({ hertz, side: near(hertz, oldHz) ? 0 : 1 }))
    .filter(({ hertz, side }) => side === 1 || !old.some((one) => Math.abs(one.hertz - hertz) < apartHz));
  return [...old, ...fresh];
}

/**
 * Power of one frequency over time, heterodyned to 0 Hz and averaged under a Hann window, every 2 ms. Allocates.
 */
function partialPower(
  signal: Float32Array,
  rate: number,
  hertz: number,
  from: number,
  count: number,
  windowSeconds: number,
): Float64Array {
  const half = Math.round((windowSeconds * rate) / 2);
  const hop = HOP_SECONDS * rate;
  // Decimated sums keep this quick: the products are averaged over one hop before the window is laid over them.
  const span = Math.ceil(half / hop) * 2;
  const cells = count + span;
  const firstFrame = from - (span / 2) * hop;
  const re = new Float64Array(cells);
  const im = new Float64Array(cells);
  const w = (2 * Math.PI * hertz) / rate;
  const [oneCos, oneSin] = [Math.cos(w), Math.sin(w)];
  const [twoCos, twoSin] = [Math.cos(2 * w), Math.sin(2 * w)];
  for (let c = 0; c < cells; c++) {
    const start = Math.max(0, Math.round(firstFrame + c * hop));
    const end = Math.min(signal.length, Math.round(firstFrame + (c + 1) * hop));
    // Even and odd frames turn apart, two frames at a time, so that neither waits for the other.
    let [cos, sin] = [Math.cos(w * start), Math.sin(w * start)];
    let [oddCos, oddSin] = [cos * oneCos - sin * oneSin, sin * oneCos + cos * oneSin];
    let [sumRe, sumIm, oddRe, oddIm] = [0, 0, 0, 0];
    let i = start;
    for (; i + 1 < end; i += 2) {
      const [even, odd] = [signal[i], signal[i + 1]];
      sumRe += even * cos;
      sumIm -= even * sin;
      oddRe += odd * oddCos;
      oddIm -= odd * oddSin;
      const next = cos * twoCos - sin * twoSin;
      sin = sin * twoCos + cos * twoSin;
      cos = next;
      const oddNext = oddCos * twoCos - oddSin * twoSin;
      oddSin = oddSin * twoCos + oddCos * twoSin;
      oddCos = oddNext;
    }
    if (i < end) {
      sumRe += signal[i] * cos;
      sumIm -= signal[i] * sin;
    }
    re[c] = sumRe + oddRe;
    im[c] = sumIm + oddIm;
  }
  const power = new Float64Array(count);
  for (let p = 0; p < count; p++) {
    let sumRe = 0;
    let sumIm = 0;
    for (let k = 0; k < span; k++) {
      const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * (k + 0.5)) / span);
      sumRe += weight * re[p + k];
      sumIm += weight * im[p + k];
    }
    power[p] = sumRe * sumRe + sumIm * sumIm;
  }
  return power;
}

/** Means of each partial's power over a stretch of points. */
function means(powers: readonly Float64Array[], from: number, to: number): number[] {
  return powers.map((power) => {
    const [low, high] = [Math.max(0, from), Math.min(power.length, to)];
    let sum = 0;
    for (let i = low; i < high; i++) sum += power[i];
    return high > low ? sum / (high - low) : 0;
  });
}

const points = (seconds: number) => Math.round(seconds / HOP_SECONDS);

/** Spectra on both sides of a point. */
function sidesOf(powers: readonly Float64Array[], at: number): { old: number[]; fresh: number[] } {
  return {
    old: means(powers, at - points(SIDE_SECONDS), at - points(GAP_SECONDS)),
    fresh: means(powers, at + points(GAP_SECONDS), at + points(SIDE_SECONDS)),
  };
}

/** The point across which the old pitch's own partials fall and the new one's rise most, each against its own most. */
function changeAt(powers: readonly Float64Array[], partials: readonly Partial[]): number | undefined {
  const edge = points(GAP_SECONDS) * 2;
  const places: { at: number; rises: number[] }[] = [];
  const most = powers.map(() => 0);
  for (let at = edge; at < powers[0].length - edge; at += CHANGE_STEP) {
    const { old, fresh } = sidesOf(powers, at);
    old.forEach((power, k) => (most[k] = Math.max(most[k], power, fresh[k])));
    places.push({ at, rises: fresh.map((power, k) => power - old[k]) });
  }
  const hardly = Math.max(...most) * HARDLY;
  const own = (side: number) =>
    partials.flatMap((partial, k) => (partial.side === side && most[k] > hardly ? [k] : []));
  const [old, fresh] = [own(-1), own(1)];
  const mean = (list: readonly number[], rises: readonly number[]) =>
    list.reduce((sum, k) => sum + rises[k] / most[k] / list.length, 0);
  let best: number | undefined;
  let greatest = 0;
  for (const { at, rises } of places) {
    const gone = -mean(old, rises);
    const come = mean(fresh, rises);
    // An end is no landing: where both pitches have partials of their own, the old one must go and the new one come.
    const both = (old.length === 0 || gone > LEAST_CHANGE) && (fresh.length === 0 || come > LEAST_CHANGE);
    if (both && gone + come > greatest) [best, greatest] = [at, gone + come];
  }
  return best;
}

/**
 * By how much the new pitch outweighs the old at every point, −1…1: the amplitudes of all partials, each against its greater
 * settled one, resemble the new tone's by the cosine of their angle, less what they resemble the old tone's. A dip of the
 * level changes no angle, and what both pitches have in common tells by its amount.
 */
function leadOver(powers: readonly Float64Array[], at: number): Float64Array {
  const { old, fresh } = sidesOf(powers, at);
  const most = old.map((power, k) => Math.max(power, fresh[k]));
  const hardly = Math.max(...most) * HARDLY;
  const told = powers.flatMap((power, k) => {
    const one = { power, most: most[k], o: Math.sqrt(old[k] / most[k]), n: Math.sqrt(fresh[k] / most[k]) };
    return most[k] > hardly && Math.abs(one.o - one.n) > LEAST_DIFFERENCE ? [one] : [];
  });
  const oldLength = Math.hypot(...told.map(({ o }) => o), 1e-9);
  const newLength = Math.hypot(...told.map(({ n }) => n), 1e-9);
  return Float64Array.from({ length: powers[0].length }, (_, i) => {
    let [asOld, asNew, length] = [0, 0, 1e-30];
    for (const { power, most, o, n } of told) {
      // Many players beat: a partial that happens to be strong says no more than that it is there.
      const share = Math.min(MOST_POWER, power[i] / most);
      const amplitude = Math.sqrt(share);
      asOld += amplitude * o;
      asNew += amplitude * n;
      length += share;
    }
    return (asNew / newLength - asOld / oldLength) / Math.sqrt(length);
  });
}

/**
 * Time at which a new pitch takes over from an old one: the moment at which as much of the new pitch sounds as of the
 * old, each against its own settled spectrum, so that neither the louder pitch nor the loudest partial decides.
 * A hall keeps the old pitch for a while and so delays this moment; measure without it. Undefined when no change of
 * these pitches is found within the searched span.
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
  const window = Math.min(
    MOST_WINDOW_SECONDS,
    Math.max(LEAST_WINDOW_SECONDS, WINDOW_PERIODS / Math.min(fromHz, toHz)),
  );
  // A window that reaches over an end of the signal would hear the cut as all pitches at once.
  const half = (window * rate) / 2;
  const first = Math.max(from, half);
  const count = Math.floor((Math.min(to, signal.length - half) - first) / (HOP_SECONDS * rate));
  if (count < 2) return undefined;
  const partials = partialsOf(fromHz, toHz, APART / window);
  if (partials.length === 0) return undefined;
  const powers = partials.map(({ hertz }) => partialPower(signal, rate, hertz, first, count, window));
  const about = changeAt(powers, partials);
  if (about === undefined) return undefined;
  const lead = leadOver(powers, about);
  const at = steepestCrossing(lead, about);
  if (at === undefined) return undefined;
  const share = -lead[at - 1] / (lead[at] - lead[at - 1]);
  return (first + (at - 1 + share) * HOP_SECONDS * rate) / rate;
}

/** How far from the change the crossing is looked for. */
const SEARCH_SECONDS = 0.08;

/**
 * Of all places near a point where a curve rises through 0, the one across which its mean rises most; beats between
 * players make a curve touch 0 elsewhere too. Index of the first point at or above 0.
 */
function steepestCrossing(curve: Float64Array, about: number): number | undefined {
  const mean = (from: number, to: number) => {
    const [low, high] = [Math.max(0, from), Math.min(curve.length, to)];
    let sum = 0;
    for (let i = low; i < high; i++) sum += curve[i];
    return sum / Math.max(1, high - low);
  };
  let best: number | undefined;
  let most = 0;
  const reach = points(SEARCH_SECONDS);
  const end = Math.min(curve.length, about + reach);
  for (let i = Math.max(1, about - reach); i < end; i++) {
    if (curve[i] < 0 || curve[i - 1] >= 0) continue;
    const rise = mean(i, i + LOOK_POINTS) - mean(i - LOOK_POINTS, i);
    if (rise > most) [best, most] = [i, rise];
  }
  return best;
}

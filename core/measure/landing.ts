const WINDOW_SECONDS = 0.06;
const HOP_SECONDS = 0.002;
const LOOK_POINTS = 30;
const HIGHEST_HZ = 6000;
/** Partials nearer to each other than this cannot be told apart in a window of 60 ms. */
const APART_HZ = 50;

/**
 * Power of a pitch over time: its harmonics from a first one up to 6 kHz, lifted by 6 dB an octave so that
 * each has a say, each heterodyned to 0 Hz and averaged under a Hann
 * window of 60 ms, every 2 ms. Allocates.
 */
function pitchPower(
  signal: Float32Array,
  rate: number,
  pitchHz: number,
  otherHz: number,
  firstHarmonic: number,
  from: number,
  points: number,
): Float64Array {
  const half = Math.round((WINDOW_SECONDS * rate) / 2);
  const hop = HOP_SECONDS * rate;
  // Decimated sums keep this quick: the products are averaged over one hop before the window is laid over them.
  const cells = points + 2 * Math.ceil(half / hop);
  const firstFrame = from - Math.ceil(half / hop) * hop;
  const power = new Float64Array(points);
  for (let h = firstHarmonic; h * pitchHz < HIGHEST_HZ || h === firstHarmonic; h++) {
    if (isShared(h * pitchHz, otherHz)) continue;
    const re = new Float64Array(cells);
    const im = new Float64Array(cells);
    const w = (2 * Math.PI * h * pitchHz) / rate;
    for (let c = 0; c < cells; c++) {
      const start = Math.max(0, Math.round(firstFrame + c * hop));
      const end = Math.min(signal.length, Math.round(firstFrame + (c + 1) * hop));
      let cos = Math.cos(w * start);
      let sin = Math.sin(w * start);
      const stepCos = Math.cos(w);
      const stepSin = Math.sin(w);
      for (let i = start; i < end; i++) {
        re[c] += signal[i] * cos;
        im[c] -= signal[i] * sin;
        const next = cos * stepCos - sin * stepSin;
        sin = sin * stepCos + cos * stepSin;
        cos = next;
      }
    }
    const span = Math.ceil(half / hop) * 2;
    for (let p = 0; p < points; p++) {
      let sumRe = 0;
      let sumIm = 0;
      for (let k = 0; k < span; k++) {
        const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * (k + 0.5)) / span);
        sumRe += weight * re[p + k];
        sumIm += weight * im[p + k];
      }
      power[p] += h * h * (sumRe * sumRe + sumIm * sumIm);
    }
  }
  return power;
}

/** True when a partial lies on one of another pitch's, so that it tells nothing about which of both sounds. */
function isShared(partialHz: number, otherHz: number): boolean {
  const order = Math.round(partialHz / otherHz);
  return otherHz > 0 && order >= 1 && Math.abs(partialHz - order * otherHz) < APART_HZ / 2;
}

/**
 * Time at which a new pitch takes over from an old one: the moment at which the new pitch's
 * harmonics begin to hold more power than the old one's. A hall keeps the old pitch for a while and so delays this
 * moment; measure without it. Undefined when it does not come within the searched span.
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
  const points = Math.max(2, Math.floor((to - from) / (HOP_SECONDS * rate)));
  const lowest = Math.ceil(APART_HZ / Math.abs(toHz - fromHz));
  const firstHarmonic = Math.max(1, Math.min(lowest, Math.floor(HIGHEST_HZ / Math.max(fromHz, toHz)) - 2));
  // All partials of an octave are shared; there the whole spectra are compared.
  const octave = Math.abs(Math.abs(Math.log2(toHz / fromHz)) - 1) < 0.01;
  const old = pitchPower(signal, rate, fromHz, octave ? 0 : toHz, firstHarmonic, from, points);
  const fresh = pitchPower(signal, rate, toHz, octave ? 0 : fromHz, firstHarmonic, from, points);
  const ratio = old.map((power, i) => Math.log((fresh[i] + 1e-30) / (power + 1e-30)));
  const at = steepestCrossing(ratio);
  if (at === undefined) return undefined;
  const share = -ratio[at - 1] / (ratio[at] - ratio[at - 1]);
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

import FFT from 'fft.js';

/** What was heard of a recording's pitch. */
export interface HeardPitch {
  hertz: number;
  /** Nearest key and the cents the recording lies above it. */
  key: number;
  cents: number;
  /** 0…1: how regular the wave is; below about 0.6 there is hardly a pitch. */
  clarity: number;
}

const SIZE = 8192;
const LOWEST_HZ = 24;
const HIGHEST_HZ = 4500;
const CLEAR = 0.6;
let fft: FFT | undefined;

/**
 * Pitch of a recording by the normalised square difference (P. McLeod & G. Wyvill, “A smarter way to find pitch”, 2005), at
 * several places of its louder part; the median of the clear ones. Undefined when nothing is clear.
 * @param signal mono
 */
export function hearPitch(signal: Float32Array, rate: number): HeardPitch | undefined {
  fft ??= new FFT(2 * SIZE);
  const heard: { hertz: number; clarity: number }[] = [];
  const from = Math.floor(signal.length * 0.08);
  const last = Math.max(from, Math.floor(signal.length * 0.7) - SIZE);
  const places = 9;
  const loudest = rmsOf(signal, 0, signal.length);
  for (let p = 0; p < places; p++) {
    const at = Math.round(from + ((last - from) * p) / (places - 1));
    if (rmsOf(signal, at, at + SIZE) < loudest * 0.1) continue;
    const one = pitchAt(signal, at, rate, fft);
    if (one && one.clarity >= CLEAR) heard.push(one);
  }
  if (heard.length === 0) return undefined;
  heard.sort((a, b) => a.hertz - b.hertz);
  const { hertz } = heard[heard.length >> 1];
  const exact = 69 + 12 * Math.log2(hertz / 440);
  const key = Math.round(exact);
  const clarity = heard.reduce((sum, one) => sum + one.clarity, 0) / heard.length;
  return { hertz, key, cents: (exact - key) * 100, clarity };
}

function rmsOf(signal: Float32Array, from: number, to: number): number {
  let sum = 0;
  const end = Math.min(signal.length, to);
  for (let i = from; i < end; i++) sum += signal[i] * signal[i];
  return Math.sqrt(sum / Math.max(1, end - from));
}

function pitchAt(
  signal: Float32Array,
  from: number,
  rate: number,
  fft: FFT,
): { hertz: number; clarity: number } | undefined {
  const size = Math.min(SIZE, signal.length - from);
  if (size < 512) return undefined;
  // Autocorrelation by the FFT of twice the length.
  const padded = new Float64Array(2 * SIZE);
  for (let i = 0; i < size; i++) padded[i] = signal[from + i];
  const spectrum = fft.createComplexArray() as number[];
  fft.realTransform(spectrum, padded as unknown as number[]);
  fft.completeSpectrum(spectrum);
  for (let i = 0; i < spectrum.length; i += 2) {
    spectrum[i] = spectrum[i] ** 2 + spectrum[i + 1] ** 2;
    spectrum[i + 1] = 0;
  }
  const correlation = fft.createComplexArray() as number[];
  fft.inverseTransform(correlation, spectrum);
  const highest = Math.min(size >> 1, Math.floor(rate / LOWEST_HZ));
  const nsdf = new Float64Array(highest);
  let energy = 0;
  for (let i = 0; i < size; i++) energy += 2 * padded[i] ** 2;
  for (let lag = 0; lag < highest; lag++) {
    nsdf[lag] = energy > 0 ? (2 * correlation[2 * lag]) / energy : 0;
    energy -= padded[lag] ** 2 + padded[size - 1 - lag] ** 2;
  }
  return peakOf(nsdf, rate);
}

/** The first peak nearly as high as the highest one, after the first passage below zero. */
function peakOf(nsdf: Float64Array, rate: number): { hertz: number; clarity: number } | undefined {
  const shortest = Math.floor(rate / HIGHEST_HZ);
  const peaks: number[] = [];
  let at = 1;
  while (at < nsdf.length && nsdf[at] > 0) at++;
  for (; at + 1 < nsdf.length; at++)
    if (at >= shortest && nsdf[at] > 0 && nsdf[at] >= nsdf[at - 1] && nsdf[at] > nsdf[at + 1]) peaks.push(at);
  if (peaks.length === 0) return undefined;
  const highest = Math.max(...peaks.map((lag) => nsdf[lag]));
  const lag = peaks.find((peak) => nsdf[peak] >= 0.9 * highest) ?? peaks[0];
  const [a, b, c] = [nsdf[lag - 1], nsdf[lag], nsdf[lag + 1]];
  const bend = a - 2 * b + c;
  const shift = bend === 0 ? 0 : (0.5 * (a - c)) / bend;
  return { hertz: rate / (lag + shift), clarity: Math.min(1, b) };
}

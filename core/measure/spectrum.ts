import FFT from 'fft.js';
import { hann, kWeightingPower, toLufs } from '../dsp/index.ts';

/** A power spectrum: mean square per bin, channels added, bins 0 … size/2. The sum over all bins is the mean square. */
export interface Spectrum {
  power: Float64Array;
  /** Hertz from one bin to the next. */
  binHz: number;
}

/** Frames of one look. At 48 kHz a bin is 11.7 Hz wide. */
const SIZE = 4096;

/** Complex spectra of a stretch of sound, look by look, both channels packed into one (left real, right imaginary). */
export interface Looks {
  looks: Float64Array[];
  binHz: number;
}

const ffts = new Map<number, FFT>();
const windows = new Map<number, Float64Array>();

function fftOf(size: number): { fft: FFT; window: Float64Array } {
  let fft = ffts.get(size);
  if (!fft) ffts.set(size, (fft = new FFT(size)));
  let window = windows.get(size);
  if (!window) windows.set(size, (window = hann(size)));
  return { fft, window };
}

/**
 * Looks at frames [from, to) under Hann windows that overlap by half. Two recordings looked at over the same span can be
 * multiplied look by look. A stretch shorter than one look is padded with silence and looked at once. Allocates.
 * @param channels one or two, of equal length
 * @param size frames of a look, a power of two
 */
export function looksAt(
  channels: readonly Float32Array[],
  rate: number,
  from: number,
  to: number,
  size = SIZE,
): Looks {
  const { fft, window } = fftOf(size);
  const input = new Float64Array(2 * size);
  const looks: Float64Array[] = [];
  const last = channels.length - 1;
  const end = Math.min(to, channels[0].length);
  const count = Math.max(1, Math.floor((end - from - size) / (size / 2)) + 1);
  // A Hann window leaves 3/8 of the power; a stretch shorter than a look leaves less of it.
  const covered = Math.min(1, Math.max(1, end - from) / size);
  const scale = Math.sqrt(8 / 3 / covered) / size;
  for (let l = 0; l < count; l++) {
    const at = from + (l * size) / 2;
    for (let i = 0; i < size; i++) {
      const inside = at + i < end;
      input[2 * i] = inside ? channels[0][at + i] * window[i] * scale : 0;
      input[2 * i + 1] = inside && last > 0 ? channels[last][at + i] * window[i] * scale : 0;
    }
    const out = new Float64Array(2 * size);
    fft.transform(out as unknown as number[], input as unknown as number[]);
    looks.push(out);
  }
  return { looks, binHz: rate / size };
}

/**
 * Mean over the looks of what two recordings share, per bin: for a = b their power. Real part of the cross spectrum,
 * channels added, so that |g·a + h·b|² = g²·aa + 2gh·ab + h²·bb holds bin by bin.
 */
export function sharedSpectrum(a: Looks, b: Looks): Spectrum {
  const size = a.looks[0].length / 2;
  const power = new Float64Array(size / 2 + 1);
  const count = Math.min(a.looks.length, b.looks.length);
  for (let l = 0; l < count; l++) {
    const x = a.looks[l];
    const y = b.looks[l];
    // Of a packed pair, the real parts at k and −k add up to twice the channels' sum.
    for (let k = 0; k <= size / 2; k++) {
      const m = (size - k) % size;
      power[k] += x[2 * k] * y[2 * k] + x[2 * k + 1] * y[2 * k + 1];
      if (m !== k) power[k] += x[2 * m] * y[2 * m] + x[2 * m + 1] * y[2 * m + 1];
    }
  }
  for (let k = 0; k < power.length; k++) power[k] /= count;
  return { power, binHz: a.binHz };
}

/** Power spectrum of frames [from, to). Allocates. */
export function spectrumOf(
  channels: readonly Float32Array[],
  rate: number,
  from: number,
  to: number,
  size = SIZE,
): Spectrum {
  const looks = looksAt(channels, rate, from, to, size);
  return sharedSpectrum(looks, looks);
}

const weights = new Map<string, Float64Array>();

/** K-weighting per bin; nothing above 24 kHz, where it is not defined. */
function kWeights({ power, binHz }: Spectrum): Float64Array {
  const name = `${power.length} ${binHz}`;
  let list = weights.get(name);
  if (!list) {
    list = Float64Array.from(power, (_, k) =>
      k === 0 || k * binHz >= 24_000 ? 0 : kWeightingPower(k * binHz),
    );
    weights.set(name, list);
  }
  return list;
}

/** Loudness in LUFS of a steady sound with this spectrum (ITU-R BS.1770-5, without gates); −Infinity when silent. */
export function loudnessOfSpectrum(spectrum: Spectrum): number {
  const list = kWeights(spectrum);
  let sum = 0;
  for (let k = 0; k < list.length; k++) sum += list[k] * spectrum.power[k];
  return toLufs(sum);
}

/**
 * Spectral centroid in hertz: mean frequency weighted by amplitude, 40 Hz to 12 kHz; 0 when silent.
 * @param withinDb frequencies further below the strongest are left out, so that breath and hiss, of which there is a little everywhere,
 * do not hide the tone; all count unless given
 */
export function centroidOfSpectrum({ power, binHz }: Spectrum, withinDb = Infinity): number {
  let sum = 0;
  let weight = 0;
  const least =
    withinDb === Infinity ? 0 : power.reduce((a, b) => Math.max(a, b), 0) * 10 ** (-withinDb / 10);
  for (let k = Math.ceil(40 / binHz); k < power.length && k * binHz < 12_000; k++) {
    const amplitude = power[k] < least ? 0 : Math.sqrt(Math.max(0, power[k]));
    sum += amplitude * k * binHz;
    weight += amplitude;
  }
  return weight > 0 ? sum / weight : 0;
}

/** Level in dB of all bins between two frequencies; −200 when there is nothing. */
export function bandLevelDb({ power, binHz }: Spectrum, lowHz: number, highHz: number): number {
  let sum = 0;
  for (let k = 1; k < power.length; k++) {
    // A bin at the edge counts with the part of it that lies inside.
    const inside = Math.min(highHz, (k + 0.5) * binHz) - Math.max(lowHz, (k - 0.5) * binHz);
    if (inside > 0) sum += power[k] * Math.min(1, inside / binHz);
  }
  return sum > 1e-20 ? 10 * Math.log10(sum) : -200;
}

/** Mid frequencies of the third-octave bands from 50 Hz to 16 kHz (IEC 61260-1, base ten), in hertz. */
export const THIRD_OCTAVES: readonly number[] = Array.from(
  { length: 26 },
  (_, i) => 1000 * 10 ** ((i - 13) / 10),
);

/** Levels of the third-octave bands in dB. Allocates. */
export function thirdOctavesOf(spectrum: Spectrum): number[] {
  const edge = 10 ** 0.05;
  return THIRD_OCTAVES.map((middle) => bandLevelDb(spectrum, middle / edge, middle * edge));
}

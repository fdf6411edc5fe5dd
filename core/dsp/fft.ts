import FFT from 'fft.js';

/** Magnitudes of the real FFT of a power-of-two block: bins 0 … n/2 inclusive. Allocates. */
export function magnitudeSpectrum(block: Float32Array | Float64Array): Float64Array {
  const n = block.length;
  const out = new Float64Array(2 * n);
  new FFT(n).realTransform(out, block);
  const magnitudes = new Float64Array(n / 2 + 1);
  for (let i = 0; i <= n / 2; i++) magnitudes[i] = Math.hypot(out[2 * i], out[2 * i + 1]);
  return magnitudes;
}

/** One period of a wave with given harmonic amplitudes and phases; index 0 is the fundamental. Size is a power of two. */
export function waveFromHarmonics(
  amplitudes: ArrayLike<number>,
  phases: ArrayLike<number>,
  size: number,
): Float32Array {
  const spectrum = new Float64Array(2 * size);
  const count = Math.min(amplitudes.length, size / 2 - 1);
  for (let h = 1; h <= count; h++) {
    const re = (amplitudes[h - 1] * Math.cos(phases[h - 1]) * size) / 2;
    const im = (amplitudes[h - 1] * Math.sin(phases[h - 1]) * size) / 2;
    spectrum[2 * h] = re;
    spectrum[2 * h + 1] = im;
    spectrum[2 * (size - h)] = re;
    spectrum[2 * (size - h) + 1] = -im;
  }
  const time = new Float64Array(2 * size);
  new FFT(size).inverseTransform(time, spectrum);
  const wave = new Float32Array(size);
  for (let i = 0; i < size; i++) wave[i] = time[2 * i];
  return wave;
}

/** Hann window of a length, periodic. Allocates. */
export function hann(length: number): Float64Array {
  const window = new Float64Array(length);
  for (let i = 0; i < length; i++) window[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / length);
  return window;
}

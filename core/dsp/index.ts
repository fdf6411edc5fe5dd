/** Signal processing by single ideas: filters, FFT, interpolation, convolution, linear equations, seeded randomness. */
export * from './random.ts';
export * from './biquad.ts';
export * from './interpolation.ts';
export * from './hall-response.ts';
export * from './fft.ts';
export * from './loudness.ts';
export * from './true-peak.ts';
export * from './linear.ts';

declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    transform(out: number[] | Float64Array, data: ArrayLike<number>): void;
    realTransform(out: number[] | Float64Array, data: ArrayLike<number>): void;
    completeSpectrum(spectrum: number[] | Float64Array): void;
    inverseTransform(out: number[] | Float64Array, data: ArrayLike<number>): void;
  }
}

declare module 'fft.js' {
  /** Fourier transform of a power of two of values (radix 4). */
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    /** Transforms real values; of the output the first half is filled, real and imaginary parts in turn. */
    realTransform(out: number[], data: ArrayLike<number>): void;
  }
}

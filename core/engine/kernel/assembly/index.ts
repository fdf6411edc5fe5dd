/**
 * The kernel: arithmetic over blocks of audio, in AssemblyScript, compiled to WebAssembly with 128-bit vectors by
 * `scripts/lib/kernel.mjs`. It holds no state and decides nothing: whoever calls it says where everything lies. All audio is
 * 32-bit floats, interleaved left and right; addresses are bytes in the memory it is given.
 */
export { gather } from './gather';
export { plan, planRows, planWide, interpolate, interpolateWide, truePeak } from './interpolate';
export { sweepFour, sweepFourWide, sweepTwo, sweepTwoWide } from './sweep';
export { lowPass, lowPassFour, stateVariable, onePole } from './filter';
export { add, addRamped, clear, copy, delay, exchange, encode24, finishTrack, join, mixPosition, split } from './bus';
export { biquad, weigh } from './biquad';
export { transform, separate, multiply, unite } from './fourier';

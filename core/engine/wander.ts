import { mix } from '../dsp/index.ts';
import { sin } from '../units/index.ts';

/** Periods of the slow waves that a wandering pitch is made of, in seconds, and their shares; they meet only after minutes. */
const PERIODS = [3.7, 2.3, 1.31] as const;
const SHARES = [0.5, 0.3, 0.2] as const;
const TURN = 2 * Math.PI;

/**
 * Where a wandering pitch stands, −1 … 1, at a time: the same for the same seed. Every key wanders by itself, and all
 * sounds of one key alike, so that a tone goes on where a recorded move left it.
 */
export function wander(seconds: number, seed: number): number {
  let sum = 0;
  for (let i = 0; i < PERIODS.length; i++) {
    const phase = mix(seed * 3 + i) / 4294967296;
    sum += SHARES[i] * sin(TURN * (seconds / PERIODS[i] + phase));
  }
  return sum;
}

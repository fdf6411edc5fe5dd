import { cos } from '../units/index.ts';

/**
 * The filter by which a true peak is found: eight points a frame, 48 taps each, a sinc under a Kaiser window (J. F. Kaiser 1974, β = 8:
 * images below −80 dB). ITU-R BS.1770-5, annex 2, asks for four points or more; fewer taps read sounds low that are rich in treble, by more
 * than a decibel where ten are taken.
 */
export const PEAK_POINTS = 8;
export const PEAK_TAPS = 48;
const BETA = 8;
const MIDDLE = PEAK_TAPS / 2 - 1;
/** Frames that are looked at together. */
const RUN = 128;

/** Rows of weights, one for each point between a frame and the next; each row sums to 1. */
export const PEAK_TABLE = /* @__PURE__ */ buildTable();

/**
 * Between two frames nothing is higher than this times the highest of the four frames to either side, but for sound all of which lies above
 * 21 kHz: there is no need to look where that is less than what is known.
 */
export const PEAK_RISE = 4;
export const PEAK_NEAR = 4;

/** No point can be higher than this times the highest of the frames it is made of. */
export const PEAK_BOUND = /* @__PURE__ */ boundOf(PEAK_TABLE);

function buildTable(): Float64Array {
  const table = new Float64Array(PEAK_POINTS * PEAK_TAPS);
  for (let point = 0; point < PEAK_POINTS; point++) {
    let sum = 0;
    for (let tap = 0; tap < PEAK_TAPS; tap++) {
      const distance = tap - MIDDLE - point / PEAK_POINTS;
      const value = sinc(distance) * window(distance / (PEAK_TAPS / 2));
      table[point * PEAK_TAPS + tap] = value;
      sum += value;
    }
    for (let tap = 0; tap < PEAK_TAPS; tap++) table[point * PEAK_TAPS + tap] /= sum;
  }
  return table;
}

function boundOf(table: Float64Array): number {
  let most = 0;
  for (let point = 0; point < PEAK_POINTS; point++) {
    let sum = 0;
    for (let tap = 0; tap < PEAK_TAPS; tap++) sum += Math.abs(table[point * PEAK_TAPS + tap]);
    most = Math.max(most, sum);
  }
  return most;
}

/** Whether a top may lie between a frame and the next: either is one among its neighbours, or zero lies between them. */
function turns(frames: Float64Array, at: number): boolean {
  const a = Math.abs(frames[at]);
  const b = Math.abs(frames[at + 1]);
  return (
    (a >= b && a >= Math.abs(frames[at - 1])) ||
    (b >= a && b >= Math.abs(frames[at + 2])) ||
    frames[at] * frames[at + 1] < 0
  );
}

/** sin(π·x) / (π·x). */
function sinc(x: number): number {
  return x === 0 ? 1 : cos(Math.PI * (x - 0.5)) / (Math.PI * x);
}

/** Kaiser's window at −1 … 1. */
function window(x: number): number {
  return Math.abs(x) >= 1 ? 0 : bessel(BETA * Math.sqrt(1 - x * x)) / bessel(BETA);
}

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; term > sum * 1e-16; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** Finds the true peak of one channel, frame by frame. */
export class TruePeak {
  /** Frames that came before, and those that are looked at. */
  private readonly frames = new Float64Array(PEAK_TAPS - 1 + RUN);

  reset(): void {
    this.frames.fill(0);
  }

  /** @param highest known already; @returns what is higher, it or what frames [from, to) and those before them reach */
  take(input: Float32Array | Float64Array, from: number, to: number, highest: number): number {
    const { frames } = this;
    let found = highest;
    for (let at = from; at < to; at += RUN) {
      const count = Math.min(RUN, to - at);
      let loudest = 0;
      for (let i = 0; i < PEAK_TAPS - 1; i++) loudest = Math.max(loudest, Math.abs(frames[i]));
      for (let i = 0; i < count; i++) {
        frames[PEAK_TAPS - 1 + i] = input[at + i];
        loudest = Math.max(loudest, Math.abs(input[at + i]));
      }
      // What cannot be higher need not be worked out.
      if (loudest * PEAK_BOUND > found) found = this.look(count, found);
      frames.copyWithin(0, count, count + PEAK_TAPS - 1);
    }
    return found;
  }

  private look(count: number, highest: number): number {
    const { frames } = this;
    let found = highest;
    for (let i = 0; i < count; i++) {
      let near = 0;
      for (let k = i + MIDDLE - PEAK_NEAR + 1; k <= i + MIDDLE + PEAK_NEAR; k++)
        near = Math.max(near, Math.abs(frames[k]));
      if (near * PEAK_RISE <= found || !turns(frames, i + MIDDLE)) continue;
      for (let row = 0; row < PEAK_TABLE.length; row += PEAK_TAPS) {
        let value = 0;
        for (let k = 0; k < PEAK_TAPS; k++) value += PEAK_TABLE[row + k] * frames[i + k];
        found = Math.max(found, Math.abs(value));
      }
    }
    return found;
  }
}

import { Biquad, Random, type BiquadCoefficients, type HallResponse } from '../dsp/index.ts';
import { clamp, cos, ENGINE_RATE, exp, exp2, exp10, sin } from '../units/index.ts';
import { reflections, type HallModel, type Point } from './hall.ts';

/** What can be set of a hall that answers to sends. */
export interface HallSettings {
  /** Factor on the length of its walls, 0.5 … 2. */
  size: number;
  /** Decay time to −60 dB at middle frequencies, 0.2 … 8 s. */
  decaySeconds: number;
  /** How soon treble dies away, 0 (late) … 1 (at once); 0.5 is a hall with its audience. */
  damping: number;
  /** Silence before the answer, 0 … 200 ms. */
  preDelayMs: number;
  /** What lies below is cut by 12 dB an octave; 20 Hz is nothing. */
  lowCutHz: number;
  /** What lies above is cut by 12 dB an octave; 20 kHz is nothing. */
  highCutHz: number;
}

/** Where settings may lie. */
export const HALL_LIMITS = {
  size: [0.5, 2],
  decaySeconds: [0.2, 8],
  damping: [0, 1],
  preDelayMs: [0, 200],
  lowCutHz: [20, 1000],
  highCutHz: [1000, 20_000],
} as const satisfies Record<keyof HallSettings, readonly [number, number]>;

/** A hall as it was built. */
export function plainHall(hall: HallModel): HallSettings {
  return {
    size: 1,
    decaySeconds: hall.decaySeconds,
    damping: 0.5,
    preDelayMs: 0,
    lowCutHz: 20,
    highCutHz: 20_000,
  };
}

/** Seconds in which treble sinks to a third, at half damping. */
const TREBLE_SECONDS = 0.7;
export const EARLY_SECONDS = 0.085;
const BUTTERWORTH = Math.SQRT1_2;

/**
 * What a hall answers to sends: first reflections of two places on its stage at the two ends of its tree, and a tail of seeded
 * noise that decays faster in the treble. What is sent from the left is heard at the right as well, later and otherwise, as in a
 * room. Equal settings give equal bits.
 */
export function hallResponse(hall: HallModel, change: Partial<HallSettings> = {}): HallResponse {
  const settings = { ...plainHall(hall), ...change };
  const within = (name: keyof HallSettings) =>
    clamp(settings[name], HALL_LIMITS[name][0], HALL_LIMITS[name][1]);
  const [size, decaySeconds, damping] = [within('size'), within('decaySeconds'), within('damping')];
  const wait = Math.round((within('preDelayMs') / 1000) * ENGINE_RATE);
  const length = wait + Math.ceil(decaySeconds * 1.15 * ENGINE_RATE);
  const room = scaled(hall, size);
  const tree = room.mics.find((mic) => mic.id === 'tree') ?? room.mics[0];
  const filters = cuts(within('lowCutHz'), within('highCutHz'));
  const make = (from: Point, to: Point, seed: string) => {
    const out = new Float32Array(length);
    for (const { delayFrames, gain } of reflections(room, from, to))
      // Two sides that each give what one gave before.
      if (wait + delayFrames < length) out[wait + delayFrames] += gain * Math.SQRT1_2;
    addTail(out, wait, new Random(seed), { size, decaySeconds, damping });
    for (const filter of filters) new Biquad(filter).process(out, out, 0, length);
    return out;
  };
  const seats = [-2.5, 2.5].map((x): Point => ({ x: x * size, y: 3 * size, z: 1.2 }));
  return {
    left: make(seats[0], tree.left, `${hall.name} left`),
    right: make(seats[1], tree.right, `${hall.name} right`),
    cross: {
      leftToRight: make(seats[0], tree.right, `${hall.name} left to right`),
      rightToLeft: make(seats[1], tree.left, `${hall.name} right to left`),
    },
    earlyFrames: wait + Math.round(EARLY_SECONDS * ENGINE_RATE),
  };
}

function addTail(
  out: Float32Array,
  wait: number,
  random: Random,
  { size, decaySeconds, damping }: Pick<HallSettings, 'size' | 'decaySeconds' | 'damping'>,
): void {
  // A larger hall takes longer to fill, and its treble longer to die.
  const rise = 0.06 * size;
  const treble = TREBLE_SECONDS * exp2(4 * (0.5 - damping));
  let low = 0;
  let lower = 0;
  for (let i = 0; i < out.length - wait; i++) {
    const t = i / ENGINE_RATE;
    // Treble dies first: the noise passes a one-pole whose corner falls with time.
    const pole = exp((-2 * Math.PI * (9000 * exp(-t / treble) + 900)) / ENGINE_RATE);
    low += (1 - pole) * (random.next() * 2 - 1 - low);
    lower += 0.012 * (low - lower);
    const level = 0.045 * Math.SQRT1_2 * Math.min(1, t / rise) * exp10((-3 * t) / decaySeconds);
    out[wait + i] += level * (low - lower);
  }
}

/** The hall as its settings make it: its walls and its decay. */
export function hallAsSet(
  hall: HallModel,
  { size, decaySeconds }: Pick<HallSettings, 'size' | 'decaySeconds'>,
): HallModel {
  return { ...scaled(hall, size), decaySeconds };
}

/** The hall with longer or shorter walls, its microphones as far apart in proportion. */
function scaled(hall: HallModel, size: number): HallModel {
  if (size === 1) return hall;
  const point = ({ x, y, z }: Point): Point => ({ x: x * size, y: y * size, z });
  return {
    ...hall,
    width: hall.width * size,
    front: hall.front * size,
    depth: hall.depth * size,
    height: hall.height * size,
    mics: hall.mics.map((mic) => ({ ...mic, left: point(mic.left), right: point(mic.right) })),
  };
}

/** Butterworth filters of two poles, after R. Bristow-Johnson's cookbook; none where they would change nothing. */
export function cuts(lowHz: number, highHz: number): BiquadCoefficients[] {
  const out: BiquadCoefficients[] = [];
  if (lowHz > HALL_LIMITS.lowCutHz[0]) out.push(cut(lowHz, true));
  if (highHz < HALL_LIMITS.highCutHz[1]) out.push(cut(highHz, false));
  return out;
}

function cut(hertz: number, isLow: boolean): BiquadCoefficients {
  const w = (2 * Math.PI * hertz) / ENGINE_RATE;
  const c = cos(w);
  const alpha = sin(w) / (2 * BUTTERWORTH);
  const a0 = 1 + alpha;
  const sign = isLow ? 1 : -1;
  const b0 = (1 + sign * c) / 2 / a0;
  return { b0, b1: -sign * 2 * b0, b2: b0, a1: (-2 * c) / a0, a2: (1 - alpha) / a0 };
}

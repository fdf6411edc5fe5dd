import { distanceToSeconds, ENGINE_RATE, secondsToFrames } from '../units/index.ts';

/** A point in the hall in metres: x to the right and y to the back seen from the conductor, z up. */
export interface Point {
  x: number;
  y: number;
  z: number;
}

/** A pair of microphones that makes one position. */
export interface MicPair {
  id: string;
  name: string;
  left: Point;
  right: Point;
  /** Recording level set by the engineer, dB. */
  gainDb: number;
  /** Both points are meant against the middle of the players, not the conductor. */
  follows?: boolean;
  /** Hiss of the amplifier, dBFS; none unless given. */
  noiseDb?: number;
}

/** An invented shoebox hall. */
export interface HallModel {
  name: string;
  /** Inner walls: x from −width/2 to width/2, y from −front to depth, z from 0 to height. */
  width: number;
  front: number;
  depth: number;
  height: number;
  /** Share of pressure a wall gives back. */
  reflection: number;
  /** Decay time to −60 dB at middle frequencies, seconds. */
  decaySeconds: number;
  mics: MicPair[];
}

/** An arrival of a source at a microphone. */
export interface Arrival {
  delayFrames: number;
  gain: number;
}

function distance(a: Point, b: Point): number {
  const [x, y, z] = [a.x - b.x, a.y - b.y, a.z - b.z];
  return Math.sqrt(x * x + y * y + z * z);
}

/** Direct sound: delay d / 343 m/s, gain 1/d (never more than at 0.5 m). */
export function directArrival(source: Point, mic: Point): Arrival {
  const d = Math.max(0.5, distance(source, mic));
  return { delayFrames: secondsToFrames(distanceToSeconds(d)), gain: 1 / d };
}

/** First reflections from the six walls by image sources (Allen & Berkley 1979). */
export function reflections(hall: HallModel, source: Point, mic: Point): Arrival[] {
  const left = -hall.width / 2;
  const right = hall.width / 2;
  const images: Point[] = [
    { ...source, x: 2 * left - source.x },
    { ...source, x: 2 * right - source.x },
    { ...source, y: -2 * hall.front - source.y },
    { ...source, y: 2 * hall.depth - source.y },
    { ...source, z: -source.z },
    { ...source, z: 2 * hall.height - source.z },
  ];
  return images.map((image) => {
    const arrival = directArrival(image, mic);
    return { delayFrames: arrival.delayFrames, gain: arrival.gain * hall.reflection };
  });
}

/**
 * Diffuse level against the direct sound at one metre, from the room's volume V and decay time T
 * (reverberant to direct power at 1 m: 16π·T / (0.161·V)), divided by 3 for microphones with a cardioid pattern
 * and by 2 for players who face the room.
 */
export function diffuseGain(hall: HallModel): number {
  const volume = hall.width * (hall.front + hall.depth) * hall.height;
  return Math.sqrt((16 * Math.PI * hall.decaySeconds) / (0.161 * volume) / 6);
}

/** Share of treble that air and walls leave after a path: one-pole coefficient for a distance in metres. */
export function airLossPole(metres: number): number {
  // A corner that sinks from 20 kHz at 1 m to about 6 kHz at 30 m, after ISO 9613-1 at 20 °C and 50 % humidity, simplified.
  const cornerHz = 20000 / (1 + metres / 13);
  return Math.exp((-2 * Math.PI * cornerHz) / ENGINE_RATE);
}

/** Frames that are worked out at once: fewer than the shortest line holds. */
const RUN = 1024;

/**
 * Tail of the hall as a network of eight delays with a lossless mixing matrix (Jot & Chaigne 1991): feed it
 * one block of mono sound, take decorrelated left and right per position.
 */
export class DiffuseField {
  private readonly lines: Float64Array[];
  private readonly at: number[];
  private readonly gains: number[];
  private readonly damped = new Float64Array(8);
  private readonly sum = new Float64Array(RUN);
  private readonly passed = Array.from({ length: 8 }, () => new Float64Array(RUN));
  private static readonly LENGTHS = [1553, 1783, 2011, 2311, 2647, 2939, 3251, 3557];
  private static readonly DAMPING = 0.32;

  constructor(hall: HallModel) {
    this.lines = DiffuseField.LENGTHS.map((length) => new Float64Array(length));
    this.at = DiffuseField.LENGTHS.map(() => 0);
    this.gains = DiffuseField.LENGTHS.map(
      (length) => 10 ** ((-3 * length) / (hall.decaySeconds * ENGINE_RATE)),
    );
  }

  /**
   * Fills `taps[k]` (k = 0…7) with the outputs of the eight lines for each frame of `input`.
   */
  process(input: Float32Array, taps: Float32Array[]): void {
    for (let from = 0; from < input.length; from += RUN)
      this.run(input, taps, from, Math.min(RUN, input.length - from));
  }

  /** A run is shorter than every line, so that what goes in during it comes out after it: each line is read by itself. */
  private run(input: Float32Array, taps: Float32Array[], from: number, count: number): void {
    const { sum, passed } = this;
    const d = DiffuseField.DAMPING;
    sum.fill(0);
    for (let k = 0; k < 8; k++) {
      const line = this.lines[k];
      const tap = taps[k];
      const out = passed[k];
      const gain = this.gains[k] * (1 - d);
      let at = this.at[k];
      let damped = this.damped[k];
      for (let i = 0; i < count; i++) {
        damped = gain * line[at] + d * damped;
        out[i] = tap[from + i] = damped;
        sum[i] += damped;
        if (++at === line.length) at = 0;
      }
      this.damped[k] = damped;
    }
    for (let k = 0; k < 8; k++) {
      const line = this.lines[k];
      const out = passed[k];
      const sign = k & 1 ? -1 : 1;
      let at = this.at[k];
      for (let i = 0; i < count; i++) {
        // Householder reflection: x − 2/8·sum keeps energy.
        line[at] = out[i] - 0.25 * sum[i] + sign * input[from + i];
        if (++at === line.length) at = 0;
      }
      this.at[k] = at;
    }
  }
}

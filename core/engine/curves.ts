import { interpolationCurve, PHASES, REACH, TAP_TABLE, TAPS } from '../dsp/index.ts';
import { exp10, exp2, log10 } from '../units/index.ts';
import type { SoundMemory } from './memory/index.ts';

/** Up to here the curve of interpolation is as it is; what folds back lies above 20 kHz. */
const PLAIN_RATIO = 1.08;
/** From an octave up on the curve is this much wider than the ratio: what would fold back below 20 kHz is left out. */
const WIDEST = 1.18;
/** Power of the ratio that goes from the one to the other. */
const WIDENING = 1.394;
/** Tables of wider curves, a semitone apart: two octaves. Beyond them weights are worked out one by one. */
const TABLES = 24;
const WIDE_PHASES = 512;

/** How much wider than it is the curve of interpolation is for a ratio. */
function widening(ratio: number): number {
  if (ratio <= PLAIN_RATIO) return 1;
  if (ratio >= 2) return WIDEST * ratio;
  return exp10(WIDENING * log10(ratio / PLAIN_RATIO));
}

/** Taps, a multiple of 4, that reach as far as a curve so much wider. */
function tapsFor(scale: number): number {
  return 4 * Math.ceil((REACH * scale) / 2);
}

/** Most taps there are, for a highest ratio. */
export function mostTaps(ratio: number): number {
  return tapsFor(widening(ratio));
}

/** How notes of a ratio are read. */
export interface Reading {
  /** 0: the plain table; else the table at this address, or 0 and a `scale` where there is none. */
  table: number;
  taps: number;
  /** How much wider the curve is. */
  scale: number;
}

const kept = new WeakMap<SoundMemory, CurveTables>();

/** The curve of interpolation in a sound's memory: as a table for notes near their pitch, and wider ones for those pitched up. */
export class CurveTables {
  /** 1,025 rows of ten. */
  readonly plain: number;
  /** One side of the curve, `PHASES` points a frame. */
  readonly curve: number;
  private readonly steps: Reading[] = [];
  private readonly plainReading: Reading = { table: 0, taps: TAPS, scale: 1 };
  private readonly farReading: Reading = { table: 0, taps: 0, scale: 0 };
  private lastRatio = 0;
  private last: Reading = this.plainReading;

  private constructor(sound: SoundMemory) {
    this.plain = sound.allocate(TAP_TABLE.length * 4);
    sound.floats(this.plain, TAP_TABLE.length).set(TAP_TABLE);
    const points = REACH * PHASES + 2;
    this.curve = sound.allocateClear(points * 4);
    const curve = sound.floats(this.curve, points);
    for (let i = 0; i < points; i++) curve[i] = interpolationCurve(i / PHASES);
    for (let step = 1; step <= TABLES; step++) {
      const scale = widening(PLAIN_RATIO * exp2(step / 12));
      const taps = tapsFor(scale);
      const table = sound.allocate((WIDE_PHASES + 1) * taps * 4);
      writeRows(sound.floats(table, (WIDE_PHASES + 1) * taps), curve, scale, taps);
      this.steps.push({ table, taps, scale });
    }
  }

  /** Those of a memory; made once. */
  static in(sound: SoundMemory): CurveTables {
    let tables = kept.get(sound);
    if (!tables) kept.set(sound, (tables = new CurveTables(sound)));
    return tables;
  }

  /** How a run is read whose highest ratio is given. The object is used again. */
  readingFor(ratio: number): Readonly<Reading> {
    if (ratio <= PLAIN_RATIO) return this.plainReading;
    if (ratio === this.lastRatio) return this.last;
    this.lastRatio = ratio;
    const step = Math.ceil((12 * log10(ratio / PLAIN_RATIO)) / log10(2));
    if (step <= TABLES) return (this.last = this.steps[Math.max(0, step - 1)]);
    this.farReading.scale = widening(ratio);
    this.farReading.taps = tapsFor(this.farReading.scale);
    return (this.last = this.farReading);
  }
}

/** Rows of taps by phase, each with the sum 1. @param curve one side, `PHASES` points a frame */
function writeRows(rows: Float32Array, curve: Float32Array, scale: number, taps: number): void {
  const before = taps / 2 - 1;
  for (let phase = 0; phase <= WIDE_PHASES; phase++) {
    let sum = 0;
    for (let tap = 0; tap < taps; tap++) {
      const place = (Math.abs(tap - before - phase / WIDE_PHASES) / scale) * PHASES;
      const at = Math.floor(place);
      const value = place < REACH * PHASES ? curve[at] + (place - at) * (curve[at + 1] - curve[at]) : 0;
      rows[phase * taps + tap] = value;
      sum += value;
    }
    for (let tap = 0; tap < taps; tap++) rows[phase * taps + tap] /= sum;
  }
}

import { Biquad, LoudnessMeter, type BiquadCoefficients } from '../dsp/index.ts';
import {
  balanceGains,
  levelGain,
  positionMatrix,
  writeEqBand,
  type EqBand,
  type PositionMix,
  type TrackMix,
} from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** One position of what a section plays, as recorded, at 48 kHz. */
export interface ApartPosition {
  id: string;
  left: Float32Array;
  right: Float32Array;
}

/** What a section plays in a passage, its positions apart and all of equal length. */
export type Apart = readonly ApartPosition[];

/** Left and right. */
export type Stereo = readonly [Float32Array, Float32Array];

/** What becomes of a position: silent ones are left out. */
export function isHeard(mix: PositionMix | undefined): mix is PositionMix {
  return mix !== undefined && !mix.muted && mix.levelDb > -60;
}

/**
 * Positions with their tone and delay, as the engine gives them to their level; those that are not heard are left out. Delays
 * between frames are read straight between them: what is measured here does not reach where that is heard. Allocates where something
 * is changed.
 */
export function prepared(apart: Apart, mix: TrackMix): Apart {
  return apart.flatMap((position) => {
    const own = mix.positions[position.id];
    if (!isHeard(own)) return [];
    const [left, right] = [position.left, position.right].map((side) =>
      delayed(toned(side, own.eq ?? []), (own.delayMs * ENGINE_RATE) / 1000),
    );
    return [{ id: position.id, left, right }];
  });
}

/** The loudest stretch of what a section plays, all positions alike. Views, nothing is copied. */
export function loudestOf(apart: Apart, seconds: number): Apart {
  const frames = apart[0]?.left.length ?? 0;
  const step = ENGINE_RATE / 10;
  const steps = Math.ceil(frames / step);
  const wanted = Math.min(steps, Math.round(seconds * 10));
  if (wanted === steps) return apart;
  const powers = new Float64Array(steps);
  for (const { left, right } of apart)
    for (let i = 0; i < frames; i++) powers[Math.floor(i / step)] += left[i] ** 2 + right[i] ** 2;
  let best = 0;
  let most = -1;
  for (let from = 0; from + wanted <= steps; from++) {
    const sum = powers.subarray(from, from + wanted).reduce((a, b) => a + b, 0);
    if (sum > most) [best, most] = [from, sum];
  }
  const cut = (side: Float32Array) => side.subarray(best * step, (best + wanted) * step);
  return apart.map(({ id, left, right }) => ({ id, left: cut(left), right: cut(right) }));
}

/** The section as it is heard, without the hall. Allocates. */
export function mixDown(apart: Apart, mix: TrackMix): Stereo {
  const frames = apart[0]?.left.length ?? 0;
  const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
  const matrix = new Float64Array(4);
  for (const position of prepared(apart, mix)) {
    positionMatrix(mix.positions[position.id], matrix);
    for (let i = 0; i < frames; i++) {
      left[i] += matrix[0] * position.left[i] + matrix[1] * position.right[i];
      right[i] += matrix[2] * position.left[i] + matrix[3] * position.right[i];
    }
  }
  return [toned(left, mix.eq ?? []), toned(right, mix.eq ?? [])];
}

/** True peak of a section as it is heard, without the hall, dBTP. */
export function truePeakOf(apart: Apart, mix: TrackMix): number {
  const [left, right] = mixDown(apart, mix);
  const balance = balanceGains(mix.pan);
  const gain = levelGain(mix.gainDb);
  const scaled = (side: Float32Array, by: number) => side.map((value) => value * by);
  const meter = new LoudnessMeter(ENGINE_RATE, true);
  meter.process(scaled(left, gain * balance.left), scaled(right, gain * balance.right), 0, left.length);
  return meter.truePeakDb;
}

function toned(side: Float32Array, bands: readonly EqBand[]): Float32Array {
  const heard = bands.filter(({ gainDb }) => gainDb !== 0);
  if (heard.length === 0) return side;
  const out = new Float32Array(side);
  const c = new Float64Array(5);
  for (const { shape, hertz, gainDb, q } of heard) {
    writeEqBand(shape, hertz, gainDb, q, ENGINE_RATE, c, 0);
    const section: BiquadCoefficients = { b0: c[0], b1: c[1], b2: c[2], a1: c[3], a2: c[4] };
    new Biquad(section).process(out, out, 0, out.length);
  }
  return out;
}

function delayed(side: Float32Array, frames: number): Float32Array {
  if (!(frames > 0)) return side;
  const out = new Float32Array(side.length);
  const whole = Math.floor(frames);
  const rest = frames - whole;
  for (let i = whole; i < out.length; i++)
    out[i] = (1 - rest) * side[i - whole] + (i > whole ? rest * side[i - whole - 1] : 0);
  return out;
}

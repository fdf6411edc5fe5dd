import type { FilterKind } from '../catalogue/index.ts';
import { FilterPoint } from '../engine/index.ts';

/** A recording through a zone's filter at one setting, in doubles, as the engine's kernel works it out. Allocates. */
export function throughFilter(
  kind: FilterKind,
  sound: ArrayLike<number>,
  cutoffHz: number,
  resonanceDb: number,
  rate: number,
): Float64Array {
  const point = new FilterPoint();
  point.set(cutoffHz, resonanceDb, rate);
  const { less, a2, a3, k, share } = point;
  const out = new Float64Array(sound.length);
  let s1 = 0;
  let s2 = 0;
  const onePole = kind === 'lowpass1' || kind === 'highpass1';
  for (let i = 0; i < out.length; i++) {
    const x = sound[i];
    if (onePole) {
      const step = share * (x - s1);
      const low = s1 + step;
      s1 = low + step;
      out[i] = kind === 'lowpass1' ? low : x - low;
      continue;
    }
    const high = x - s2;
    const band = s1 + a2 * high - less * s1;
    const low = s2 + a2 * s1 + a3 * high;
    s1 = 2 * band - s1;
    s2 = 2 * low - s2;
    out[i] = outputOf(kind, x, k * band, low);
  }
  return out;
}

function outputOf(kind: FilterKind, input: number, band: number, low: number): number {
  if (kind === 'lowpass2') return low;
  if (kind === 'bandpass') return band;
  return kind === 'notch' ? input - band : input - band - low;
}

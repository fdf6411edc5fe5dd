import type { Zone } from '../catalogue/index.ts';
import { curveShare } from '../engine/index.ts';
import { centsToRatio } from '../units/index.ts';
import { sourceValue, type Touch } from './touch.ts';

/** What a zone's filter leaves of each frequency at a touch; undefined where it leaves everything as it is. */
export interface Filtering {
  /** Power gain, 0 … ; by hertz as played. */
  power: (hertz: number) => number;
  cutoffHz: number;
}

/** Filters that close above this change nothing that a level would tell. */
const OPEN_HZ = 19_000;

/** A zone's own low-pass at a touch; other kinds are taken as open. */
export function filteringOf(zone: Zone, touch: Touch): Filtering | undefined {
  if (zone.cutoffHz === undefined) return undefined;
  const kind = zone.filter ?? 'lowpass2';
  if (kind !== 'lowpass2' && kind !== 'lowpass1') return undefined;
  let cents = 0;
  for (const { target, depth, curve, controller } of zone.modulations)
    if (target === 'cutoffCents') cents += depth * curveShare(curve, sourceValue(controller, touch));
  const cutoffHz = zone.cutoffHz * centsToRatio(cents);
  if (cutoffHz >= OPEN_HZ) return undefined;
  const resonance = 10 ** ((zone.resonanceDb ?? 0) / 20);
  // Two poles: 1 / |1 − x² + jx√2/r|²; one pole: 1 / (1 + x²); x = f/fc.
  const power =
    kind === 'lowpass1'
      ? (hertz: number) => 1 / (1 + (hertz / cutoffHz) ** 2)
      : (hertz: number) => {
          const x2 = (hertz / cutoffHz) ** 2;
          return 1 / ((1 - x2) ** 2 + (2 * x2) / resonance ** 2);
        };
  return { power, cutoffHz };
}

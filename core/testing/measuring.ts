import type { ArticulationId } from '../music/index.ts';
import type { Fade, Zone } from '../catalogue/index.ts';
import { layersOf, type HeardSample } from '../report/zones.ts';
import type { Measuring } from '../report/measuring.ts';

/** What the parts of a report need to know, over zones and recordings that are put together by a test. @param near the nearest position */
export function measuringOf(
  id: ArticulationId,
  zones: readonly Zone[],
  audio: Readonly<Record<string, HeardSample | undefined>>,
  near = 'near',
): Measuring {
  const articulation = { id, name: id, zones: [...zones] };
  return {
    articulation,
    layers: layersOf(articulation),
    near,
    sound: (zone, position = near) => audio[zone.samples[position]?.sample ?? ''],
  };
}

/** A fade by which a controller brings a zone in. */
export const fadeIn = (controller: number, low: number, high: number): Fade => ({
  controller,
  inLow: low,
  inHigh: high,
  outLow: 127,
  outHigh: 127,
});

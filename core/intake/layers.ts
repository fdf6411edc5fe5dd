import type { Zone } from '../catalogue/index.ts';
import { kWeighted } from '../dsp/index.ts';

/** Recordings of a zone's position as channels of equal length. */
export interface LayerAudio {
  channels: readonly Float32Array[];
  rate: number;
}

/** Longest stretch that is compared, and where it begins in a recording without a loop. */
const COMPARED_SECONDS = 0.3;
const SETTLED_FROM = 0.35;

/**
 * Measures how alike the waves of layers are that a controller blends: the correlation of their K-weighted waves once
 * settled, from the first position, −1 … 1. Written into `alike` of both zones, by the sample of the other.
 */
export function measureLayers(
  zones: readonly Zone[],
  audioOf: (sample: string) => LayerAudio | undefined,
): void {
  const weighted = new Map<Zone, Float64Array[] | undefined>();
  const heard = (zone: Zone) => {
    if (!weighted.has(zone)) weighted.set(zone, settledParts(zone, audioOf));
    return weighted.get(zone);
  };
  const blended = zones.filter((zone) => zone.role === 'attack' && zone.fades.length > 0);
  blended.forEach((a, i) => {
    for (const b of blended.slice(0, i)) {
      if (!areBlended(a, b)) continue;
      const [x, y] = [heard(a), heard(b)];
      if (!x || !y || x.length !== y.length) continue;
      const alike = Math.round(correlation(x, y) * 1000) / 1000;
      (a.alike ??= {})[sampleOf(b)] = alike;
      (b.alike ??= {})[sampleOf(a)] = alike;
    }
  });
}

/** Name under which a zone's likeness to others is kept: its first sample. */
export const sampleOf = (zone: Zone) => Object.values(zone.samples)[0]?.sample ?? '';

/** True when one note can sound both at once. */
function areBlended(a: Zone, b: Zone): boolean {
  return (
    a.take === b.take &&
    a.rootKey === b.rootKey &&
    a.keyLow <= b.keyHigh &&
    b.keyLow <= a.keyHigh &&
    a.velocityLow <= b.velocityHigh &&
    b.velocityLow <= a.velocityHigh &&
    a.tuneCents === b.tuneCents
  );
}

function settledParts(
  zone: Zone,
  audioOf: (sample: string) => LayerAudio | undefined,
): Float64Array[] | undefined {
  const parts: Float64Array[] = [];
  const audio = audioOf(sampleOf(zone));
  if (!audio) return undefined;
  const { channels, rate } = audio;
  const frames = channels[0].length;
  const from = zone.loop?.start ?? zone.startFrame + Math.round((frames - zone.startFrame) * SETTLED_FROM);
  const to = Math.min(zone.loop?.end ?? frames, from + COMPARED_SECONDS * rate);
  for (const channel of channels) parts.push(kWeighted(channel.subarray(from, to)));
  return parts;
}

function correlation(x: readonly Float64Array[], y: readonly Float64Array[]): number {
  let [xx, yy, xy] = [0, 0, 0];
  x.forEach((a, c) => {
    const b = y[c];
    for (let i = 0; i < Math.min(a.length, b.length); i++) {
      xx += a[i] * a[i];
      yy += b[i] * b[i];
      xy += a[i] * b[i];
    }
  });
  return xx > 0 && yy > 0 ? xy / Math.sqrt(xx * yy) : 0;
}

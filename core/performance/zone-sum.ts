import type { Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { sharedEnvelope, unpackEnvelope } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { heardStart } from './heard.ts';

interface Pair {
  a: number;
  b: number;
  envelope: Float64Array;
}

/**
 * Power over time of zones that sound together, for any gains: the envelope of every pair is worked out once, so that
 * a new touch costs a few thousand products. Without loaded audio the zones are taken as unlike each other.
 */
export class ZoneSum {
  private readonly pairs: Pair[] = [];

  /** @param power share of each position's power in the mix, by id; used where audio is missing */
  constructor(
    zones: readonly Zone[],
    mix: TrackMix,
    power: ReadonlyMap<string, number>,
    audio: ReadonlyMap<string, SampleAudio>,
  ) {
    const heard = zones.map((zone) => heardStart(zone, mix, audio));
    zones.forEach((zone, a) => {
      for (let b = 0; b <= a; b++) {
        const [first, second] = [heard[a], heard[b]];
        if (first && second) this.pairs.push({ a, b, envelope: sharedEnvelope(first, second, ENGINE_RATE) });
        else if (a === b) this.pairs.push({ a, b, envelope: measuredEnvelope(zone, power) });
      }
    });
  }

  /** Envelope for one gain per zone. Allocates. */
  at(gains: readonly number[]): Float64Array {
    const sum = new Float64Array(Math.max(1, ...this.pairs.map((pair) => pair.envelope.length)));
    for (const { a, b, envelope } of this.pairs) {
      const weight = gains[a] * gains[b] * (a === b ? 1 : 2);
      if (weight === 0) continue;
      for (let i = 0; i < envelope.length; i++) sum[i] += weight * envelope[i];
    }
    return sum;
  }
}

/** What the import measured of a zone's positions, added by their power. */
function measuredEnvelope(zone: Zone, power: ReadonlyMap<string, number>): Float64Array {
  const parts = Object.entries(zone.samples).flatMap(([position, ref]) =>
    ref.envelope === undefined
      ? []
      : [{ weight: power.get(position) ?? 0, envelope: unpackEnvelope(ref.envelope) }],
  );
  const sum = new Float64Array(Math.max(1, ...parts.map((part) => part.envelope.length)));
  for (const { weight, envelope } of parts)
    for (let i = 0; i < envelope.length; i++) sum[i] += weight * envelope[i];
  return sum;
}

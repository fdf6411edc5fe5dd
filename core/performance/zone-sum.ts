import type { Zone } from '../catalogue/index.ts';
import { kWeighted } from '../dsp/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { sharedEnvelope, unpackEnvelope } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { heardStart, rateOf } from './heard.ts';
import { throughFilter } from './zone-filter.ts';

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

  /**
   * @param cutoffHz low-pass at the recording's own pitch that all of them are played through
   * @param power share of each position's power in the mix, by id; used where audio is missing
   */
  constructor(
    zones: readonly Zone[],
    mix: TrackMix,
    power: ReadonlyMap<string, number>,
    audio: ReadonlyMap<string, SampleAudio>,
    cutoffHz?: number,
  ) {
    const heard = zones.map((zone) => weightedStart(zone, mix, audio, cutoffHz));
    zones.forEach((zone, a) => {
      for (let b = 0; b <= a; b++) {
        const [first, second] = [heard[a], heard[b]];
        if (first && second)
          this.pairs.push({ a, b, envelope: sharedEnvelope(first, second, rateOf(zone, audio)) });
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

/** The beginning of a zone as it will be heard, through its filter and K-weighted. */
function weightedStart(
  zone: Zone,
  mix: TrackMix,
  audio: ReadonlyMap<string, SampleAudio>,
  cutoffHz: number | undefined,
): Float64Array[] | undefined {
  const heard = heardStart(zone, mix, audio);
  if (!heard) return undefined;
  if (cutoffHz === undefined) return heard.map(kWeighted);
  const filtered = (channel: Float32Array) =>
    throughFilter(zone.filter ?? 'lowpass2', channel, cutoffHz, zone.resonanceDb ?? 0, rateOf(zone, audio));
  return heard.map((channel) => kWeighted(filtered(channel)));
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

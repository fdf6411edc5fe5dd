import type { Zone } from '../catalogue/index.ts';
import { blendGain, type SampleAudio } from '../engine/index.ts';
import { kWeightingPower } from '../dsp/index.ts';
import { looksAt, sharedSpectrum, type Looks } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { filteringOf } from './filters.ts';
import { heardSpan, rateOf, zoneGain } from './heard.ts';
import type { Touch } from './touch.ts';

const LOOK = 4096;
const BANDS_AN_OCTAVE = 3;
const LOWEST_HZ = 30;
const BANDS = 29;
const HIGHEST_HZ = 20_000;
/** Longest stretch of a tone that is looked at. */
const MOST_SECONDS = 0.5;
/** Where a tone without a loop is taken to have settled, as a share of its length, and what is counted from there on. */
const SETTLED_FROM = 0.35;
const SETTLED_TO = 0.75;

/** Power in third-octave bands of the recording's own pitch. */
type Bands = Float64Array;

const centreOf = (band: number) => LOWEST_HZ * 2 ** ((band + 0.5) / BANDS_AN_OCTAVE);

function inBands(power: Float64Array, binHz: number): Bands {
  const bands = new Float64Array(BANDS);
  for (let k = 1; k < power.length; k++) {
    const band = Math.floor(Math.log2((k * binHz) / LOWEST_HZ) * BANDS_AN_OCTAVE);
    bands[Math.min(BANDS - 1, Math.max(0, band))] += power[k];
  }
  return bands;
}

/**
 * K-weighted powers of what will be heard: of tones that have settled and of stretches of recorded moves, at the pitch
 * played, through their filters, layers added as alike as they are. Everything is remembered.
 */
export class Levels {
  private readonly looks = new Map<Zone, Looks | undefined>();
  private readonly shared = new Map<Zone, Map<Zone, Bands>>();

  constructor(
    private readonly mix: TrackMix,
    private readonly audio: ReadonlyMap<string, SampleAudio>,
  ) {}

  /** Frames of a zone's own recording between which it has settled: its loop, or a middle part. */
  settledSpan(zone: Zone): { from: number; to: number } | undefined {
    const frames = Math.max(
      0,
      ...Object.values(zone.samples).map((ref) => this.audio.get(ref.sample)?.frames ?? 0),
    );
    if (frames === 0) return undefined;
    if (zone.loop && zone.loop.end <= frames) return { from: zone.loop.start, to: zone.loop.end };
    const length = frames - zone.startFrame;
    return { from: zone.startFrame + SETTLED_FROM * length, to: zone.startFrame + SETTLED_TO * length };
  }

  /**
   * Power of zones that sound together once settled. Undefined while recordings are missing.
   * @param ratio played pitch against the recording's
   */
  tone(zones: readonly Zone[], ratio: number, touch: Touch): number | undefined {
    let sum = 0;
    const gains = zones.map((zone) => zoneGain(zone, touch));
    for (let a = 0; a < zones.length; a++) {
      if (gains[a] === 0) continue;
      for (let b = 0; b <= a; b++) {
        if (gains[b] === 0) continue;
        const bands = this.sharedBands(zones[a], zones[b]);
        if (!bands) return undefined;
        sum += gains[a] * gains[b] * (a === b ? 1 : 2) * weigher(ratio, zones[a], touch)(bands);
      }
    }
    return sum * blendOf(zones, gains) ** 2;
  }

  /** Power of a stretch of a zone, in frames of its recording. Undefined while it is missing. */
  stretch(zone: Zone, from: number, to: number): Bands | undefined {
    const heard = heardSpan(zone, this.mix, this.audio, Math.round(from), Math.round(to - from));
    if (!heard) return undefined;
    // A short stretch is looked at through short windows, so that none of it is lost at their edges.
    const size = to - from >= 2 * LOOK ? LOOK : 1024;
    const looks = looksAt(heard, rateOf(zone, this.audio), 0, heard[0].length, size);
    const { power, binHz } = sharedSpectrum(looks, looks);
    return inBands(power, binHz);
  }

  private sharedBands(a: Zone, b: Zone): Bands | undefined {
    let row = this.shared.get(a);
    if (!row) this.shared.set(a, (row = new Map()));
    let bands = row.get(b);
    if (bands) return bands;
    const [first, second] = [this.looksOf(a), this.looksOf(b)];
    if (!first || !second) return undefined;
    const { power, binHz } = sharedSpectrum(first, second);
    row.set(b, (bands = inBands(power, binHz)));
    return bands;
  }

  private looksOf(zone: Zone): Looks | undefined {
    if (this.looks.has(zone)) return this.looks.get(zone);
    const span = this.settledSpan(zone);
    const length = span && Math.min(span.to - span.from, MOST_SECONDS * rateOf(zone, this.audio));
    const heard =
      span && length && heardSpan(zone, this.mix, this.audio, Math.round(span.from), Math.round(length));
    const looks = heard ? looksAt(heard, rateOf(zone, this.audio), 0, heard[0].length, LOOK) : undefined;
    this.looks.set(zone, looks);
    return looks;
  }
}

/** What the engine scales layers by that sound together; see `blendGain`. */
export function blendOf(zones: readonly Zone[], gains: readonly number[]): number {
  const count = zones.length;
  const refs = zones.map((zone) => Object.values(zone.samples)[0]);
  const powers = refs.map((ref) => 10 ** ((ref?.levelDb ?? 0) / 10));
  const alike = zones.flatMap((zone) => refs.map((ref) => zone.alike?.[ref?.sample ?? ''] ?? 0));
  return blendGain(count, gains, powers, alike);
}

/** K-weighted sums of bands as they are played through a zone's filter. */
export function weigher(ratio: number, zone: Zone, touch: Touch): (bands: Bands) => number {
  const filtering = filteringOf(zone, touch);
  const weights = Float64Array.from({ length: BANDS }, (_, band) => {
    const hertz = Math.min(HIGHEST_HZ, centreOf(band) * ratio);
    return kWeightingPower(hertz) * (filtering ? filtering.power(hertz) : 1);
  });
  return (bands) => bands.reduce((sum, power, band) => sum + power * weights[band], 0);
}

import type { Zone } from '../catalogue/index.ts';
import { kWeighted } from '../dsp/index.ts';
import { LEVEL_STEP_SECONDS, type SampleAudio } from '../engine/index.ts';
import { EARLIEST_LANDING_SECONDS, landingSeconds } from '../measure/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { centsToRatio, clamp, midiToHertz } from '../units/index.ts';
import { heardSpan, rateOf, ratioAt } from './heard.ts';
import type { Touch } from './touch.ts';
import { weigher, type Levels } from './levels.ts';

/** A recorded move as it will be heard at the pitch played. Times are seconds of playing. */
export interface Move {
  zone: Zone;
  /** Played pitch against the recording's. */
  ratio: number;
  /** From its beginning until the new pitch takes over. */
  leadSeconds: number;
  /** From there on until its tone begins to fade. */
  lastsSeconds: number;
}

/** A recording of a move at its own pitch. */
type Recorded = Pick<Move, 'leadSeconds' | 'lastsSeconds'>;

/** What makes two zones the same recording. */
const recordingOf = (zone: Zone) =>
  `${Object.values(zone.samples)
    .map((ref) => ref.sample)
    .join()} ${zone.startFrame} ${zone.rootKey} ${zone.tuneCents}`;

/** Longest stretch of a move that is looked at. */
const LOOK_SECONDS = 1.5;
/** What is left of the change itself this long before and after the landing is not counted as settled. */
const CHANGE_SECONDS = 0.05;
/** The level goes over from that of the old tone to that of the new within this of the landing. */
const TURN_SECONDS = 0.02;
/** How far a tone rises and falls by itself; a move may do so too. */
const OWN_DB = 1.5;
const WINDOW_SECONDS = 0.08;
const LEVEL_WINDOW_SECONDS = 0.05;
/** A tone that falls this far below itself has begun to fade. */
const FADED_DB = 2;
/** How long a move is taken to last whose recording is not loaded. */
const UNKNOWN_LASTS = 0.12;
const MOST_MATCH_DB = 18;

/** Finds recorded moves, and measures where they land, how long they last and how loud they are. Everything is remembered. */
export class Moves {
  private readonly known = new Map<string, Move | undefined>();
  private readonly heard = new Map<string, Recorded>();
  private readonly levelled = new Map<string, Float64Array[] | undefined>();

  /** @param power share of each position's power in the mix, by id; used where audio is missing */
  constructor(
    private readonly mix: TrackMix,
    private readonly audio: ReadonlyMap<string, SampleAudio>,
    private readonly power: ReadonlyMap<string, number>,
    private readonly levels: Levels,
  ) {}

  /** The move from one key to another, or undefined when none was recorded. @param zones moves to the key */
  find(zones: readonly Zone[], articulation: number, fromKey: number, key: number): Move | undefined {
    const name = `${articulation} ${fromKey} ${key}`;
    if (!this.known.has(name)) this.known.set(name, this.measure(zones, key - fromKey, key));
    return this.known.get(name);
  }

  /**
   * Levels in dB, every `LEVEL_STEP_SECONDS` of playing from where it is entered, that make a move as loud as the tones it
   * leads between. What it rises and falls by itself is left to it as far as held tones do so too. Allocates.
   * @param offsetSeconds where it is entered, at the pitch played
   * @param from, to K-weighted powers of those tones; undefined when they are not known
   */
  match(
    move: Move,
    offsetSeconds: number,
    from: number | undefined,
    to: number | undefined,
    gain: number,
    touch: Touch,
  ): number[] {
    const curve = from && to && gain > 0 ? this.curveOf(move) : undefined;
    if (!from || !to || !curve) return [];
    const landing = move.leadSeconds * move.ratio;
    const weigh = weigher(move.ratio, move.zone, touch);
    const missing = curve.map((bands, i) => {
      const after = clamp((i * LEVEL_STEP_SECONDS - landing) / (2 * TURN_SECONDS) + 0.5, 0, 1);
      const wanted = 10 * Math.log10(from / to) * (1 - after) + 10 * Math.log10(to);
      return wanted - 10 * Math.log10(gain ** 2 * weigh(bands) + 1e-30);
    });
    const turn = clamp(Math.round(landing / LEVEL_STEP_SECONDS), 1, missing.length - 1);
    // A new bow is meant to fall back: only its level as a whole is brought in line.
    const own = move.zone.interval === 0 ? Infinity : OWN_DB;
    const levels = [...settled(missing.slice(0, turn), own), ...settled(missing.slice(turn), own)];
    const last = levels.length - 1;
    const steps = Math.ceil(last / move.ratio - offsetSeconds / LEVEL_STEP_SECONDS) + 1;
    return Array.from({ length: Math.max(1, steps) }, (_, i) => {
      const place = clamp((offsetSeconds / LEVEL_STEP_SECONDS + i) * move.ratio, 0, last);
      const at = Math.floor(place);
      const value = levels[at] + (place - at) * (levels[Math.min(last, at + 1)] - levels[at]);
      return clamp(value, -MOST_MATCH_DB, MOST_MATCH_DB);
    });
  }

  private measure(zones: readonly Zone[], interval: number, key: number): Move | undefined {
    const zone = zones.find((candidate) => candidate.interval === interval);
    if (!zone) return undefined;
    const ratio = ratioAt(zone, key);
    const { leadSeconds, lastsSeconds } = this.recorded(zone, interval);
    return { zone, ratio, leadSeconds: leadSeconds / ratio, lastsSeconds: lastsSeconds / ratio };
  }

  /** Landing and length of a recording at its own pitch; zones of many keys share one. */
  private recorded(zone: Zone, interval: number): Recorded {
    const name = recordingOf(zone);
    let known = this.heard.get(name);
    if (!known) this.heard.set(name, (known = this.listen(zone, interval)));
    return known;
  }

  private listen(zone: Zone, interval: number): Recorded {
    const rate = rateOf(zone, this.audio);
    const length = lengthOf(zone, this.audio);
    const frames = Math.round(Math.min(length, LOOK_SECONDS * rate));
    const heard = length > 0 ? heardSpan(zone, this.mix, this.audio, zone.startFrame, frames) : undefined;
    if (!heard) return { leadSeconds: this.measuredLanding(zone), lastsSeconds: UNKNOWN_LASTS };
    const [left, right] = heard;
    const mono = left.map((value, i) => value + right[i]);
    const root = midiToHertz(zone.rootKey - zone.tuneCents / 100);
    const landing =
      interval === 0
        ? undefined
        : landingSeconds(
            mono,
            rate,
            root * centsToRatio(-100 * interval),
            root,
            EARLIEST_LANDING_SECONDS * rate,
            frames,
          );
    const leadSeconds = landing ?? this.measuredLanding(zone);
    return { leadSeconds, lastsSeconds: lastsAfter(heard, rate, leadSeconds) };
  }

  /** Power bands of a move around every `LEVEL_STEP_SECONDS` of its recording, up to where its tone fades. */
  private curveOf({ zone, leadSeconds, lastsSeconds, ratio }: Move): Float64Array[] | undefined {
    const name = recordingOf(zone);
    if (this.levelled.has(name)) return this.levelled.get(name);
    const rate = rateOf(zone, this.audio);
    const end = (leadSeconds + lastsSeconds) * ratio;
    const half = LEVEL_WINDOW_SECONDS / 2;
    const curve: Float64Array[] = [];
    for (let at = 0; at <= end; at += LEVEL_STEP_SECONDS) {
      const middle = clamp(at, half, Math.max(half, end - half));
      const from = zone.startFrame + (middle - half) * rate;
      const bands = this.levels.stretch(zone, from, from + 2 * half * rate);
      if (!bands) break;
      curve.push(bands);
    }
    const known = curve.length > 1 ? curve : undefined;
    this.levelled.set(name, known);
    return known;
  }

  /** Landings of the positions as the import measured them, weighted by the power each will be heard with. */
  private measuredLanding(zone: Zone): number {
    let sum = 0;
    let weights = 0;
    for (const [position, ref] of Object.entries(zone.samples)) {
      const weight = (this.power.get(position) ?? 0) * 10 ** ((ref.levelDb ?? -200) / 10);
      sum += weight * (ref.leadSeconds ?? 0);
      weights += weight;
    }
    return weights > 0 ? sum / weights : 0;
  }
}

/** What is missing to a level, less what a tone may do by itself around the middle of it, in dB. */
function settled(missing: readonly number[], ownDb: number): number[] {
  const middle = missing.reduce((sum, value) => sum + value / missing.length, 0);
  return missing.map((value) => {
    const away = value - middle;
    return middle + Math.sign(away) * Math.max(0, Math.abs(away) - ownDb);
  });
}

/** Frames of the longest position of a zone. */
function lengthOf(zone: Zone, audio: ReadonlyMap<string, SampleAudio>): number {
  const rate = rateOf(zone, audio);
  return (
    Math.max(
      ...Object.values(zone.samples).map((ref) => {
        const sample = audio.get(ref.sample);
        return sample ? (sample.frames * rate) / sample.rate : 0;
      }),
    ) - zone.startFrame
  );
}

/**
 * How long after its landing a move keeps its level: the last moment at which a window of 80 ms still reaches, within
 * 2 dB, what the first 150 ms after the change hold on average.
 */
function lastsAfter(heard: readonly Float32Array[], rate: number, landing: number): number {
  const weighted = heard.map((channel) => kWeighted(channel));
  const sums = new Float64Array(heard[0].length + 1);
  for (let i = 0; i < heard[0].length; i++) {
    let power = 0;
    for (const channel of weighted) power += channel[i] ** 2;
    sums[i + 1] = sums[i] + power;
  }
  const mean = (from: number, to: number) => {
    const [a, b] = [from, to].map((s) => Math.min(sums.length - 1, Math.max(0, Math.round(s * rate))));
    return b > a ? (sums[b] - sums[a]) / (b - a) : 0;
  };
  const begin = landing + CHANGE_SECONDS;
  let whole = 0;
  for (const span of [0.05, 0.1, 0.15]) whole = Math.max(whole, mean(begin, begin + span));
  const least = whole / 10 ** (FADED_DB / 10);
  const end = (heard[0].length - 1) / rate;
  for (let at = end - WINDOW_SECONDS / 2; at > begin; at -= 0.005)
    if (mean(at - WINDOW_SECONDS / 2, at + WINDOW_SECONDS / 2) >= least) return at - landing;
  return CHANGE_SECONDS;
}

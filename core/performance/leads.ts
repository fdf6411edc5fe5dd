import { SOURCE, type Articulation, type Instrument, type Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { onsetOfEnvelope } from '../measure/index.ts';
import { levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { filteringOf } from './filters.ts';
import { rateOf, ratioAt, zoneGain } from './heard.ts';
import type { Touch } from './touch.ts';
import { Levels } from './levels.ts';
import { Moves, type Move } from './moves.ts';
import { ZoneSum } from './zone-sum.ts';

/** Filters are taken as this many steps an octave: a lead does not tell finer ones apart. */
const CUTOFF_STEPS = 3;
const NO_LEAD = new Float64Array(1);
/** When a tone is taken to have settled whose recording is not loaded, and earliest of all. */
const UNKNOWN_SETTLED_SECONDS = 0.45;
const LEAST_SETTLED_SECONDS = 0.3;

/**
 * How long before the beat each sound must start so that it speaks, or lands, on the beat, at the pitch it
 * will be played. Where the recordings are loaded, the layers and positions that will be heard are added up and
 * measured as they will sound together; otherwise what was measured of each at import is combined.
 */
export class Leads {
  private readonly power: Map<string, number>;
  private readonly attacks = new Map<string, Float64Array>();
  private readonly tones = new Map<string, number | undefined>();
  private readonly levels: Levels;
  private readonly moves: Moves;
  private readonly sums = new Map<string, ZoneSum>();
  private readonly numbers = new Map<Zone, number>();
  private readonly reaches = new Map<readonly Zone[], Reach>();
  private readonly byKey: { attack: Zone[][]; transition: Zone[][] }[];

  /** @param audio loaded recordings by sample id */
  constructor(
    instrument: Instrument,
    private readonly mix: TrackMix,
    private readonly audio: ReadonlyMap<string, SampleAudio> = new Map(),
  ) {
    this.power = new Map(
      instrument.positions.map(({ id }) => {
        const own = mix.positions[id];
        // The recording itself must be heard for a lead to mean anything; delays of a position are the user's own.
        return [id, own && !own.muted ? levelGain(own.levelDb) ** 2 : 0];
      }),
    );
    this.byKey = instrument.articulations.map(zonesByKey);
    this.levels = new Levels(mix, audio);
    this.moves = new Moves(mix, audio, this.power, this.levels);
  }

  /**
   * Leads in seconds of an attack, one per take. The array may be shared; do not change it.
   * @param dynamics, vibrato controller values 0…127 at the note's start
   */
  attack(
    articulation: number,
    key: number,
    velocity: number,
    dynamics: number,
    vibrato: number,
  ): Float64Array {
    const zones = this.byKey[articulation].attack[key];
    const reach = this.reachOf(zones);
    const touched = reach.velocity ? velocity : velocityClass(zones, velocity);
    const d = reach.dynamics ? Math.round(dynamics) : 0;
    const v = reach.vibrato ? Math.round(vibrato) : 0;
    const name = `${articulation} ${key} ${touched} ${d} ${v}`;
    let leads = this.attacks.get(name);
    if (!leads)
      this.attacks.set(name, (leads = this.computeAttack(zones, key, { velocity, dynamics: d, vibrato: v })));
    return leads;
  }

  /** What of a touch changes the lead of some zones at all; remembered per list of zones. */
  private reachOf(zones: readonly Zone[]): Reach {
    let reach = this.reaches.get(zones);
    if (!reach) {
      const listens = (controller: number) =>
        zones.some(
          ({ fades, modulations }) =>
            fades.some((fade) => fade.controller === controller) ||
            modulations.some((m) => m.controller === controller),
        );
      // Equal tracking scales all zones alike, which moves no onset.
      const velocity =
        listens(SOURCE.velocity) || zones.some((zone) => zone.velocityTrack !== zones[0].velocityTrack);
      reach = { dynamics: listens(CONTROLLER.dynamics), vibrato: listens(CONTROLLER.vibrato), velocity };
      this.reaches.set(zones, reach);
    }
    return reach;
  }

  /** True when an attack of the key was recorded. */
  has(articulation: number, key: number): boolean {
    return this.byKey[articulation].attack[key].length > 0;
  }

  /** The recorded move from one key to another with its level at both ends, or undefined when none was recorded. */
  move(articulation: number, fromKey: number, key: number): Move | undefined {
    return this.moves.find(this.byKey[articulation].transition[key], articulation, fromKey, key);
  }

  /**
   * Levels in dB, every `LEVEL_STEP_SECONDS` from where it is entered, that make a move as loud as the tones it leads between.
   * @param offsetSeconds where it is entered; @param fromArticulation whose tone it takes over from
   */
  matched(
    move: Move,
    offsetSeconds: number,
    [fromArticulation, fromKey]: readonly [number, number],
    [articulation, key]: readonly [number, number],
    touch: Touch,
  ): number[] {
    return this.moves.match(
      move,
      offsetSeconds,
      this.tone(fromArticulation, fromKey, touch),
      this.tone(articulation, key, touch),
      zoneGain(move.zone, touch),
      touch,
    );
  }

  /** Seconds, at the pitch played, after which the tone of an attack has settled: where its loop begins. */
  settled(articulation: number, key: number, velocity: number): number {
    const zone = this.byKey[articulation].attack[key].find(
      (one) => velocity >= one.velocityLow && velocity <= one.velocityHigh,
    );
    const span = zone && this.levels.settledSpan(zone);
    if (!span) return UNKNOWN_SETTLED_SECONDS;
    const earliest = LEAST_SETTLED_SECONDS * rateOf(zone, this.audio);
    const frames = Math.max(span.from - zone.startFrame, Math.min(earliest, span.to - zone.startFrame));
    return frames / rateOf(zone, this.audio) / ratioAt(zone, key);
  }

  /** K-weighted power of a tone once it has settled. */
  private tone(articulation: number, key: number, touch: Touch): number | undefined {
    const name = `${articulation} ${key} ${touch.velocity} ${Math.round(touch.dynamics)} ${Math.round(touch.vibrato)}`;
    if (!this.tones.has(name)) {
      const zones = this.byKey[articulation].attack[key].filter(
        (zone) =>
          touch.velocity >= zone.velocityLow && touch.velocity <= zone.velocityHigh && zone.take === 0,
      );
      const ratio = zones.length > 0 ? ratioAt(zones[0], key) : 1;
      this.tones.set(name, zones.length > 0 ? this.levels.tone(zones, ratio, touch) : undefined);
    }
    return this.tones.get(name);
  }

  private computeAttack(zones: readonly Zone[], key: number, touch: Touch): Float64Array {
    const fitting = zones.filter(
      (zone) => touch.velocity >= zone.velocityLow && touch.velocity <= zone.velocityHigh,
    );
    const takes = fitting.reduce((most, zone) => Math.max(most, zone.takes), 1);
    if (fitting.length === 0) return NO_LEAD;
    return Float64Array.from({ length: takes }, (_, take) => {
      const sounding = fitting.filter((zone) => zone.takes <= 1 || zone.take === take % zone.takes);
      if (sounding.length === 0) return 0;
      const ratio = ratioAt(sounding[0], key);
      const cutoff = filteringOf(sounding[0], touch)?.cutoffHz;
      const sum = this.sumOf(sounding, cutoff && cutoff / ratio);
      return onsetOfEnvelope(sum.at(sounding.map((zone) => zoneGain(zone, touch))), ratio) / ratio;
    });
  }

  /** Shared powers of zones that sound together; remembered, since many keys and touches use the same zones. */
  private sumOf(zones: readonly Zone[], cutoffHz: number | undefined): ZoneSum {
    const step = cutoffHz && Math.round(Math.log2(cutoffHz) * CUTOFF_STEPS);
    const name = `${zones.map((zone) => this.numberOf(zone)).join()} ${step ?? ''}`;
    let sum = this.sums.get(name);
    const cutoff = step && 2 ** (step / CUTOFF_STEPS);
    if (!sum) this.sums.set(name, (sum = new ZoneSum(zones, this.mix, this.power, this.audio, cutoff)));
    return sum;
  }

  private numberOf(zone: Zone): number {
    let number = this.numbers.get(zone);
    if (number === undefined) this.numbers.set(zone, (number = this.numbers.size));
    return number;
  }
}

/** Which parts of a touch matter to a list of zones. */
interface Reach {
  dynamics: boolean;
  vibrato: boolean;
  velocity: boolean;
}

/** Number of velocity ranges that begin at or below a velocity: equal numbers play equal zones. */
function velocityClass(zones: readonly Zone[], velocity: number): number {
  let count = 0;
  for (const zone of zones) if (zone.velocityLow <= velocity) count++;
  return -1 - count;
}

function zonesByKey(articulation: Articulation): { attack: Zone[][]; transition: Zone[][] } {
  const tables = { attack: emptyKeys(), release: emptyKeys(), transition: emptyKeys() };
  for (const zone of articulation.zones)
    for (let key = Math.max(0, zone.keyLow); key <= Math.min(127, zone.keyHigh); key++)
      tables[zone.role][key].push(zone);
  return tables;
}

const emptyKeys = () => Array.from({ length: 128 }, (): Zone[] => []);

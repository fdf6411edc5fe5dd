import { SOURCE, type Articulation, type Instrument, type Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { landingSeconds, onsetOfEnvelope } from '../measure/index.ts';
import { levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { centsToRatio, ENGINE_RATE, midiToHertz } from '../units/index.ts';
import { heardStart, zoneGain, type Touch } from './heard.ts';
import { ZoneSum } from './zone-sum.ts';

const NO_LEAD = new Float64Array(1);
/** Where in a recorded move its landing is looked for. */
const MOVE_SEARCH_SECONDS = [0.03, 0.43] as const;

/**
 * How long before the beat each sound must start so that it speaks, or lands, on the beat, at the pitch it
 * will be played. Where the recordings are loaded, the layers and positions that will be heard are added up and
 * measured as they will sound together; otherwise what was measured of each at import is combined.
 */
export class Leads {
  private readonly power: Map<string, number>;
  private readonly attacks = new Map<string, Float64Array>();
  private readonly moves = new Map<string, number>();
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

  /** Lead in seconds of a connected move, or undefined when none was recorded. */
  transition(articulation: number, fromKey: number, key: number): number | undefined {
    const name = `${articulation} ${fromKey} ${key}`;
    let lead = this.moves.get(name);
    if (lead === undefined) {
      lead = this.computeTransition(this.byKey[articulation].transition[key], key - fromKey, key);
      this.moves.set(name, lead);
    }
    return lead < 0 ? undefined : lead;
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
      const ratio = centsToRatio((key - sounding[0].rootKey) * 100 + sounding[0].tuneCents);
      return onsetOfEnvelope(this.sumOf(sounding).at(sounding.map((zone) => zoneGain(zone, touch)))) / ratio;
    });
  }

  /** Shared powers of zones that sound together; remembered, since many keys and touches use the same zones. */
  private sumOf(zones: readonly Zone[]): ZoneSum {
    const name = zones.map((zone) => this.numberOf(zone)).join();
    let sum = this.sums.get(name);
    if (!sum) this.sums.set(name, (sum = new ZoneSum(zones, this.mix, this.power, this.audio)));
    return sum;
  }

  private numberOf(zone: Zone): number {
    let number = this.numbers.get(zone);
    if (number === undefined) this.numbers.set(zone, (number = this.numbers.size));
    return number;
  }

  /** Landing as it will be heard; −1 when there is no such recording. */
  private computeTransition(zones: readonly Zone[], interval: number, key: number): number {
    const zone = zones.find((candidate) => candidate.interval === interval);
    if (!zone) return -1;
    const ratio = centsToRatio((key - zone.rootKey) * 100 + zone.tuneCents);
    const heard = heardStart(zone, this.mix, this.audio);
    if (heard) {
      const [left, right] = heard;
      for (let i = 0; i < left.length; i++) left[i] += right[i];
      const [from, to] = MOVE_SEARCH_SECONDS;
      const root = midiToHertz(zone.rootKey - zone.tuneCents / 100);
      const landing = landingSeconds(
        left,
        ENGINE_RATE,
        root * centsToRatio(-100 * interval),
        root,
        from * ENGINE_RATE,
        to * ENGINE_RATE,
      );
      if (landing !== undefined) return landing / ratio;
    }
    return this.measuredLanding(zone) / ratio;
  }

  /** Landings of the positions, weighted by the power each will be heard with. */
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

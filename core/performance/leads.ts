import type { Articulation, Instrument, Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { landingSeconds, onsetOfEnvelope, onsetSeconds, unpackEnvelope } from '../measure/index.ts';
import { levelGain, type TrackMix } from '../mixing/index.ts';
import { centsToRatio, ENGINE_RATE, midiToHertz } from '../units/index.ts';
import { heardStart, zoneGain, type Touch } from './heard.ts';

const NO_LEAD = new Float64Array(1);
/** Dynamics and vibrato are told apart this coarsely when leads are remembered. */
const DYNAMICS_STEP = 8;
const VIBRATO_STEP = 32;
/** Where in a recorded move its landing is looked for. */
const MOVE_SEARCH_SECONDS = [0.03, 0.43] as const;
const ANY_TOUCH: Touch = { velocity: 90, dynamics: 80, vibrato: 64 };

/**
 * How long before the beat each sound must start so that it speaks, or lands, on the beat, at the pitch it
 * will be played. Where the recordings are loaded, the layers and positions that will be heard are added up and
 * measured as they will sound together; otherwise what was measured of each at import is combined.
 */
export class Leads {
  private readonly power: Map<string, number>;
  private readonly attacks = new Map<string, Float64Array>();
  private readonly moves = new Map<string, number>();
  private readonly envelopes = new Map<string, Float64Array>();
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
   * Leads in seconds of an attack, one per take. The array is shared; do not change it.
   * @param dynamics, vibrato controller values 0…127 at the note's start
   */
  attack(articulation: number, key: number, velocity: number, dynamics: number, vibrato: number): Float64Array {
    const d = Math.round(dynamics / DYNAMICS_STEP);
    const v = Math.round(vibrato / VIBRATO_STEP);
    const name = `${articulation} ${key} ${velocity} ${d} ${v}`;
    let leads = this.attacks.get(name);
    if (!leads) {
      leads = this.computeAttack(this.byKey[articulation].attack[key], key, { velocity, dynamics: d * DYNAMICS_STEP, vibrato: v * VIBRATO_STEP });
      this.attacks.set(name, leads);
    }
    return leads;
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
    const fitting = zones.filter((zone) => touch.velocity >= zone.velocityLow && touch.velocity <= zone.velocityHigh);
    const takes = fitting.reduce((most, zone) => Math.max(most, zone.takes), 1);
    if (fitting.length === 0) return NO_LEAD;
    return Float64Array.from({ length: takes }, (_, take) => {
      const sounding = fitting.filter((zone) => zone.takes <= 1 || zone.take === take % zone.takes);
      if (sounding.length === 0) return 0;
      const ratio = centsToRatio((key - sounding[0].rootKey) * 100 + sounding[0].tuneCents);
      const heard = heardStart(sounding, touch, this.mix, this.audio);
      return (heard ? onsetSeconds(heard, ENGINE_RATE) : this.measuredOnset(sounding, touch)) / ratio;
    });
  }

  private measuredOnset(zones: readonly Zone[], touch: Touch): number {
    const sum = new Float64Array(Math.max(1, ...zones.map((zone) => this.longest(zone))));
    for (const zone of zones) this.addEnvelope(sum, zone, zoneGain(zone, touch) ** 2);
    return onsetOfEnvelope(sum);
  }

  private longest(zone: Zone): number {
    return Math.max(0, ...Object.values(zone.samples).map((ref) => (ref.envelope?.length ?? 0) / 2));
  }

  private addEnvelope(sum: Float64Array, zone: Zone, factor: number): void {
    if (factor === 0) return;
    for (const [position, ref] of Object.entries(zone.samples)) {
      const weight = (this.power.get(position) ?? 0) * factor;
      if (weight === 0 || ref.envelope === undefined) continue;
      let envelope = this.envelopes.get(ref.envelope);
      if (!envelope) this.envelopes.set(ref.envelope, (envelope = unpackEnvelope(ref.envelope)));
      for (let i = 0; i < envelope.length; i++) sum[i] += envelope[i] * weight;
    }
  }

  /** Landing as it will be heard; −1 when there is no such recording. */
  private computeTransition(zones: readonly Zone[], interval: number, key: number): number {
    const zone = zones.find((candidate) => candidate.interval === interval);
    if (!zone) return -1;
    const ratio = centsToRatio((key - zone.rootKey) * 100 + zone.tuneCents);
    const heard = heardStart([zone], ANY_TOUCH, this.mix, this.audio);
    if (heard) {
      const [left, right] = heard;
      for (let i = 0; i < left.length; i++) left[i] += right[i];
      const [from, to] = MOVE_SEARCH_SECONDS;
      const root = midiToHertz(zone.rootKey - zone.tuneCents / 100);
      const landing = landingSeconds(left, ENGINE_RATE, root * centsToRatio(-100 * interval), root, from * ENGINE_RATE, to * ENGINE_RATE);
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

function zonesByKey(articulation: Articulation): { attack: Zone[][]; transition: Zone[][] } {
  const tables = { attack: emptyKeys(), release: emptyKeys(), transition: emptyKeys() };
  for (const zone of articulation.zones)
    for (let key = Math.max(0, zone.keyLow); key <= Math.min(127, zone.keyHigh); key++) tables[zone.role][key].push(zone);
  return tables;
}

const emptyKeys = () => Array.from({ length: 128 }, (): Zone[] => []);

import type { Articulation, Instrument, Zone } from '../catalogue/index.ts';
import { fadeGain, velocityGain } from '../engine/index.ts';
import { onsetOfEnvelope, unpackEnvelope } from '../measure/index.ts';
import { levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import { centsToRatio, dbToGain } from '../units/index.ts';

const NO_LEAD = new Float64Array(1);
/** Dynamics and vibrato are told apart this coarsely when leads are remembered. */
const DYNAMICS_STEP = 8;
const VIBRATO_STEP = 32;

/**
 * How long before the beat each sound must start so that it speaks, or lands, on the beat: worked out from the
 * measured envelopes of the layers and positions that will be heard, at the pitch they will be played.
 */
export class Leads {
  private readonly power: Map<string, number>;
  private readonly attacks = new Map<string, Float64Array>();
  private readonly moves = new Map<string, number>();
  private readonly envelopes = new Map<string, Float64Array>();
  private readonly byKey: { attack: Zone[][]; transition: Zone[][] }[];

  constructor(instrument: Instrument, mix: TrackMix) {
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
      leads = this.computeAttack(this.byKey[articulation].attack[key], key, velocity, d * DYNAMICS_STEP, v * VIBRATO_STEP);
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

  private computeAttack(zones: readonly Zone[], key: number, velocity: number, dynamics: number, vibrato: number): Float64Array {
    const fitting = zones.filter((zone) => velocity >= zone.velocityLow && velocity <= zone.velocityHigh);
    const takes = fitting.reduce((most, zone) => Math.max(most, zone.takes), 1);
    if (fitting.length === 0) return NO_LEAD;
    const leads = new Float64Array(takes);
    for (let take = 0; take < takes; take++) {
      const sum = new Float64Array(Math.max(1, ...fitting.map((zone) => this.longest(zone))));
      let ratio = 1;
      for (const zone of fitting) {
        if (zone.takes > 1 && zone.take !== take % zone.takes) continue;
        ratio = centsToRatio((key - zone.rootKey) * 100 + zone.tuneCents);
        let gain = dbToGain(zone.gainDb) * velocityGain(velocity, zone.velocityTrack);
        for (const fade of zone.fades) gain *= fadeGain(fade, controllerValue(fade.controller, dynamics, vibrato));
        this.addEnvelope(sum, zone, gain * gain);
      }
      leads[take] = onsetOfEnvelope(sum) / ratio;
    }
    return leads;
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

  /** Landing of the positions heard, weighted by their power; −1 when there is no such recording. */
  private computeTransition(zones: readonly Zone[], interval: number, key: number): number {
    const zone = zones.find((candidate) => candidate.interval === interval);
    if (!zone) return -1;
    let sum = 0;
    let weights = 0;
    for (const [position, ref] of Object.entries(zone.samples)) {
      const weight = (this.power.get(position) ?? 0) * 10 ** ((ref.levelDb ?? -200) / 10);
      sum += weight * (ref.leadSeconds ?? 0);
      weights += weight;
    }
    const ratio = centsToRatio((key - zone.rootKey) * 100 + zone.tuneCents);
    return weights > 0 ? sum / weights / ratio : 0;
  }
}

function zonesByKey(articulation: Articulation): { attack: Zone[][]; transition: Zone[][] } {
  const tables = { attack: emptyKeys(), release: emptyKeys(), transition: emptyKeys() };
  for (const zone of articulation.zones)
    for (let key = Math.max(0, zone.keyLow); key <= Math.min(127, zone.keyHigh); key++) tables[zone.role][key].push(zone);
  return tables;
}

const emptyKeys = () => Array.from({ length: 128 }, (): Zone[] => []);

function controllerValue(controller: number, dynamics: number, vibrato: number): number {
  if (controller === CONTROLLER.dynamics) return dynamics;
  if (controller === CONTROLLER.vibrato) return vibrato;
  return controllerRest(controller);
}


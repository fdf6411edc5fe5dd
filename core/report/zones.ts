import { SOURCE, type Articulation, type Fade, type Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { zoneGain, type Touch } from '../performance/index.ts';

/** One recording as it lies in memory. */
export interface HeardSample {
  channels: readonly Float32Array[];
  rate: number;
}

/** Gives a recording by its sample id; undefined when it is missing. */
export type SampleSource = (sample: string) => HeardSample | undefined;

/** The touch at which articulations are held against each other: mezzo-forte, half vibrato. */
export const MIDDLE_TOUCH: Touch = { velocity: 90, dynamics: 80, vibrato: 64 };

/** Attack zones of one layer, soft to loud. */
export interface Layer {
  zones: Zone[];
  /** A touch at which this layer alone is heard best. */
  touch: Touch;
}

/** What rules the layers of an articulation. */
export function rulerOf(zones: readonly Zone[]): 'dynamics' | 'velocity' {
  const dynamics = zones.some(
    (zone) =>
      zone.fades.some((fade) => fade.controller === CONTROLLER.dynamics) ||
      zone.modulations.some((one) => one.controller === CONTROLLER.dynamics),
  );
  return dynamics ? 'dynamics' : 'velocity';
}

const fadeOn = (zone: Zone, controller: number): Fade | undefined =>
  zone.fades.find((fade) => fade.controller === controller);

/** Attack zones sorted into layers, soft to loud. */
export function layersOf(articulation: Articulation): Layer[] {
  const attacks = articulation.zones.filter((zone) => zone.role === 'attack');
  const groups = new Map<string, { zones: Zone[]; low: number; high: number; velocity: boolean }>();
  for (const zone of attacks) {
    const fade = fadeOn(zone, CONTROLLER.dynamics);
    const byVelocity = fadeOn(zone, SOURCE.velocity);
    const low = fade?.inHigh ?? byVelocity?.inHigh ?? zone.velocityLow;
    const high = fade?.outLow ?? byVelocity?.outLow ?? zone.velocityHigh;
    const name = `${fade ? 'd' : 'v'} ${low} ${high}`;
    const group = groups.get(name) ?? { zones: [], low, high, velocity: !fade };
    group.zones.push(zone);
    groups.set(name, group);
  }
  return [...groups.values()]
    .sort((a, b) => a.low + a.high - b.low - b.high)
    .map(({ zones, low, high, velocity }) => {
      const middle = Math.round((low + high) / 2);
      return {
        zones,
        touch: velocity
          ? { ...MIDDLE_TOUCH, velocity: Math.max(1, middle) }
          : { ...MIDDLE_TOUCH, dynamics: middle },
      };
    });
}

/** True for zones that only the vibrato controller brings in. */
export function isRidden(zone: Zone): boolean {
  const fade = fadeOn(zone, CONTROLLER.vibrato);
  return fade !== undefined && fade.inHigh > fade.inLow;
}

/** Of several zones the one heard most at a touch. */
export function foremost(zones: readonly Zone[], touch: Touch): Zone | undefined {
  let best: Zone | undefined;
  let most = -1;
  for (const zone of zones) {
    if (touch.velocity < zone.velocityLow || touch.velocity > zone.velocityHigh) continue;
    const gain = zoneGain(zone, touch);
    if (gain > most) [best, most] = [zone, gain];
  }
  return best;
}

/** Recorded roots of some zones, low to high. */
export function rootsOf(zones: readonly Zone[]): number[] {
  return [...new Set(zones.map((zone) => zone.rootKey))].sort((a, b) => a - b);
}

/** Three of a list: first, middle, last; fewer when there are fewer. */
export function lowMiddleHigh<T>(list: readonly T[]): T[] {
  return [...new Set([list[0], list[list.length >> 1], list[list.length - 1]])].filter(
    (one) => one !== undefined,
  );
}

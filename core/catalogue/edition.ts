import { CONTROLLER } from '../music/index.ts';
import type { Articulation, Instrument } from './instrument.ts';
import { SOURCE, type Fade, type Zone } from './zone.ts';

/** What a light edition keeps of an instrument. */
export interface EditionLimits {
  positions: readonly string[];
  /** At most so many loudness layers and takes. */
  layers: number;
  takes: number;
  /** Articulation ids; all unless given. */
  articulations?: readonly string[];
}

type Sounding = Pick<Instrument, 'positions' | 'articulations' | 'samples' | 'packs'>;

/** The same instrument for a smaller machine: fewer positions, layers and takes of the same recordings. Allocates. */
export function lightEdition(instrument: Sounding, limits: EditionLimits): Sounding {
  const positions = instrument.positions.filter(({ id }) => limits.positions.includes(id));
  const articulations = instrument.articulations
    .filter(({ id }) => limits.articulations?.includes(id) ?? true)
    .map((articulation) => ({
      ...articulation,
      zones: fewerLayers(fewerTakes(articulation.zones, limits.takes), limits.layers).flatMap(
        (zone): Zone[] => {
          const samples = Object.fromEntries(
            Object.entries(zone.samples).filter(([id]) => limits.positions.includes(id)),
          );
          return Object.keys(samples).length > 0 ? [{ ...zone, samples }] : [];
        },
      ),
    }));
  return withUsedSamples({ ...instrument, positions, articulations });
}

/**
 * Several instruments laid across one keyboard, each on its own keys; articulations of one id become one.
 * @param parts keys are inclusive
 */
export function acrossKeys(parts: readonly { instrument: Sounding; low: number; high: number }[]): Sounding {
  const positions = new Map(
    parts.flatMap((part) => part.instrument.positions.map((p) => [p.id, p] as const)),
  );
  const articulations = new Map<string, Articulation>();
  for (const { instrument, low, high } of parts)
    for (const articulation of instrument.articulations) {
      const zones = articulation.zones.flatMap((zone): Zone[] => {
        const keyLow = Math.max(low, zone.keyLow);
        const keyHigh = Math.min(high, zone.keyHigh);
        return keyHigh >= keyLow ? [{ ...zone, keyLow, keyHigh }] : [];
      });
      if (zones.length === 0) continue;
      const known = articulations.get(articulation.id);
      if (known) known.zones.push(...zones);
      else articulations.set(articulation.id, { ...articulation, zones });
    }
  return withUsedSamples({
    positions: [...positions.values()],
    articulations: [...articulations.values()],
    samples: Object.assign({}, ...parts.map((part) => part.instrument.samples)) as Sounding['samples'],
    packs: Object.assign({}, ...parts.map((part) => part.instrument.packs)) as Sounding['packs'],
  });
}

/** Drops samples and packs that no zone refers to. */
function withUsedSamples(instrument: Sounding): Sounding {
  const used = new Set(
    instrument.articulations.flatMap(({ zones }) =>
      zones.flatMap((zone) => Object.values(zone.samples).map((ref) => ref.sample)),
    ),
  );
  const samples = Object.fromEntries(Object.entries(instrument.samples).filter(([id]) => used.has(id)));
  const packs = new Set(Object.values(samples).map((sample) => sample.pack));
  return {
    positions: instrument.positions,
    articulations: instrument.articulations,
    samples,
    packs: Object.fromEntries(Object.entries(instrument.packs).filter(([id]) => packs.has(id))),
  };
}

function fewerTakes(zones: readonly Zone[], most: number): Zone[] {
  return zones.flatMap((zone) => (zone.take >= most ? [] : [{ ...zone, takes: Math.min(zone.takes, most) }]));
}

const layerFadeOf = (zone: Zone) =>
  zone.fades.find(({ controller }) => controller === CONTROLLER.dynamics || controller === SOURCE.velocity);

/** Keeps the outermost layers and stretches their windows so that they meet. */
function fewerLayers(zones: readonly Zone[], most: number): Zone[] {
  const fades = distinct(
    zones.map((zone) => layerFadeOf(zone)?.inLow ?? 0),
    zones.map((zone) => layerFadeOf(zone) !== undefined),
  );
  const kept = thin(fades, most);
  const velocities = distinct(
    zones.map((zone) => zone.velocityLow),
    zones.map((zone) => zone.role === 'attack' && layerFadeOf(zone) === undefined),
  );
  const keptVelocities = thin(velocities, most);
  return zones.flatMap((zone): Zone[] => {
    const fade = layerFadeOf(zone);
    if (fade && fades.length > kept.length) {
      const at = kept.indexOf(fade.inLow);
      return at < 0
        ? []
        : [{ ...zone, fades: zone.fades.map((f) => (f === fade ? layerWindow(f, at, kept.length) : f)) }];
    }
    if (zone.role === 'attack' && !fade && velocities.length > keptVelocities.length) {
      const at = keptVelocities.indexOf(zone.velocityLow);
      if (at < 0) return [];
      const count = keptVelocities.length;
      return [
        {
          ...zone,
          velocityLow: Math.round((127 * at) / count) + 1,
          velocityHigh: Math.round((127 * (at + 1)) / count),
        },
      ];
    }
    return [zone];
  });
}

function distinct(values: readonly number[], counted: readonly boolean[]): number[] {
  return [...new Set(values.filter((_, i) => counted[i]))].sort((a, b) => a - b);
}

function thin(list: readonly number[], most: number): number[] {
  if (list.length <= most) return [...list];
  return most === 1 ? [list[list.length >> 1]] : [list[0], ...list.slice(list.length - most + 1)];
}

/** Window of one of `count` layers over a source: neighbours share a slope two thirds of a step wide. */
export function layerWindow(fade: Pick<Fade, 'controller'>, at: number, count: number): Fade {
  const middle = (step: number) => (127 * step) / count;
  const half = 127 / count / 3;
  return {
    controller: fade.controller,
    inLow: at === 0 ? 0 : Math.round(middle(at) - half),
    inHigh: at === 0 ? 0 : Math.round(middle(at) + half),
    outLow: at === count - 1 ? 127 : Math.round(middle(at + 1) - half),
    outHigh: at === count - 1 ? 127 : Math.round(middle(at + 1) + half),
  };
}

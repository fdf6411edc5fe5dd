import { CONTROLLER } from '../music/index.ts';
import type { Articulation } from './instrument.ts';
import { SOURCE } from './zone.ts';

/** How the vibrato of a technique is ridden: by crossing recordings, by bending them, or not at all: it stays as recorded. */
export const VIBRATO_KINDS = ['recorded', 'bent', 'fixed'] as const;
export type VibratoKind = (typeof VIBRATO_KINDS)[number];

/**
 * How a technique's vibrato can be ridden. Recordings cross by the vibrato controller; bending is a slow wave of pitch whose depth a
 * controller opens. Whether what stays as recorded has vibrato is not told: it cannot be ridden either way.
 */
export function vibratoOf({ zones }: Pick<Articulation, 'zones'>): VibratoKind {
  const attacks = zones.filter(({ role }) => role === 'attack');
  if (attacks.some(({ fades }) => fades.some(({ controller }) => controller === CONTROLLER.vibrato)))
    return 'recorded';
  const isRidden = attacks.some(({ lfos = [] }) =>
    lfos.some(
      ({ target, controller, controllerDepth = 0 }) =>
        target === 'tuneCents' &&
        controller !== undefined &&
        controller < SOURCE.velocity &&
        controllerDepth !== 0,
    ),
  );
  return isRidden ? 'bent' : 'fixed';
}

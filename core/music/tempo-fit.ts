import { TICKS_PER_QUARTER } from '../units/index.ts';
import type { TempoChange, TempoMap } from './tempo-map.ts';

/** Two places of a cue between which the tempo is fitted, and when the second is to come. */
export interface TempoFit {
  fromTick: number;
  toTick: number;
  /** Time of the cue at which `toTick` is to fall. */
  seconds: number;
}

/** The even tempo, in quarter notes a minute, by which a place comes when it should; undefined when it would have to come before. */
export function fittedBpm(tempo: TempoMap, { fromTick, toTick, seconds }: TempoFit): number | undefined {
  const time = seconds - tempo.toSeconds(fromTick);
  if (!(time > 0) || toTick <= fromTick) return undefined;
  return (60 * (toTick - fromTick)) / (TICKS_PER_QUARTER * time);
}

/**
 * Where the tempo is fitted from: the last change of tempo or marker before a place, so that what was fitted before stays; else the
 * beginning.
 */
export function fitFrom(
  tempos: readonly TempoChange[],
  markers: readonly { tick: number }[],
  toTick: number,
): number {
  return [...tempos, ...markers].reduce((last, { tick }) => (tick < toTick && tick > last ? tick : last), 0);
}

import type { Articulation } from '../catalogue/index.ts';
import type { MoveFigure } from './figures.ts';

/** Landings of recorded moves by interval, median over the keys, from what was measured of each when it was taken in. */
export function moveFigures(articulation: Articulation, position: string | undefined): MoveFigure[] {
  const byInterval = new Map<number, number[]>();
  for (const zone of articulation.zones) {
    const seconds = position === undefined ? undefined : zone.samples[position]?.leadSeconds;
    if (zone.role !== 'transition' || zone.interval === undefined || !seconds) continue;
    const list = byInterval.get(zone.interval);
    if (list) list.push(seconds);
    else byInterval.set(zone.interval, [seconds]);
  }
  return [...byInterval]
    .sort(([a], [b]) => a - b)
    .map(([interval, list]) => ({
      interval,
      seconds: Math.round(list.sort((a, b) => a - b)[list.length >> 1] * 10_000) / 10_000,
      count: list.length,
    }));
}

import type { ArticulationId } from '../music/index.ts';
import { freeKey, keysPlayed, type KeyRange } from './keys.ts';

/** Keyswitches to begin with: the maker's own keys where they are free, otherwise upwards from C1 outside the range. */
export function firstKeys(
  articulations: readonly { readonly id: ArticulationId; readonly suggestedKey?: number | null }[],
  ranges: readonly KeyRange[],
): { articulation: ArticulationId; key: number | undefined }[] {
  const played = keysPlayed(ranges);
  const used = new Set<number>();
  return articulations.map(({ id, suggestedKey }) => {
    const key = freeKey(suggestedKey ?? FIRST_KEY, played, used);
    if (key !== undefined) used.add(key);
    return { articulation: id, key };
  });
}

/** C1. */
const FIRST_KEY = 24;

/** The articulation a part begins with: long where there is one, else the first that is not connected. */
export function firstArticulation(ids: readonly ArticulationId[]): ArticulationId {
  if (ids.includes('long')) return 'long';
  return ids.find((id) => id !== 'connected') ?? ids[0] ?? 'long';
}

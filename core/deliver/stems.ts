import type { EngineEvent } from '../engine/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import type { BounceOrder } from './order.ts';

/** Tracks that are written into a file together. */
export interface StemGroup {
  name: string;
  /** Places in the order. */
  tracks: number[];
}

/**
 * Divides an order by the stems its positions go to: a track whose positions go to several becomes several, which add up to it.
 * @param stemOf name of the stem to which a position of a track goes
 * @returns the order so divided, and the stems in the order in which they first appear
 */
export function divideByStem(
  order: BounceOrder,
  stemOf: (track: number, positionId: string) => string,
): { order: BounceOrder; groups: StemGroup[] } {
  const tracks: BounceOrder['tracks'] = [];
  const parts: number[][] = [];
  const groups = new Map<string, number[]>();
  order.tracks.forEach((track, index) => {
    const ids = Object.keys(track.mix.positions);
    const names = [...new Set(ids.map((id) => stemOf(index, id)))];
    const own: number[] = [];
    for (const name of names) {
      const mix = names.length === 1 ? track.mix : withOnly(track.mix, (id) => stemOf(index, id) === name);
      own.push(tracks.push({ ...track, mix }) - 1);
      groups.set(name, [...(groups.get(name) ?? []), tracks.length - 1]);
    }
    // Without positions it is silent; it keeps its place.
    if (own.length === 0) own.push(tracks.push(track) - 1);
    parts.push(own);
  });
  const events = order.events.flatMap((event): EngineEvent[] =>
    (parts[event.track] ?? []).map((track) => ({ ...event, track })),
  );
  return {
    order: { ...order, tracks, events },
    groups: [...groups].map(([name, own]) => ({ name, tracks: own })),
  };
}

function withOnly(mix: TrackMix, isHere: (id: string) => boolean): TrackMix {
  return {
    ...mix,
    positions: Object.fromEntries(
      Object.entries(mix.positions).map(([id, one]) => [id, isHere(id) ? one : { ...one, elsewhere: true }]),
    ),
  };
}

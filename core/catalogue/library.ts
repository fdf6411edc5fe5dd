import type { Articulation } from './instrument.ts';

/** How much room a library's recordings carry. */
export const ROOM_SOUNDS = ['dry', 'medium', 'wet'] as const;
export type RoomSound = (typeof ROOM_SOUNDS)[number];

/** Facts people choose a library by. */
export interface LibraryFacts {
  /** Players per section, as makers write it (10-8-6-6-4). */
  players: string;
  roomSound: RoomSound;
  edition: string;
  /** In marks, the demo's invented currency; null when it is not known or was not bought. */
  price: number | null;
  text: string;
}

export const NO_FACTS: LibraryFacts = {
  players: '',
  roomSound: 'medium',
  edition: '',
  price: null,
  text: '',
};

/**
 * Length a recorded swell, crescendo or roll is marked with in its name (“swell 1.5 s”), in seconds; undefined when none
 * is. It is the time from the start of the recording to its arrival.
 */
export function markedSeconds({ name }: Pick<Articulation, 'name'>): number | undefined {
  const match = /(?:^|\s)(\d+(?:[.,]\d+)?)\s?(?:s|sec|seconds?)$/i.exec(name);
  return match ? Number(match[1].replace(',', '.')) : undefined;
}

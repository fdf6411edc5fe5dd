import { powerEvery5ms } from '../measure/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Apart } from './apart.ts';
import { LEAST_CERTAINTY, type Arrival } from './arrival.ts';
import type { LetGo } from './forms.ts';

/** A note is over where it last stands so near to its height. */
const OVER = 0.4;
/** Bow and breath take no longer than this to stop once a hand has let go. */
const STOPS_SECONDS = 0.35;
const HOP_SECONDS = 0.005;
/** A note has begun where it has this share of its height. */
const RISEN = 0.03;

/**
 * When a note has really ended: players take a moment to stop. Told by the position that hears them first, where the room is least.
 * @param stop frame at which a hand lets go; @param arrivals of the positions
 * @returns undefined when nothing is heard of it
 */
export function letGoOf(
  apart: Apart,
  onset: number,
  stop: number,
  arrivals: readonly Arrival[],
): LetGo | undefined {
  const late = latenessOf(apart, onset, arrivals);
  const nearest = [...apart].sort((a, b) => (late[a.id] ?? 0) - (late[b.id] ?? 0))[0];
  if (!nearest) return undefined;
  const sides = [nearest.left, nearest.right];
  const before = powerEvery5ms(sides, ENGINE_RATE, Math.max(onset, stop - 0.3 * ENGINE_RATE), stop);
  const height = before.reduce((sum, value) => sum + value, 0) / Math.max(1, before.length);
  if (!(height > 0)) return undefined;
  const after = powerEvery5ms(sides, ENGINE_RATE, stop, stop + STOPS_SECONDS * ENGINE_RATE);
  let last = after.length - 1;
  while (last >= 0 && after[last] < height * OVER) last--;
  return { apart, stop, letGo: stop + Math.round((last + 1) * HOP_SECONDS * ENGINE_RATE), late };
}

/** How much later positions hear a note, in frames: by their arrival where that is sure, else by when the note rises in them. */
function latenessOf(apart: Apart, onset: number, arrivals: readonly Arrival[]): Record<string, number> {
  const rises = apart.map(({ left, right }) => {
    const powers = powerEvery5ms([left, right], ENGINE_RATE, onset, left.length);
    const height = powers.reduce((most, value) => Math.max(most, value), 0);
    return (
      Math.max(
        0,
        powers.findIndex((value) => value > height * RISEN),
      ) *
      HOP_SECONDS *
      ENGINE_RATE
    );
  });
  const first = Math.min(...rises);
  return Object.fromEntries(
    apart.map(({ id }, i) => {
      const arrival = arrivals.find((one) => one.id === id);
      const isSure = arrival !== undefined && arrival.certainty >= LEAST_CERTAINTY;
      return [id, isSure ? arrival.delaySeconds * ENGINE_RATE : rises[i] - first];
    }),
  );
}

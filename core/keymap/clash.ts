import { articulationTerm, instrumentRange, type Instrument } from '../catalogue/index.ts';
import { pitchName, type MiddleC } from '../music/index.ts';
import type { Trigger } from './trigger.ts';

/** A reason why a keymap cannot be played as it stands, in a sentence, with a key that would do. */
export interface Clash {
  triggerId: string;
  sentence: string;
  /** Nearest key that clashes with nothing. */
  betterKey?: number;
}

/**
 * Clashes of a keymap: a key outside 0…127, inside the playable range, or used twice.
 * Of two triggers on one key the later in the list is the one reported.
 */
export function findClashes(
  triggers: readonly Trigger[],
  instrument: Instrument,
  middleC: MiddleC = 4,
): Clash[] {
  const range = instrumentRange(instrument);
  const owner = new Map<number, Trigger>();
  const clashes: Clash[] = [];
  for (const trigger of triggers) {
    const name = articulationTerm(trigger.articulation).name;
    const key = pitchName(trigger.key, middleC);
    const other = owner.get(trigger.key);
    let sentence: string | undefined;
    if (!Number.isInteger(trigger.key) || trigger.key < 0 || trigger.key > 127)
      sentence = `The trigger of ${name} lies outside the 128 keys that MIDI knows.`;
    else if (range && trigger.key >= range.low && trigger.key <= range.high)
      sentence = `${key} is a note that ${instrument.name} play (${pitchName(range.low, middleC)} to ${pitchName(range.high, middleC)}); as a trigger for ${name} it could no longer sound.`;
    else if (other) sentence = `${key} already selects ${articulationTerm(other.articulation).name}.`;
    if (sentence)
      clashes.push({
        triggerId: trigger.id,
        sentence,
        betterKey: freeKey(triggers, instrument, trigger.key),
      });
    else owner.set(trigger.key, trigger);
  }
  return clashes;
}

/** Nearest key to `near` outside the playable range that no trigger uses; below is preferred to above. */
export function freeKey(
  triggers: readonly Trigger[],
  instrument: Instrument,
  near: number,
): number | undefined {
  const range = instrumentRange(instrument);
  const used = new Set(triggers.map((trigger) => trigger.key));
  const free = (key: number) =>
    key >= 0 && key <= 127 && !used.has(key) && !(range && key >= range.low && key <= range.high);
  for (let distance = 0; distance < 128; distance++) {
    if (free(near - distance)) return near - distance;
    if (free(near + distance)) return near + distance;
  }
  return undefined;
}

/** A keymap to begin with: the maker's own keys where they are free, otherwise upwards from C1 below the range. */
export function initialKeymap(instrument: Instrument): Omit<Trigger, 'id'>[] {
  const taken: Trigger[] = [];
  for (const articulation of instrument.articulations) {
    const key = freeKey(taken, instrument, articulation.suggestedKey ?? 24);
    if (key !== undefined)
      taken.push({ id: articulation.id, articulation: articulation.id, key, hold: 'latching' });
  }
  return taken.map(({ articulation, key, hold }) => ({ articulation, key, hold }));
}

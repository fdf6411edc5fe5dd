import type { Instrument } from '../catalogue/index.ts';
import { plainSource, Voicing, type Entry, type Keymap, type Source, type Trigger } from '../keymap/index.ts';

/** A trigger with what matters in a test. */
export const trigger = (fields: Partial<Trigger> & Pick<Trigger, 'id'>): Trigger => ({
  kind: 'key',
  set: 0,
  number: 0,
  low: 0,
  high: 127,
  hold: 'latching',
  ...fields,
});

/** A source with what matters in a test. */
export const source = (articulation: string, fields: Partial<Source> = {}): Source => ({
  ...plainSource(articulation),
  id: `source ${articulation}`,
  ...fields,
});

/** An entry whose triggers, unless given whole, are one keyswitch. */
export const entry = (
  articulation: string,
  triggers: number | readonly Trigger[],
  more: Partial<Entry> = {},
): Entry => ({
  id: `entry ${articulation}`,
  articulation,
  triggers:
    typeof triggers === 'number' ? [trigger({ id: `trigger ${articulation}`, number: triggers })] : triggers,
  sources: [],
  ...more,
});

/** A keymap of keyswitches by articulation, or of whole entries; the first one holds from the beginning. */
export function keymapOf(entries: Readonly<Record<string, number>> | readonly Entry[]): Keymap {
  const list: readonly Entry[] = Array.isArray(entries)
    ? (entries as readonly Entry[])
    : Object.entries(entries as Readonly<Record<string, number>>).map(([id, key]) => entry(id, key));
  return { id: 'keymap', name: 'Keymap', initial: list[0]?.articulation ?? '', entries: list };
}

/** What a hand needs to play an instrument. */
export const setupOf = (
  instrument: Instrument,
  entries: Readonly<Record<string, number>> | readonly Entry[] = {},
) => {
  const keymap = keymapOf(entries);
  return { keymap, voicing: new Voicing(keymap, Voicing.plain(instrument).repertoire) };
};

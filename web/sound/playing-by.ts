import { instrumentRange, type Instrument } from '#core/catalogue/index.ts';
import type { Keymap, Voicing } from '#core/keymap/index.ts';
import type { LiveSetup } from '#core/performance/index.ts';
import type { Item } from '../state/documents.ts';
import { keymapOfInstrument, keymapOfTrack, responsesOf, summaryOf, voicingOf } from '../state/keymaps.ts';
import type { Records } from '../state/tables.ts';

const NO_KEYMAP: Keymap = { id: '', name: '', initial: '', entries: [] };
type Playable = Parameters<typeof voicingOf>[2];

/** What a track is played by: its keymap, or that of an instrument tried in its place. */
export function setupOfTrack(
  records: Records,
  track: Pick<Item<'track'>, 'keymapId'>,
  instrument: Playable,
  tried: boolean,
): LiveSetup {
  const by = tried ? { keymapId: null } : track;
  const keymap = keymapOfTrack(records, by, instrument.id)?.keymap;
  return setup(records, keymap, instrument);
}

const setup = (records: Records, keymap: Keymap | undefined, instrument: Playable) => ({
  keymap: keymap ?? NO_KEYMAP,
  voicing: voicingOf(records, keymap, instrument),
  responses: responsesOf(keymap),
});

/** Keys on which an articulation sounds over an instrument, with whatever stands in for it; all of its keys when nothing does. */
export function rangeOfWord(
  instrument: Instrument,
  voicing: Voicing,
  articulation: string,
): { low: number; high: number } | undefined {
  const own = voicing.indicesOf(articulation).map((index) => instrument.articulations[index]);
  return instrumentRange({ articulations: own }) ?? instrumentRange(instrument);
}

/** What a sound outside any track is played by: the instrument as it is, or its keymap of the house. */
export function setupOfTaken(records: Records, instrument: Playable, byKeymap: boolean): LiveSetup {
  const summary = byKeymap ? summaryOf(instrument.id) : undefined;
  const keymap = summary && keymapOfInstrument(records, summary).keymap;
  return setup(records, keymap, instrument);
}

import { useParams } from 'react-router';
import type { InstrumentSummary } from '#api/index.ts';
import type { AssignRules, Clash, ClashContext, KeyRange } from '#core/keymap/index.ts';
import { Agreement, findClashes } from '#core/keymap/index.ts';
import type { ArticulationId, MiddleC } from '#core/music/index.ts';
import { itemOf, listOf, useDocuments, useItem, useList, type Item } from '../../state/documents.ts';
import {
  keymapOfInstrument,
  keymapOfTrack,
  keymapsOf,
  rangeOfSummary,
  summaryOf,
  vocabularyOf,
  voicingOf,
  type HouseKeymap,
} from '../../state/keymaps.ts';
import { useLibraries } from '../../state/libraries.ts';
import type { Records } from '../../state/tables.ts';

/** The keymap on the view's main surface, with what it is looked at for. */
export interface LookedAt {
  house: HouseKeymap;
  /** The instrument it is seen over. */
  instrument: InstrumentSummary;
  /** The track, when it is seen as what a track is played by. */
  track: Item<'track'> | undefined;
}

/** What the keyboard and the table of a keymap show it with. */
export interface KeymapShown extends Pick<LookedAt, 'house' | 'instrument'> {
  clashes: readonly Clash[];
  middleC: MiddleC;
  mayEdit: boolean;
}

/** Hook: what the address asks for: `/keymaps/track/…`, `/keymaps/instrument/…`, or the first track. */
export function useLookedAt(): LookedAt | undefined {
  const { kind, id } = useParams();
  const libraries = useLibraries((state) => state.libraries);
  const first = useList('track').find((track) => track.instrumentId !== null)?.id;
  const wanted = useItem('track', kind === 'instrument' ? undefined : (id ?? first));
  const instrument = libraries ? summaryOf(kind === 'instrument' ? id : wanted?.instrumentId) : undefined;
  const house = useDocuments((state) => {
    if (!instrument) return undefined;
    return wanted
      ? keymapOfTrack(state.records, wanted, instrument.id)
      : keymapOfInstrument(state.records, instrument);
  });
  return house && instrument ? { house, instrument, track: wanted } : undefined;
}

/** Playing ranges of all instruments a keymap is made for, and of the one it is seen over. */
export function rangesFor(house: HouseKeymap, instrument?: InstrumentSummary): KeyRange[] {
  const ids = new Set([...house.instrumentIds, ...(instrument ? [instrument.id] : [])]);
  return [...ids].flatMap((id) => {
    const summary = summaryOf(id);
    return (summary && rangeOfSummary(summary)) ?? [];
  });
}

/** A keymap in use: which one, what plays by it, and under what name people know it. */
export interface InUse {
  house: HouseKeymap;
  instrument: InstrumentSummary;
  name: string;
  trackId: string | undefined;
}

/** Keymaps that tracks of the open template are played by, each once with its first track, in the template's order. */
export function keymapsInUse(records: Records): InUse[] {
  const seen = new Set<string>();
  return listOf(records, 'track').flatMap((track): InUse[] => {
    const instrument = summaryOf(track.instrumentId);
    const house = instrument && keymapOfTrack(records, track, instrument.id);
    if (!house || seen.has(`${house.keymap.id} ${instrument.id}`)) return [];
    seen.add(`${house.keymap.id} ${instrument.id}`);
    return [{ house, instrument, name: track.name, trackId: track.id }];
  });
}

const agreements = new WeakMap<Records, Agreement>();

/** Where the keymaps of the house and of the open template have each articulation; worked out once for a state. */
function agreementOf(records: Records): Agreement {
  let known = agreements.get(records);
  if (!known) {
    const all = new Map<string, HouseKeymap>();
    for (const one of keymapsOf(records)) all.set(one.keymap.id, one);
    for (const one of keymapsInUse(records)) all.set(one.house.keymap.id, one.house);
    agreements.set(records, (known = new Agreement(all.values())));
  }
  return known;
}

/** What is needed to look a keymap over. */
export function clashContext(
  records: Records,
  house: HouseKeymap,
  instrument?: InstrumentSummary,
): ClashContext {
  return {
    ranges: rangesFor(house, instrument),
    elsewhere: agreementOf(records).elsewhere(house),
    vocabulary: vocabularyOf(records),
    middleC: listOf(records, 'template')[0]?.middleC ?? 4,
    ...(instrument
      ? {
          played: {
            name: instrument.name,
            repertoire: voicingOf(records, house.keymap, instrument).repertoire,
          },
        }
      : {}),
  };
}

const mending = new WeakMap<object, { parts: readonly unknown[]; count: number }>();

/** How much of a keymap is to be mended; what only differs from other sections does not count. Remembered until it changes. */
export function toMend(records: Records, house: HouseKeymap, instrument: InstrumentSummary): number {
  const parts = [instrument, vocabularyOf(records)];
  const known = mending.get(house);
  if (known?.parts.every((part, i) => part === parts[i])) return known.count;
  const count = findClashes(house.keymap, {
    ranges: rangesFor(house, instrument),
    vocabulary: vocabularyOf(records),
  }).length;
  mending.set(house, { parts, count });
  return count;
}

/** Hook: everything that does not go together in a keymap. */
export function useClashes({ house, instrument }: LookedAt): Clash[] {
  const records = useDocuments((state) => state.records);
  return findClashes(house.keymap, clashContext(records, house, instrument));
}

/** The house's rules for giving keys. */
export function rulesOf(records: Records, houseId: string | undefined): AssignRules {
  const house = itemOf(records, 'house', houseId);
  return {
    side: house?.ruleSide ?? 'below',
    guardKeys: house?.ruleGuardKeys ?? 2,
    sameKeys: house?.ruleSameKeys ?? true,
    nearest: house?.ruleNearest ?? 'used',
  };
}

/** How often each technique is marked in the open cue; unmarked notes count for their track's own. */
export function usesInCue(records: Records): Map<ArticulationId, number> {
  const uses = new Map<ArticulationId, number>();
  const count = (id: ArticulationId, times: number) => uses.set(id, (uses.get(id) ?? 0) + times);
  for (const mark of listOf(records, 'mark')) count(mark.articulation, 1);
  for (const track of listOf(records, 'track')) count(track.articulation, 1);
  return uses;
}

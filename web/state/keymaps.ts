import { naturalId, type InstrumentSummary, type RecordFields } from '#api/index.ts';
import { Vocabulary } from '#core/catalogue/index.ts';
import {
  findAmbiguities,
  PLAIN_TOUCH,
  Responses,
  firstArticulation,
  firstKeys,
  keymapOfRows,
  plainTrigger,
  Repertoire,
  Voicing,
  type Clash,
  type EntryRow,
  type Keymap,
  type KeymapRow,
  type KeyRange,
  type SourceRow,
  type Translation,
  type TriggerRow,
} from '#core/keymap/index.ts';
import type { AnyRecord, Edit } from './diff.ts';
import { edit, itemOf, listOf, ownedBy, useDocuments, type Item } from './documents.ts';
import { useLibraries } from './libraries.ts';
import type { Records } from './tables.ts';

/** A keymap with where it comes from. */
export interface HouseKeymap {
  readonly keymap: Keymap;
  /** Instruments it is made for. */
  readonly instrumentIds: readonly string[];
  /** Keymap it departs from, and the track that keeps it as its own; both empty for one of the house. */
  readonly variantOf: string;
  readonly trackId: string;
  /** False for the keys an instrument's maker suggests, until somebody changes them: then it becomes the house's. */
  readonly kept: boolean;
}

const vocabularies = new WeakMap<object, Vocabulary>();
const models = new Map<string, { parts: readonly unknown[]; house: HouseKeymap }>();
const makers = new WeakMap<object, HouseKeymap>();
const bars = /\|/;
const split = (text: string) => text.split(bars).filter(Boolean);

/** The house vocabulary: the core list with the studio's own words. The same object as long as they do not change. */
export function vocabularyOf(records: Records): Vocabulary {
  const terms = listOf(records, 'term');
  let known = vocabularies.get(terms);
  if (!known)
    vocabularies.set(
      terms,
      (known = new Vocabulary(
        terms.map(({ articulation, group, tab, written, notated, hints, standIns }) => ({
          id: articulation,
          group,
          tab,
          written,
          notated,
          hints: hints.split(',').filter(Boolean),
          standIns: split(standIns),
        })),
      )),
    );
  return known;
}

/** Hook: the house vocabulary. */
export function useVocabulary(): Vocabulary {
  return useDocuments((state) => vocabularyOf(state.records));
}

/** A keymap of the house by id; the same object as long as nothing of it changes. */
export function keymapById(records: Records, id: string): HouseKeymap | undefined {
  const row = itemOf(records, 'keymap', id);
  if (!row) return undefined;
  const entries = ownedBy(records, 'entry', id);
  const parts = [
    row,
    entries,
    ownedBy(records, 'ride', id),
    ...entries.flatMap((entry) => [
      ownedBy(records, 'source', entry.id),
      ownedBy(records, 'trigger', entry.id),
    ]),
  ];
  const known = models.get(id);
  if (known?.parts.length === parts.length && known.parts.every((part, i) => part === parts[i]))
    return known.house;
  const house: HouseKeymap = {
    keymap: keymapOfRows(
      row,
      entries,
      (entryId) => ownedBy(records, 'source', entryId),
      (entryId) => ownedBy(records, 'trigger', entryId),
      ownedBy(records, 'ride', id),
    ),
    instrumentIds: split(row.instruments),
    variantOf: row.variantOf,
    trackId: row.trackId,
    kept: true,
  };
  models.set(id, { parts, house });
  return house;
}

/** Keymaps of the house and variants of tracks, by name. */
export function keymapsOf(records: Records): HouseKeymap[] {
  return listOf(records, 'keymap')
    .flatMap(({ id }) => keymapById(records, id) ?? [])
    .sort((a, b) => a.keymap.name.localeCompare(b.keymap.name));
}

/** Playing range of an instrument, over all its articulations. */
export function rangeOfSummary({ name, articulations }: InstrumentSummary): KeyRange | undefined {
  const played = articulations.filter(({ high }) => high > 0);
  if (played.length === 0) return undefined;
  return {
    name,
    low: Math.min(...played.map(({ low }) => low)),
    high: Math.max(...played.map(({ high }) => high)),
  };
}

/** The keymap an instrument has in the house: one made for it, else the keys its maker suggests. */
export function keymapOfInstrument(records: Records, instrument: InstrumentSummary): HouseKeymap {
  const row = listOf(records, 'keymap').find(
    ({ instruments, variantOf }) => variantOf === '' && instruments.includes(instrument.id),
  );
  return (row && keymapById(records, row.id)) ?? makersKeymap(instrument);
}

function makersKeymap(instrument: InstrumentSummary): HouseKeymap {
  let known = makers.get(instrument);
  if (!known) {
    const range = rangeOfSummary(instrument);
    const keymapId = naturalId('keymap', instrument.id);
    const keymap: Keymap = {
      id: keymapId,
      name: instrument.name,
      initial: firstArticulation(instrument.articulations.map(({ id }) => id)),
      entries: firstKeys(instrument.articulations, range ? [range] : []).map(({ articulation, key }) => {
        const id = naturalId('entry', keymapId, articulation);
        const triggers =
          key === undefined ? [] : [{ id: naturalId('trigger', id), ...plainTrigger({ number: key }) }];
        return { id, articulation, triggers, sources: [] };
      }),
    };
    known = { keymap, instrumentIds: [instrument.id], variantOf: '', trackId: '', kept: false };
    makers.set(instrument, known);
  }
  return known;
}

/** An owned instrument by id. */
export function summaryOf(instrumentId: string | null | undefined): InstrumentSummary | undefined {
  for (const library of useLibraries.getState().libraries ?? [])
    for (const instrument of library.instruments) if (instrument.id === instrumentId) return instrument;
  return undefined;
}

/** The keymap a track is played by: its own choice, else its instrument's; undefined while nothing is known of it. */
export function keymapOfTrack(
  records: Records,
  track: Pick<Item<'track'>, 'keymapId'>,
  instrumentId: string | null,
): HouseKeymap | undefined {
  const own = track.keymapId === null ? undefined : keymapById(records, track.keymapId);
  if (own) return own;
  const instrument = summaryOf(instrumentId);
  return instrument && keymapOfInstrument(records, instrument);
}

/** What an instrument's articulations are in the house's words, where the house says otherwise than the import. */
export function translationsOf(records: Records, instrumentId: string): readonly Translation[] {
  const list = listOf(records, 'translation');
  let byInstrument = translations.get(list);
  if (!byInstrument) {
    byInstrument = new Map();
    for (const one of list)
      byInstrument.set(one.instrumentId, [...(byInstrument.get(one.instrumentId) ?? []), one]);
    translations.set(list, byInstrument);
  }
  return byInstrument.get(instrumentId) ?? NO_TRANSLATIONS;
}

const NO_TRANSLATIONS: readonly Translation[] = [];
const translations = new WeakMap<object, Map<string, Translation[]>>();
const voicings = new WeakMap<object, Map<string, { parts: readonly unknown[]; voicing: Voicing }>>();
const signs = new WeakMap<Keymap, string>();

/** What of a keymap decides what sounds: triggers and order do not. */
function soundSign(keymap: Keymap | undefined): string {
  if (!keymap) return '';
  let known = signs.get(keymap);
  if (known === undefined) {
    const changed = keymap.entries.filter(({ sources }) => sources.length > 0);
    const entries = changed.map(({ articulation, sources, morph }) => [articulation, morph, sources]);
    signs.set(keymap, (known = JSON.stringify([entries, keymap.touch?.hardAttackFrom ?? 0])));
  }
  return known;
}

/** What of an instrument sounds by a keymap; the same object as long as nothing that decides it changes. */
export function voicingOf(
  records: Records,
  keymap: Keymap | undefined,
  instrument: { readonly id: string; readonly articulations: readonly { readonly id: string }[] },
): Voicing {
  const parts = [translationsOf(records, instrument.id), vocabularyOf(records)] as const;
  let byKeymap = voicings.get(instrument);
  if (!byKeymap) voicings.set(instrument, (byKeymap = new Map()));
  const sign = soundSign(keymap);
  let known = byKeymap.get(sign);
  if (!known?.parts.every((part, i) => part === parts[i])) {
    const voicing = new Voicing(keymap, new Repertoire(instrument.articulations, ...parts));
    // Keymaps of before an edit are not kept for ever.
    if (byKeymap.size > 16) byKeymap.clear();
    byKeymap.set(sign, (known = { parts, voicing }));
  }
  return known.voicing;
}

const responses = new Map<string, Responses>();
/** Most that is remembered under what it says; beyond, all is forgotten and made again. */
const MOST_KEPT = 200;

/** How an instrument answers to controllers by a keymap; the same object as long as that part of it does not change. */
export function responsesOf(keymap: Keymap | undefined): Responses {
  const sign = JSON.stringify([keymap?.rides ?? [], keymap?.touch ?? PLAIN_TOUCH]);
  let known = responses.get(sign);
  if (!known) {
    if (responses.size > MOST_KEPT) responses.clear();
    responses.set(sign, (known = new Responses(keymap?.rides, keymap?.touch)));
  }
  return known;
}

/** What is edited of keymaps; everything goes by ids, so that it can be undone and merged. */
type KeymapKind = 'keymap' | 'entry' | 'source' | 'trigger' | 'ride';

/** Edits that keep a keymap which so far only its maker suggests; none for one that is kept. */
export function keepingEdits({ keymap, instrumentIds, kept }: HouseKeymap): Edit[] {
  return kept
    ? []
    : copyEdits(keymap, { name: keymap.name, instruments: instrumentIds.join('|'), id: keymap.id });
}

/** Edits that add a keymap with everything in it. @param as what is its own; ids are new unless its own id stays */
export function copyEdits(
  keymap: Keymap,
  as: Partial<RecordFields<'keymap'>> & { id: string; name: string },
): Edit[] {
  const { id, ...fields } = as;
  const same = id === keymap.id;
  const head: RecordFields<'keymap'> = {
    instruments: '',
    initial: keymap.initial,
    variantOf: '',
    trackId: '',
    ...(keymap.touch ?? PLAIN_TOUCH),
    ...fields,
  };
  return [
    { kind: 'keymap', id, op: 'add', fields: { ...head } },
    ...(keymap.rides ?? []).map(({ id: rideId, ...ride }): Edit => ({
      kind: 'ride',
      id: same ? rideId : naturalId('ride', id, ride.parameter),
      op: 'add',
      fields: { ...ride, keymapId: id },
    })),
    ...keymap.entries.flatMap((entry, place): Edit[] => {
      const entryId = same ? entry.id : naturalId('entry', id, entry.articulation);
      const { articulation, morph = -1 } = entry;
      return [
        { kind: 'entry', id: entryId, op: 'add', fields: { keymapId: id, articulation, place, morph } },
        ...entry.sources.map(({ id: sourceId, ...source }, i): Edit => ({
          kind: 'source',
          id: same ? sourceId : crypto.randomUUID(),
          op: 'add',
          fields: { ...source, entryId, place: i },
        })),
        ...entry.triggers.map(({ id: triggerId, set, ...trigger }): Edit => ({
          kind: 'trigger',
          id: same ? triggerId : crypto.randomUUID(),
          op: 'add',
          fields: { ...trigger, entryId, alternative: set },
        })),
      ];
    }),
  ];
}

/** Edits that remove a keymap with everything in it. */
export function removalEdits({ keymap }: HouseKeymap): Edit[] {
  return [
    ...keymap.entries.flatMap(entryRemovalEdits),
    ...(keymap.rides ?? []).map(({ id }): Edit => ({ kind: 'ride', id, op: 'remove' })),
    { kind: 'keymap', id: keymap.id, op: 'remove' },
  ];
}

/** Keymaps that a track keeps as its own. */
export function variantsOf(records: Records, trackId: string): HouseKeymap[] {
  return listOf(records, 'keymap').flatMap((row) =>
    row.trackId === trackId ? (keymapById(records, row.id) ?? []) : [],
  );
}

/** Edits that give one track a copy of the keymap that another one keeps as its own; undefined when it keeps none. */
export function variantEdits(
  records: Records,
  keymapId: string | null,
  trackId: string,
  forTrackId: string,
): { id: string; edits: Edit[] } | undefined {
  const own = keymapId === null ? undefined : keymapById(records, keymapId);
  if (own?.trackId !== trackId) return undefined;
  const id = crypto.randomUUID();
  const { keymap, instrumentIds, variantOf } = own;
  const as = { id, name: keymap.name, instruments: instrumentIds.join('|'), variantOf, trackId: forTrackId };
  return { id, edits: copyEdits(keymap, as) };
}

/** Edits that remove an entry with what belongs to it. */
export function entryRemovalEdits(entry: Keymap['entries'][number]): Edit[] {
  return [
    ...entry.sources.map(({ id }): Edit => ({ kind: 'source', id, op: 'remove' })),
    ...entry.triggers.map(({ id }): Edit => ({ kind: 'trigger', id, op: 'remove' })),
    { kind: 'entry', id: entry.id, op: 'remove' },
  ];
}

/**
 * Edits a keymap, unless it would then not say for every note which one thing sounds.
 * @returns what stands against it; empty when it was done
 */
export function editKeymap(
  label: string,
  house: HouseKeymap,
  edits: readonly Edit[],
  merge?: string,
): Clash[] {
  const all = [...keepingEdits(house), ...edits];
  const clashes = findAmbiguities(keymapAfter(house.keymap, edits));
  const before = new Set(findAmbiguities(house.keymap).map(({ sentence }) => sentence));
  const fresh = clashes.filter(({ sentence }) => !before.has(sentence));
  if (fresh.length === 0) edit(label, all, merge);
  return fresh;
}

/** A keymap as it would stand after edits of its records. */
export function keymapAfter(keymap: Keymap, edits: readonly Edit[]): Keymap {
  const rows: Record<KeymapKind, Map<string, AnyRecord>> = {
    keymap: new Map(),
    entry: new Map(),
    source: new Map(),
    trigger: new Map(),
    ride: new Map(),
  };
  for (const one of copyEdits(keymap, { id: keymap.id, name: keymap.name }))
    if (one.op === 'add') rows[one.kind as KeymapKind].set(one.id, { ...one.fields, id: one.id });
  for (const one of edits) {
    const table = rows[one.kind as KeymapKind] as Map<string, AnyRecord> | undefined;
    if (!table) continue;
    if (one.op === 'remove') table.delete(one.id);
    else table.set(one.id, { ...table.get(one.id), ...one.fields, id: one.id });
  }
  const all = <T>(kind: KeymapKind) => [...rows[kind].values()] as unknown as T[];
  const sources = all<SourceRow>('source');
  const triggers = all<TriggerRow>('trigger');
  const [head] = all<KeymapRow>('keymap');
  return keymapOfRows(
    head,
    all<EntryRow>('entry'),
    (entryId) => sources.filter((one) => one.entryId === entryId),
    (entryId) => triggers.filter((one) => one.entryId === entryId),
  );
}

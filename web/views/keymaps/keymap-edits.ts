import { toast } from 'sonner';
import type { RepairChange, Source, Trigger } from '#core/keymap/index.ts';
import { plainSource, sourcesOf } from '#core/keymap/index.ts';
import type { Edit } from '../../state/diff.ts';
import { edit, type Item } from '../../state/documents.ts';
import {
  copyEdits,
  editKeymap,
  entryRemovalEdits,
  keepingEdits,
  removalEdits,
  type HouseKeymap,
} from '../../state/keymaps.ts';
import { refuse } from './keymaps-state.ts';

type Entry = HouseKeymap['keymap']['entries'][number];

/** Makes an edit of a keymap; what stands against it is shown with its repair, and nothing is changed. @returns whether it was made */
export function change(label: string, house: HouseKeymap, edits: readonly Edit[], merge?: string): boolean {
  const clashes = editKeymap(label, house, edits, merge);
  refuse(house.keymap.id, clashes, (repairs) => change(label, house, [...edits, ...repairs]));
  return clashes.length === 0;
}

/** Edits of a repair. */
export function repairEdits(house: HouseKeymap, changes: readonly RepairChange[]): Edit[] {
  return changes.map((one): Edit => {
    switch (one.what) {
      case 'trigger':
        return { kind: 'trigger', id: one.id, op: 'update', fields: { ...one.fields } };
      case 'new trigger':
        return addTrigger(one.entryId, one.fields);
      case 'source':
        return { kind: 'source', id: one.id, op: 'update', fields: { ...one.fields } };
      case 'initial':
        return { kind: 'keymap', id: house.keymap.id, op: 'update', fields: { initial: one.articulation } };
    }
  });
}

export function addTrigger(entryId: string, { set, ...fields }: Omit<Trigger, 'id'>): Edit {
  return {
    kind: 'trigger',
    id: crypto.randomUUID(),
    op: 'add',
    fields: { ...fields, entryId, alternative: set },
  };
}

export function setTrigger(id: string, fields: Partial<Omit<Trigger, 'id' | 'set'>>): Edit {
  return { kind: 'trigger', id, op: 'update', fields };
}

/** A number for a further set of triggers. */
export function freeSet(entry: Entry): number {
  const used = new Set(entry.triggers.map(({ set }) => set));
  return Array.from({ length: 16 }, (_, i) => i).find((set) => !used.has(set)) ?? 15;
}

/** Edits that give an entry a further source; one that so far sounds only itself gets both. */
export function addSource(entry: Entry, articulation: string, fields: Partial<Source> = {}): Edit[] {
  const add = ({ id: _id, ...source }: Source, place: number): Edit => ({
    kind: 'source',
    id: crypto.randomUUID(),
    op: 'add',
    fields: { ...source, entryId: entry.id, place },
  });
  const own = entry.sources.length === 0 ? sourcesOf(entry) : [];
  const place = entry.sources.length;
  return [
    ...own.map((source) => add(source, place)),
    add({ ...plainSource(articulation), ...fields }, place + own.length),
  ];
}

export function setSource(id: string, fields: Partial<Omit<Source, 'id'>>): Edit {
  return { kind: 'source', id, op: 'update', fields };
}

/** Edits that add an articulation to a keymap, after the others. @param later how many come before it in the same edit */
export function addEntry(house: HouseKeymap, articulation: string, later = 0): { id: string; edits: Edit[] } {
  const id = crypto.randomUUID();
  const { keymap } = house;
  const fields = { keymapId: keymap.id, articulation, place: keymap.entries.length + later, morph: -1 };
  return { id, edits: [{ kind: 'entry', id, op: 'add', fields }] };
}

export const removeEntry = entryRemovalEdits;

/** Edits that put an entry at another place of the order. */
export function orderEdits(house: HouseKeymap, from: number, to: number): Edit[] {
  const order = [...house.keymap.entries];
  const [moved] = order.splice(from, 1);
  order.splice(to, 0, moved);
  return order.map(({ id }, place): Edit => ({ kind: 'entry', id, op: 'update', fields: { place } }));
}

/** Gives a track a keymap of its own, which departs from the one it is played by now. */
export function keepVariant(house: HouseKeymap, track: Item<'track'>): void {
  const id = crypto.randomUUID();
  edit('Keep an own keymap for the track', [
    ...keepingEdits(house),
    ...copyEdits(house.keymap, {
      id,
      name: `${track.name}, own`.slice(0, 120),
      instruments: house.instrumentIds.join('|'),
      variantOf: house.keymap.id,
      trackId: track.id,
    }),
    { kind: 'track', id: track.id, op: 'update', fields: { keymapId: id } },
  ]);
}

/** Lets a track be played by the house's keymap again; its own one goes. */
export function dropVariant(house: HouseKeymap, track: Item<'track'>): void {
  edit('Play the track by the house’s keymap', [
    { kind: 'track', id: track.id, op: 'update', fields: { keymapId: null } },
    ...removalEdits(house),
  ]);
  toast('The track is played by the house’s keymap again. Undo brings its own one back.');
}

import { naturalId } from '#api/index.ts';
import { PLAIN_TOUCH, type Keymap, type KeymapDifference } from '#core/keymap/index.ts';
import type { Edit } from '../../state/diff.ts';
import type { HouseKeymap } from '../../state/keymaps.ts';
import { addEntry, addTrigger, removeEntry } from './keymap-edits.ts';

/** Edits that make articulations of a keymap what they are in another. */
export function takeOverEdits(
  house: HouseKeymap,
  from: Keymap,
  differences: readonly Pick<KeymapDifference, 'articulation'>[],
): Edit[] {
  return differences.flatMap(({ articulation }, i): Edit[] => {
    const theirs = from.entries.find((entry) => entry.articulation === articulation);
    const mine = house.keymap.entries.find((entry) => entry.articulation === articulation);
    if (!theirs) return [];
    const made = mine ? { id: mine.id, edits: [] } : addEntry(house, articulation, i);
    return [
      ...made.edits,
      ...(mine ? removeEntry(mine).filter(({ kind }) => kind !== 'entry') : []),
      { kind: 'entry', id: made.id, op: 'update', fields: { morph: theirs.morph ?? -1 } },
      ...theirs.triggers.map(({ id: _id, ...trigger }) => addTrigger(made.id, trigger)),
      ...theirs.sources.map(({ id: _id, ...source }, place): Edit => ({
        kind: 'source',
        id: crypto.randomUUID(),
        op: 'add',
        fields: { ...source, entryId: made.id, place },
      })),
    ];
  });
}

/** Edits that make controllers and velocity what they are in another keymap, as far as it says. */
export function controllerEdits(house: HouseKeymap, { rides, touch }: Keymap): Edit[] {
  const mine = new Map((house.keymap.rides ?? []).map((ride) => [ride.parameter, ride]));
  const { id: keymapId } = house.keymap;
  const same = (a: object, b: object) =>
    JSON.stringify({ ...a, id: '' }) === JSON.stringify({ ...b, id: '' });
  const changed = (rides ?? []).flatMap((ride): Edit[] => {
    const known = mine.get(ride.parameter);
    mine.delete(ride.parameter);
    if (known && same(known, ride)) return [];
    const { id: _id, ...fields } = ride;
    return known
      ? [{ kind: 'ride', id: known.id, op: 'update', fields }]
      : [
          {
            kind: 'ride',
            id: naturalId('ride', keymapId, ride.parameter),
            op: 'add',
            fields: { ...fields, keymapId },
          },
        ];
  });
  const gone = rides ? [...mine.values()].map(({ id }): Edit => ({ kind: 'ride', id, op: 'remove' })) : [];
  const touched = touch && !same(touch, house.keymap.touch ?? PLAIN_TOUCH);
  return [
    ...changed,
    ...gone,
    ...(touched
      ? [{ kind: 'keymap' as const, id: keymapId, op: 'update' as const, fields: { ...touch } }]
      : []),
  ];
}

/** Edits that put everything of one keymap in place of what another has. */
export function replaceEdits(target: HouseKeymap, from: Keymap): Edit[] {
  const wanted = new Set(from.entries.map(({ articulation }) => articulation));
  const entryOf = new Map(target.keymap.entries.map((entry) => [entry.articulation, entry]));
  const gone = target.keymap.entries.filter(({ articulation }) => !wanted.has(articulation));
  const order = from.entries.flatMap(({ articulation }, place): Edit[] => {
    const known = entryOf.get(articulation);
    return known ? [{ kind: 'entry', id: known.id, op: 'update', fields: { place } }] : [];
  });
  return [
    ...gone.flatMap(removeEntry),
    ...takeOverEdits(target, from, from.entries),
    ...order,
    ...controllerEdits(target, from),
    { kind: 'keymap', id: target.keymap.id, op: 'update', fields: { initial: from.initial } },
  ];
}

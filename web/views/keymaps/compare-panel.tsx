import { useState } from 'react';
import { compareKeymaps, type KeymapDifference } from '#core/keymap/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { useDocuments } from '../../state/documents.ts';
import { copyEdits, keymapById, keymapsOf, useVocabulary, type HouseKeymap } from '../../state/keymaps.ts';
import type { Edit } from '../../state/diff.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { addEntry, addTrigger, change, removeEntry } from './keymap-edits.ts';
import { keymapsInUse, type LookedAt } from './looked-at.ts';

/** Two keymaps side by side: what differs, and what to take over. */
export function ComparePanel({
  looked,
  middleC,
  mayEdit,
}: {
  looked: LookedAt;
  middleC: MiddleC;
  mayEdit: boolean;
}) {
  const { house } = looked;
  const records = useDocuments((state) => state.records);
  const vocabulary = useVocabulary();
  const others = new Map<string, HouseKeymap>();
  const base = house.variantOf === '' ? undefined : keymapById(records, house.variantOf);
  if (base) others.set(base.keymap.id, base);
  for (const one of keymapsInUse(records)) others.set(one.house.keymap.id, one.house);
  for (const one of keymapsOf(records)) others.set(one.keymap.id, one);
  others.delete(house.keymap.id);
  const [wanted, setWanted] = useState<string>();
  const other = others.get(wanted ?? '') ?? [...others.values()][0];
  if (!other)
    return (
      <>
        <h2 className="font-serif text-xl font-semibold">Compare</h2>
        <p className="text-ink-2">
          There is no other keymap in the house or the template yet. Put another instrument on a track, or
          change the keys of one, and both can be held against each other here.
        </p>
      </>
    );
  const differences = compareKeymaps(house.keymap, other.keymap, middleC);
  const name = (id: string) => vocabulary.term(id).name;
  const takeOver = (list: readonly KeymapDifference[]) =>
    change(`Take over from ${other.keymap.name}`, house, takeOverEdits(house, other, list));
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Compare</h2>
      <div className="mt-1">
        <Choice
          label="With"
          className="min-w-0 max-w-[200px]"
          value={other.keymap.id}
          onChange={(event) => setWanted(event.target.value)}
          options={[...others.values()].map(({ keymap }) => ({ value: keymap.id, text: keymap.name }))}
        />
      </div>
      <GroupTitle>
        {differences.length === 0
          ? 'They are alike'
          : `${differences.length} ${differences.length === 1 ? 'difference' : 'differences'}`}
      </GroupTitle>
      <ul>
        {differences.map((one) => (
          <li key={one.articulation} className="border-b border-rule-soft py-1">
            <div className="flex items-baseline justify-between gap-2">
              <b>{name(one.articulation)}</b>
              {one.theirs !== undefined && (
                <button
                  type="button"
                  disabled={!mayEdit}
                  className="min-h-6 text-cool underline disabled:opacity-50"
                  onClick={() => takeOver([one])}
                >
                  Take over
                </button>
              )}
            </div>
            <span className="block text-ink-2">here: {one.mine ?? 'not in it'}</span>
            <span className="block text-ink-2">there: {one.theirs ?? 'not in it'}</span>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Button
          disabled={!mayEdit || !differences.some(({ theirs }) => theirs !== undefined)}
          onClick={() => takeOver(differences.filter(({ theirs }) => theirs !== undefined))}
        >
          Take all over
        </Button>
        <Button
          disabled={!mayEdit || differences.length === 0 || !other.kept}
          title={`Everything of this keymap in place of what ${other.keymap.name} has`}
          onClick={() => change(`Copy to ${other.keymap.name}`, other, replaceEdits(other, house))}
        >
          Copy to {other.keymap.name}
        </Button>
      </div>
    </>
  );
}

/** Edits that make articulations of one keymap what they are in another. */
function takeOverEdits(
  house: HouseKeymap,
  other: HouseKeymap,
  differences: readonly KeymapDifference[],
): Edit[] {
  return differences.flatMap(({ articulation }): Edit[] => {
    const theirs = other.keymap.entries.find((entry) => entry.articulation === articulation);
    const mine = house.keymap.entries.find((entry) => entry.articulation === articulation);
    if (!theirs) return [];
    const made = mine ? { id: mine.id, edits: [] } : addEntry(house, articulation);
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

/** Edits that put everything of one keymap in place of what another has. */
function replaceEdits(target: HouseKeymap, from: HouseKeymap): Edit[] {
  const copy = copyEdits(
    {
      ...from.keymap,
      id: '',
      entries: from.keymap.entries,
    },
    { id: target.keymap.id, name: target.keymap.name },
  ).filter(({ kind }) => kind !== 'keymap');
  // Entries that stay keep their id: what refers to them goes on doing so.
  const known = new Map(target.keymap.entries.map((entry) => [entry.articulation, entry]));
  const ids = new Map<string, string>();
  for (const one of copy)
    if (one.kind === 'entry' && one.op === 'add') {
      const mine = known.get(String(one.fields.articulation));
      ids.set(one.id, mine?.id ?? crypto.randomUUID());
    }
  const wanted = new Set(from.keymap.entries.map((entry) => entry.articulation));
  return [
    ...target.keymap.entries.flatMap((entry) =>
      removeEntry(entry).filter(({ kind }) => kind !== 'entry' || !wanted.has(entry.articulation)),
    ),
    ...copy.map((one): Edit => {
      if (one.op !== 'add') return one;
      if (one.kind !== 'entry')
        return { ...one, fields: { ...one.fields, entryId: ids.get(String(one.fields.entryId)) } };
      const id = ids.get(one.id) ?? one.id;
      return known.has(String(one.fields.articulation))
        ? { kind: 'entry', id, op: 'update', fields: { place: one.fields.place, morph: one.fields.morph } }
        : { ...one, id };
    }),
    { kind: 'keymap', id: target.keymap.id, op: 'update', fields: { initial: from.keymap.initial } },
  ];
}

import { useState } from 'react';
import { compareKeymaps, type KeymapDifference } from '#core/keymap/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { useDocuments } from '../../state/documents.ts';
import { keymapById, keymapsOf, useVocabulary, type HouseKeymap } from '../../state/keymaps.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { change } from './keymap-edits.ts';
import { keymapsInUse, type LookedAt } from './looked-at.ts';
import { replaceEdits, takeOverEdits } from './take-over.ts';

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
    change(`Take over from ${other.keymap.name}`, house, takeOverEdits(house, other.keymap, list));
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
          onClick={() => change(`Copy to ${other.keymap.name}`, other, replaceEdits(other, house.keymap))}
        >
          Copy to {other.keymap.name}
        </Button>
      </div>
    </>
  );
}

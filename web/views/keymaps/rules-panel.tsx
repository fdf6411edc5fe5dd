import { useMemo, useState } from 'react';
import { assignKeys, plainTrigger, type Assigned } from '#core/keymap/index.ts';
import { pitchName, type MiddleC } from '#core/music/index.ts';
import { edit, useDocuments } from '../../state/documents.ts';
import { keepingEdits, removalEdits, vocabularyOf, type HouseKeymap } from '../../state/keymaps.ts';
import type { Edit } from '../../state/diff.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { addTrigger } from './keymap-edits.ts';
import { keymapsInUse, rangesFor, rulesOf, usesInCue, type LookedAt } from './looked-at.ts';

/** Keyswitches by rules that can be read and changed: what they would give is seen before it is done. */
export function RulesPanel({
  looked,
  middleC,
  mayEdit,
}: {
  looked: LookedAt;
  middleC: MiddleC;
  mayEdit: boolean;
}) {
  const records = useDocuments((state) => state.records);
  const houseId = useDocuments((state) => state.houseId);
  const [which, setWhich] = useState<'this' | 'template'>('this');
  const rules = rulesOf(records, houseId);
  const setRule = (fields: Record<string, unknown>, merge?: string) =>
    houseId !== undefined &&
    edit('Rules for keyswitches', [{ kind: 'house', id: houseId, op: 'update', fields }], merge);
  const { houses, given } = useMemo(() => {
    const by = rulesOf(records, houseId);
    const targets =
      which === 'this' ? [looked.house] : uniqueHouses(keymapsInUse(records).map(({ house }) => house));
    const others = uniqueHouses(keymapsInUse(records).map(({ house }) => house));
    // With one key for all sections, the others have their say although only one is changed.
    const asked = which === 'this' && by.sameKeys ? uniqueHouses([looked.house, ...others]) : targets;
    const ids = new Set(targets.map(({ keymap }) => keymap.id));
    return {
      houses: new Map(targets.map((house) => [house.keymap.id, house])),
      given: assignKeys(
        asked.map((house) => ({
          keymapId: house.keymap.id,
          name: house.keymap.name,
          articulations: house.keymap.entries.map(({ articulation }) => articulation),
          ranges: rangesFor(house, house === looked.house ? looked.instrument : undefined),
        })),
        by,
        usesInCue(records),
        vocabularyOf(records),
        middleC,
      ).filter(({ keymapId }) => ids.has(keymapId)),
    };
  }, [which, looked, records, houseId, middleC]);
  const changes = given.filter((one) => isChange(one, houses.get(one.keymapId)));
  const without = given.filter(({ key }) => key === undefined);
  const apply = () =>
    edit('Give keyswitches by rule', [
      ...[...houses.values()].flatMap(keepingEdits),
      ...assignEdits(given, houses),
    ]);
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Keys by rule</h2>
      <p className="text-ink-2">
        The rules belong to the house. What they give is listed below before it is done.
      </p>
      <div className="mt-2 flex flex-col gap-1.5">
        <Choice
          label="For"
          value={which}
          onChange={(event) => setWhich(event.target.value as 'this' | 'template')}
          options={[
            { value: 'this', text: 'this keymap' },
            { value: 'template', text: 'all in the template' },
          ]}
        />
        <Choice
          label="Keys lie"
          value={rules.side}
          disabled={!mayEdit}
          onChange={(event) => setRule({ ruleSide: event.target.value })}
          options={[
            { value: 'below', text: 'below the range' },
            { value: 'above', text: 'above the range' },
            { value: 'wider', text: 'where there is more room' },
          ]}
        />
        <Choice
          label="Nearest to it"
          value={rules.nearest}
          disabled={!mayEdit}
          onChange={(event) => setRule({ ruleNearest: event.target.value })}
          options={[
            { value: 'used', text: 'what the cue uses most' },
            { value: 'first', text: 'the vocabulary’s first' },
          ]}
        />
        <label className="flex min-h-6 items-center gap-2">
          <input
            type="checkbox"
            className="size-4 accent-(--cool)"
            checked={rules.sameKeys}
            disabled={!mayEdit}
            onChange={(event) => setRule({ ruleSameKeys: event.target.checked })}
          />
          One key for a technique in all sections
        </label>
        <Ruler
          label="Guard"
          value={rules.guardKeys}
          low={0}
          high={24}
          rest={2}
          step={1}
          unit="keys"
          format={(value) => String(Math.round(value))}
          disabled={!mayEdit}
          help="Keys that stay free between the playing range and the nearest switch, so that a slip selects nothing."
          onChange={(value) => setRule({ ruleGuardKeys: Math.round(value) }, 'guard')}
        />
      </div>
      <GroupTitle>{changes.length === 0 ? 'Nothing would change' : 'What would change'}</GroupTitle>
      {without.length > 0 && (
        <Notice tone="straw">
          {without.length === 1 ? 'One articulation gets' : `${without.length} articulations get`} no key:
          outside the playing range and its guard none is left. A smaller guard makes room.
        </Notice>
      )}
      <ul className="max-h-[260px] overflow-auto" tabIndex={0} aria-label="What the rules would change">
        {changes.map((one) => {
          const house = houses.get(one.keymapId) as HouseKeymap;
          const before = keyIn(house, one.articulation);
          return (
            <li key={`${one.keymapId} ${one.articulation}`} className="border-b border-rule-soft py-0.5">
              <b>{vocabularyOf(records).term(one.articulation).name}</b>
              {which === 'template' && <span className="text-ink-2"> in {house.keymap.name}</span>}:{' '}
              {before === undefined ? 'none' : pitchName(before, middleC)} →{' '}
              {one.key === undefined ? 'none' : pitchName(one.key, middleC)}
              <span className="block text-xs text-ink-3">{one.reason}</span>
            </li>
          );
        })}
      </ul>
      <Button look="main" className="mt-2" disabled={!mayEdit || changes.length === 0} onClick={apply}>
        Give these keys
      </Button>
      <GroupTitle>The maker’s keys</GroupTitle>
      <p className="text-ink-2">
        {looked.house.kept
          ? 'What the house has changed can be put down: the instrument is then played by the keys its maker suggests.'
          : 'The instrument is played by the keys its maker suggests.'}
      </p>
      <Button
        look="loss"
        className="mt-1"
        disabled={!mayEdit || !looked.house.kept || looked.house.trackId !== ''}
        title="Undo brings the house’s keymap back"
        onClick={() => edit('Back to the maker’s keys', removalEdits(looked.house))}
      >
        Back to the maker’s keys
      </Button>
    </>
  );
}

function uniqueHouses(houses: readonly HouseKeymap[]): HouseKeymap[] {
  return [...new Map(houses.map((house) => [house.keymap.id, house])).values()];
}

function entryIn(house: HouseKeymap | undefined, articulation: string) {
  return house?.keymap.entries.find((entry) => entry.articulation === articulation);
}

function keyIn(house: HouseKeymap | undefined, articulation: string): number | undefined {
  return entryIn(house, articulation)?.triggers.find(({ kind }) => kind === 'key')?.number;
}

const isChange = ({ articulation, key }: Assigned, house: HouseKeymap | undefined) =>
  key !== undefined && keyIn(house, articulation) !== key;

/** Edits that give the keys: an entry's first keyswitch moves, one without gets one. */
function assignEdits(given: readonly Assigned[], houses: ReadonlyMap<string, HouseKeymap>): Edit[] {
  return given.flatMap(({ keymapId, articulation, key }): Edit[] => {
    const entry = entryIn(houses.get(keymapId), articulation);
    if (!entry || key === undefined) return [];
    const known = entry.triggers.find(({ kind }) => kind === 'key');
    return known
      ? [{ kind: 'trigger', id: known.id, op: 'update', fields: { number: key } }]
      : [addTrigger(entry.id, plainTrigger({ number: key, set: entry.triggers.length }))];
  });
}

import { useEffect } from 'react';
import type { InstrumentSummary } from '#api/index.ts';
import type { Clash, Entry } from '#core/keymap/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { overhearMidi } from '../../sound/midi.ts';
import { useVocabulary, type HouseKeymap } from '../../state/keymaps.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { ClashList, Refused } from './clash-list.tsx';
import { change, removeEntry, setTrigger } from './keymap-edits.ts';
import { choose, useKeymaps } from './keymaps-state.ts';
import { SourceEditor } from './source-editor.tsx';
import { TriggerEditor } from './trigger-editor.tsx';

/** One articulation of the keymap: how it is written, what selects it, what sounds, what does not go together. */
export function EntryPane({
  house,
  entry,
  instrument,
  clashes,
  middleC,
  mayEdit,
}: {
  house: HouseKeymap;
  entry: Entry | undefined;
  instrument: InstrumentSummary;
  clashes: readonly Clash[];
  middleC: MiddleC;
  mayEdit: boolean;
}) {
  const vocabulary = useVocabulary();
  useLearning(house);
  const term = entry && vocabulary.term(entry.articulation);
  const own = clashes.filter(({ entryId }) => entryId === entry?.id);
  const others = clashes.filter(({ entryId }) => entryId !== entry?.id);
  return (
    <>
      <Refused house={house} />
      {entry && term ? (
        <>
          <h2 className="font-serif text-xl font-semibold">{term.name}</h2>
          <p className="text-ink-2">
            {term.written ? (
              <>
                written <i className="font-serif">{term.written}</i>, {term.notated}
              </>
            ) : (
              `notated as ${term.notated}`
            )}
          </p>
          <ClashList house={house} clashes={own} mayEdit={mayEdit} />
          <GroupTitle>Selected by</GroupTitle>
          <TriggerEditor {...{ house, entry, middleC, mayEdit }} />
          <GroupTitle>What sounds</GroupTitle>
          <SourceEditor {...{ house, entry, instrument, mayEdit }} />
          <div className="mt-3 flex flex-wrap gap-1.5">
            <Button
              disabled={!mayEdit || house.keymap.initial === entry.articulation}
              title="It holds from the beginning, until something selects another"
              onClick={() =>
                change('Begin with another articulation', house, [
                  {
                    kind: 'keymap',
                    id: house.keymap.id,
                    op: 'update',
                    fields: { initial: entry.articulation },
                  },
                ])
              }
            >
              Begin with it
            </Button>
            <Button
              look="loss"
              disabled={!mayEdit}
              title="It goes from the keymap; marks reach it all the same"
              onClick={() => {
                if (change('Take an articulation out of the keymap', house, removeEntry(entry)))
                  choose(undefined);
              }}
            >
              Take out
            </Button>
          </div>
        </>
      ) : (
        <p className="text-ink-2">Choose an articulation to see what selects it and what sounds.</p>
      )}
      {others.length > 0 && (
        <>
          <GroupTitle>{own.length > 0 ? 'Other clashes' : 'Clashes and gaps'}</GroupTitle>
          <ClashList house={house} clashes={others} mayEdit={mayEdit} />
        </>
      )}
      {!clashes.some(({ kind }) => kind !== 'stands in') && house.keymap.entries.length > 0 && (
        <p className="mt-4 text-ink-2">Everything goes together: each note has exactly one answer.</p>
      )}
    </>
  );
}

/** While a trigger waits to be told its key, the next key played becomes it. */
function useLearning(house: HouseKeymap): void {
  const learning = useKeymaps((state) => state.learning);
  useEffect(() => {
    if (learning === undefined) return undefined;
    return overhearMidi(([status, key, velocity]) => {
      if ((status & 0xf0) !== 0x90 || velocity === 0) return;
      useKeymaps.setState({ learning: undefined });
      change('Keyswitch by playing it', house, [setTrigger(learning, { number: key })]);
    });
  }, [learning, house]);
}

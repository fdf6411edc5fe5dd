import { useRef, useState } from 'react';
import {
  KEYMAP_SCHEMA,
  keymapListHtml,
  readKeymapCsv,
  readKeymapJson,
  readNameDocument,
  sfzSwitchLabels,
  writeKeymapCsv,
  writeKeymapJson,
  writeNameDocument,
  type ReadKeymap,
} from '#core/formats/index.ts';
import { compareKeymaps, type Keymap } from '#core/keymap/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { useDocuments } from '../../state/documents.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { fileNameOf, printPage, saveFile } from '../../ui/save-file.ts';
import { change } from './keymap-edits.ts';
import { keymapsInUse, rangesFor, type LookedAt } from './looked-at.ts';
import { controllerEdits, takeOverEdits } from './take-over.ts';

/** Takes a keymap along, on paper or as a file, and brings one in from a file. */
export function AlongPanel({
  looked,
  middleC,
  mayEdit,
}: {
  looked: LookedAt;
  middleC: MiddleC;
  mayEdit: boolean;
}) {
  const { house, instrument, track } = looked;
  const { keymap } = house;
  const records = useDocuments((state) => state.records);
  const vocabulary = useVocabulary();
  const libraries = useLibraries((state) => state.libraries);
  const libraryOf = (id: string) =>
    libraries?.find((library) => library.instruments.some((one) => one.id === id))?.name ?? '';
  const file = (ending: string) => fileNameOf(keymap.name, ending);
  const page = (all: boolean) => {
    const list = all ? keymapsInUse(records) : [{ house, instrument, name: track?.name ?? instrument.name }];
    return keymapListHtml(
      all ? 'Keyswitches of the template' : `Keyswitches of ${keymap.name}`,
      list.map((one) => ({
        keymap: { ...one.house.keymap, name: one.name },
        about: `${one.instrument.name}, ${libraryOf(one.instrument.id)}`,
        range: rangesFor(one.house, one.instrument)[0],
      })),
      middleC,
      vocabulary,
    );
  };
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Take along</h2>
      <GroupTitle>On paper</GroupTitle>
      <div className="flex flex-wrap gap-1.5">
        <Button
          title="The browser prints the list, or makes a PDF of it"
          onClick={() => printPage(page(false))}
        >
          Print the list
        </Button>
        <Button
          title="The lists of all keymaps that tracks of the template are played by"
          onClick={() => printPage(page(true))}
        >
          Print all of the template
        </Button>
        <Button onClick={() => saveFile(file('html'), page(false), 'text/html')}>List as a page</Button>
      </div>
      <GroupTitle>As a file</GroupTitle>
      <div className="flex flex-wrap gap-1.5">
        <Button
          title="A table for spreadsheets; it can be brought in again"
          onClick={() => saveFile(file('csv'), writeKeymapCsv(keymap, middleC), 'text/csv')}
        >
          Table (CSV)
        </Button>
        <Button
          title="Everything of the keymap; it can be brought in again"
          onClick={() => saveFile(file('json'), writeKeymapJson(keymap), 'application/json')}
        >
          JSON
        </Button>
        <Button
          title="Names of keys, programs and controller values, as the MIDI standard writes them"
          onClick={() => saveFile(file('midnam'), writeNameDocument(keymap, vocabulary), 'application/xml')}
        >
          MIDI names
        </Button>
        <Button
          title="Labelled keyswitches for an SFZ instrument"
          onClick={() => saveFile(file('sfz'), sfzSwitchLabels(keymap, vocabulary), 'text/plain')}
        >
          SFZ labels
        </Button>
      </div>
      <p className="mt-1 text-xs text-ink-2">
        The JSON keeps to a{' '}
        <button
          type="button"
          className="text-cool underline"
          onClick={() =>
            saveFile('keymap.schema.json', JSON.stringify(KEYMAP_SCHEMA, null, 2), 'application/schema+json')
          }
        >
          schema
        </button>
        .
      </p>
      <BringIn looked={looked} middleC={middleC} mayEdit={mayEdit} />
    </>
  );
}

function BringIn({ looked, middleC, mayEdit }: { looked: LookedAt; middleC: MiddleC; mayEdit: boolean }) {
  const vocabulary = useVocabulary();
  const input = useRef<HTMLInputElement>(null);
  const [found, setFound] = useState<{ name: string; read: ReadKeymap }>();
  const { house } = looked;
  const look = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    const read = /\.json$/i.test(file.name)
      ? readKeymapJson(text, vocabulary)
      : /\.(midnam|xml)$/i.test(file.name)
        ? readNameDocument(text, vocabulary)
        : readKeymapCsv(text, middleC, vocabulary);
    setFound({ name: file.name, read });
  };
  const take = (incoming: Keymap) => {
    const differences = compareKeymaps(house.keymap, incoming).filter(({ theirs }) => theirs !== undefined);
    if (
      change(`Bring in ${found?.name ?? 'a keymap'}`.slice(0, 200), house, [
        ...takeOverEdits(house, incoming, differences),
        ...controllerEdits(house, incoming),
      ])
    )
      setFound(undefined);
  };
  const entries = found?.read.keymap.entries ?? [];
  const differences = found ? compareKeymaps(house.keymap, found.read.keymap, middleC) : [];
  const changed = differences.filter(({ theirs }) => theirs !== undefined);
  const ridden = found ? controllerEdits(house, found.read.keymap).length : 0;
  return (
    <>
      <GroupTitle>Bring in</GroupTitle>
      <p className="text-ink-2">
        A table (CSV), JSON or a MIDI name document. What it would change is listed before anything is
        changed.
      </p>
      <input
        ref={input}
        type="file"
        aria-label="Keymap file"
        accept=".csv,.json,.midnam,.xml,.txt"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          void look(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      <Button className="mt-1" disabled={!mayEdit} onClick={() => input.current?.click()}>
        Choose a file …
      </Button>
      {found && (
        <div className="mt-2" aria-live="polite">
          <p>
            <b>{found.name}</b>: {entries.length} {entries.length === 1 ? 'articulation' : 'articulations'},{' '}
            {changed.length === 0 ? 'nothing that differs' : `${changed.length} that differ`}
          </p>
          {found.read.remarks.map(({ line, sentence, leftOut }, i) => (
            <Notice key={i} tone={leftOut ? 'warm' : 'straw'}>
              {line > 0 && <b>Line {line}: </b>}
              {sentence}
            </Notice>
          ))}
          <ul>
            {changed.map(({ articulation, mine, theirs }) => (
              <li key={articulation} className="border-b border-rule-soft py-0.5">
                <b>{vocabulary.term(articulation).name}</b>: {mine ?? 'not in it'} → {theirs}
              </li>
            ))}
            {ridden > 0 && <li className="py-0.5">Controllers and what velocity does differ too.</li>}
          </ul>
          <div className="mt-1.5 flex gap-1.5">
            <Button
              look="main"
              disabled={!mayEdit || changed.length + ridden === 0}
              onClick={() => take(found.read.keymap)}
            >
              Take these in
            </Button>
            <Button onClick={() => setFound(undefined)}>Leave it</Button>
          </div>
        </div>
      )}
    </>
  );
}

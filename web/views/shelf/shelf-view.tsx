import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { ShelfGrouping } from '#core/catalogue/index.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { unloadUnused, unusedBytes } from '../../sound/unused.ts';
import { useDocuments } from '../../state/documents.ts';
import { loadLibraries, useLibraries, useOwned } from '../../state/libraries.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';
import { megabytes } from '../../ui/megabytes.ts';
import { Compare } from './compare.tsx';
import { Facets } from './facets.tsx';
import { ImportDialog } from './import/import-dialog.tsx';
import { InstrumentPane } from './instrument-pane.tsx';
import { InstrumentTable } from './instrument-table.tsx';
import { JobsLine } from './jobs-line.tsx';
import { LibraryPane } from './library-pane.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { useShelfAddress } from './shelf-address.ts';
import { useShelf, useShelfIndex } from './shelf-state.ts';

/** What we own: libraries and their instruments, with the facts people choose by. */
export function ShelfView() {
  const { libraries, trouble } = useLibraries();
  const { index, entries } = useShelfIndex();
  const { filter, groupBy, comparing } = useShelf();
  const mayEdit = useMayEdit();
  const [importing, setImporting] = useState(false);
  useShelfAddress();
  const shown = index.filter(filter);
  const damaged = (libraries ?? []).filter((library) => library.trouble !== null);
  // What was found wrong with recordings since the list was fetched is seen when one comes to look.
  useEffect(() => void loadLibraries(), []);
  return (
    <>
      <Panes id="shelf" names={['Border of the filters', 'Border of the side pane']}>
        <Pane id="facets" size={168} least={120}>
          <Facets index={index} />
        </Pane>
        <Pane id="list" least={360}>
          <div className="flex h-full min-h-0 min-w-0 flex-col">
            <div className="flex flex-wrap items-center gap-2.5 border-b border-rule px-3 py-2">
              <h1 className="font-serif text-xl font-semibold">Shelf</h1>
              <span className="min-w-0 flex-1 truncate text-ink-3" aria-live="polite">
                {libraries
                  ? `${shown.length === entries.length ? '' : `${shown.length} of `}${entries.length} instruments · ${libraries.length} ${libraries.length === 1 ? 'library' : 'libraries'}`
                  : 'looking …'}
              </span>
              {!comparing && (
                <Choice
                  label="Group by"
                  hideLabel
                  value={groupBy}
                  onChange={(event) => useShelf.setState({ groupBy: event.target.value as ShelfGrouping })}
                  options={[
                    { value: 'family', text: 'by family' },
                    { value: 'library', text: 'by library' },
                    { value: 'none', text: 'in one list' },
                  ]}
                />
              )}
              <Button
                pressed={comparing !== undefined}
                disabled={entries.length < 2}
                title="Two instruments or two libraries, fact by fact"
                onClick={() => useShelf.setState({ comparing: comparing ? undefined : 'instruments' })}
              >
                Compare two
              </Button>
              <Button
                look="main"
                disabled={!mayEdit}
                title={mayEdit ? undefined : 'Viewers may listen, but not take in sounds'}
                onClick={() => setImporting(true)}
              >
                Bring in sounds …
              </Button>
            </div>
            <JobsLine />
            {damaged.map((library) => (
              <div key={library.id} className="px-4" role="alert">
                <Notice tone="warm">
                  {library.trouble}{' '}
                  <button
                    type="button"
                    className="text-cool underline"
                    onClick={() => useShelf.setState({ selected: { kind: 'library', id: library.id } })}
                  >
                    Look at {library.name}
                  </button>
                </Notice>
              </div>
            ))}
            {trouble && (
              <div className="px-4" role="alert">
                <Notice tone="warm">{trouble}</Notice>
              </div>
            )}
            {comparing ? (
              <Compare kind={comparing} />
            ) : libraries?.length === 0 ? (
              <p className="p-8 text-ink-2">
                The shelf is empty. Bring in an SFZ instrument, a SoundFont, a folder of recordings or a
                single recording of your own to begin.
              </p>
            ) : libraries && shown.length === 0 ? (
              <p className="p-8 text-ink-2">
                Nothing on the shelf fits all of this. Take something back at the left, or show all.
              </p>
            ) : (
              <InstrumentTable entries={shown} />
            )}
            <UnusedLine />
          </div>
        </Pane>
        <Pane id="selected" size={352} least={220}>
          <aside aria-label="Selected" className="relative h-full min-h-0 overflow-auto p-3.5">
            <SidePane />
          </aside>
        </Pane>
      </Panes>
      {importing && <ImportDialog onClose={() => setImporting(false)} />}
    </>
  );
}

function SidePane() {
  const selected = useShelf((state) => state.selected);
  const libraries = useLibraries((state) => state.libraries);
  const library = selected?.kind === 'library' ? libraries?.find((one) => one.id === selected.id) : undefined;
  const owned = useOwned(selected?.kind === 'instrument' ? selected.id : undefined);
  if (library) return <LibraryPane library={library} />;
  if (owned) return <InstrumentPane key={owned.instrument.id} {...owned} />;
  return (
    <p className="text-ink-2">
      Choose an instrument to see and hear its techniques, or a library to see its facts.
    </p>
  );
}

/** What is in memory, and what of it the open cue does not use. */
function UnusedLine() {
  const held = useInstruments((state) => state.heldBytes);
  // Anything of these may change what is used.
  useInstruments((state) => state.loads);
  useDocuments((state) => state.records);
  const free = unusedBytes();
  if (held === 0) return null;
  return (
    <div className="flex items-center gap-3 border-t border-rule px-3 py-1.5 text-ink-2">
      <span className="flex-1">
        {megabytes(held)} in memory
        {free > 0
          ? `, of which the open cue does not use ${megabytes(free)}`
          : ', all of it used by the open cue'}
      </span>
      <Button
        disabled={free === 0}
        title="Lets go of every technique that no track of the open cue plays; it loads again when it is wanted"
        onClick={() =>
          void unloadUnused().then(({ before, after }) =>
            toast(`Unloaded: ${megabytes(before)} before, ${megabytes(after)} now.`),
          )
        }
      >
        Unload unused{free > 0 ? `: −${megabytes(free)}` : ''}
      </Button>
    </div>
  );
}

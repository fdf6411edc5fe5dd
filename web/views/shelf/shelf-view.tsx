import { useMemo, useState } from 'react';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { useMayEdit } from '../../state/session.ts';
import { cancelJob, useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { Notice } from '../../ui/heading.tsx';
import { RangeBar } from '../../ui/range-bar.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { ImportDialog } from './import-dialog.tsx';
import { InstrumentPane } from './instrument-pane.tsx';

const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;

/** What we own: libraries and their instruments, with the facts people choose by. */
export function ShelfView() {
  const { libraries, jobs, trouble } = useLibraries();
  const mayEdit = useMayEdit();
  const [search, setSearch] = useState('');
  const [chosen, setChosen] = useState<string>();
  const [importing, setImporting] = useState(false);
  const shown = useMemo(() => filtered(libraries ?? [], search), [libraries, search]);
  const all = (libraries ?? []).flatMap((library) => library.instruments);
  const selected = all.find((instrument) => instrument.id === chosen) ?? shown[0]?.instruments[0];
  const busy = jobs
    .filter(
      (job) =>
        job.state === 'running' ||
        job.state === 'waiting' ||
        (job.kind === 'import' && (job.state === 'failed' || job.state === 'cancelled')),
    )
    .slice(-4);
  const bytes = (libraries ?? []).reduce((sum, library) => sum + library.bytes, 0);

  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_320px]">
      <div className="flex min-h-0 flex-col">
        <div className="flex items-center gap-3 border-b border-rule px-4 py-2.5">
          <h1 className="font-serif text-xl font-semibold">Shelf</h1>
          <span className="text-ink-3">
            {libraries
              ? `${libraries.length} ${libraries.length === 1 ? 'library' : 'libraries'} · ${all.length} ${all.length === 1 ? 'instrument' : 'instruments'} · ${megabytes(bytes)}`
              : 'looking …'}
          </span>
          <div className="flex-1" />
          <label>
            <span className="sr-only">Find a sound</span>
            <input
              type="search"
              placeholder="Find a sound"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              className="w-52 rounded-md border border-rule bg-raised px-2 py-1 placeholder:text-ink-3"
            />
          </label>
          <Button
            look="main"
            disabled={!mayEdit}
            title={mayEdit ? undefined : 'Viewers may listen, but not take in sounds'}
            onClick={() => setImporting(true)}
          >
            Bring in sounds …
          </Button>
        </div>
        {busy.map((job) => (
          <div
            key={job.id}
            role="status"
            className="flex items-center gap-3 border-b border-rule-soft bg-ground px-4 py-1.5"
          >
            <span className="w-56 truncate font-semibold">{job.title}</span>
            {job.state === 'failed' || job.state === 'cancelled' ? (
              <span className={job.state === 'failed' ? 'text-warm' : 'text-ink-2'}>{job.message}</span>
            ) : (
              <>
                <progress
                  className="h-2 w-48 accent-(--cool)"
                  value={job.progress}
                  max={1}
                  aria-label={job.title}
                />
                <span className="flex-1 truncate text-ink-2">{job.message}</span>
                {job.kind === 'import' && (
                  <Button
                    look="loss"
                    className="py-0"
                    disabled={!mayEdit}
                    onClick={() => void cancelJob(job.id)}
                  >
                    Cancel
                  </Button>
                )}
              </>
            )}
          </div>
        ))}
        {trouble && (
          <div className="px-4" role="alert">
            <Notice tone="warm">{trouble}</Notice>
          </div>
        )}
        <div className="min-h-0 flex-1 overflow-auto">
          {libraries?.length === 0 && busy.length === 0 && (
            <p className="p-8 text-ink-2">
              The shelf is empty. Bring in a folder or a zip with an SFZ file and its WAV recordings to begin.
            </p>
          )}
          {libraries && libraries.length > 0 && shown.length === 0 && (
            <p className="p-8 text-ink-2">Nothing here is called “{search}”.</p>
          )}
          {shown.length > 0 && (
            <table className="w-full border-collapse">
              <thead>
                <tr className="sticky top-0 bg-sheet text-left text-xs text-ink-3">
                  <th className="w-[52px] py-1.5 pl-4 font-normal">
                    <span className="sr-only">Family</span>
                  </th>
                  <th className="font-normal">Instrument</th>
                  <th className="w-16 text-right font-normal">Players</th>
                  <th className="w-[190px] pl-6 font-normal">Range</th>
                  <th className="w-24 text-right font-normal">Techniques</th>
                  <th className="w-20 text-right font-normal">Positions</th>
                  <th className="w-24 pr-4 text-right font-normal">Memory</th>
                </tr>
              </thead>
              {shown.map((library) => (
                <LibraryRows
                  key={library.id}
                  library={library}
                  selected={selected?.id}
                  onChoose={setChosen}
                />
              ))}
            </table>
          )}
        </div>
      </div>
      <aside aria-label="Instrument" className="relative min-h-0 overflow-auto border-l border-rule p-3.5">
        {selected ? (
          <InstrumentPane
            key={selected.id}
            instrument={selected}
            library={(libraries ?? []).find((library) => library.instruments.includes(selected))}
          />
        ) : (
          <p className="text-ink-2">Choose an instrument to see and hear its techniques.</p>
        )}
      </aside>
      {importing && <ImportDialog onClose={() => setImporting(false)} />}
    </div>
  );
}

function filtered(libraries: readonly LibrarySummary[], search: string): LibrarySummary[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [...libraries];
  const fits = (library: LibrarySummary, instrument: InstrumentSummary) => {
    const text = [
      library.name,
      library.maker,
      library.room,
      instrument.name,
      instrument.family,
      ...instrument.articulations.map((a) => a.name),
    ]
      .join(' ')
      .toLowerCase();
    return words.every((word) => text.includes(word));
  };
  return libraries
    .map((library) => ({ ...library, instruments: library.instruments.filter((i) => fits(library, i)) }))
    .filter((library) => library.instruments.length > 0);
}

function LibraryRows({
  library,
  selected,
  onChoose,
}: {
  library: LibrarySummary;
  selected: string | undefined;
  onChoose: (id: string) => void;
}) {
  return (
    <tbody>
      <tr>
        <th colSpan={7} className="border-b border-rule pt-3 pb-1 pl-4 text-left font-normal">
          <span className="font-serif text-[15px] font-semibold">{library.name}</span>{' '}
          <span className="text-ink-3">
            {library.maker} · {library.room}
          </span>
        </th>
      </tr>
      {library.instruments.map((instrument) => {
        const low = Math.min(...instrument.articulations.map((a) => a.low));
        const high = Math.max(...instrument.articulations.map((a) => a.high));
        const active = instrument.id === selected;
        return (
          <tr
            key={instrument.id}
            aria-selected={active}
            onClick={() => onChoose(instrument.id)}
            className={`cursor-pointer border-b border-rule-soft ${active ? 'bg-cool-tint font-semibold' : 'hover:bg-ground'}`}
          >
            <td className={`border-l-[3px] py-1 pl-[13px] ${active ? 'border-cool' : 'border-transparent'}`}>
              <FamilyTag family={instrument.family} />
            </td>
            <td>
              <button type="button" className="min-h-6 text-left" onClick={() => onChoose(instrument.id)}>
                {instrument.name}
              </button>
            </td>
            <td className="text-right">{instrument.players}</td>
            <td className="pl-6">
              <RangeBar low={low} high={high} />
            </td>
            <td className="text-right">{instrument.articulations.length}</td>
            <td className="text-right">{instrument.positions.length}</td>
            <td className="pr-4 text-right">{megabytes(instrument.bytes)}</td>
          </tr>
        );
      })}
    </tbody>
  );
}

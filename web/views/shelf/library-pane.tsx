import { useState } from 'react';
import { toast } from 'sonner';
import type { LibrarySummary } from '#api/index.ts';
import { request } from '../../state/api-client.ts';
import { loadLibraries } from '../../state/libraries.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { megabytes } from '../../ui/megabytes.ts';
import { libraryFacts } from './library-facts.ts';
import { selectInstrument, useShelf } from './shelf-state.ts';

/** A library as a whole: its facts, what came of taking it in, and taking it off the shelf. */
export function LibraryPane({ library }: { library: LibrarySummary }) {
  const mayEdit = useMayEdit();
  const [removing, setRemoving] = useState(false);
  const remove = async () => {
    try {
      await request('DELETE', `/libraries/${library.id}`);
      useShelf.setState({ selected: undefined });
      await loadLibraries();
    } catch (error) {
      toast.error((error as Error).message);
    }
    setRemoving(false);
  };
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">{library.name}</h2>
      <p className="text-ink-3">{library.maker}</p>
      {library.facts.text !== '' && <p className="mt-1 text-ink-2">{library.facts.text}</p>}
      {library.trouble && <Notice tone="warm">{library.trouble}</Notice>}
      <GroupTitle>Facts</GroupTitle>
      <dl className="grid grid-cols-[110px_minmax(0,1fr)] gap-y-0.5">
        {libraryFacts(library).map(({ name, text }) => (
          <div key={name} className="contents">
            <dt className="text-ink-3">{name}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
      <GroupTitle>Instruments</GroupTitle>
      <ul>
        {library.instruments.map((instrument) => (
          <li key={instrument.id}>
            <button
              type="button"
              className="flex min-h-6 w-full items-center justify-between border-b border-rule-soft text-left hover:text-cool"
              onClick={() => selectInstrument(instrument.id)}
            >
              {instrument.name}
              <span className="text-xs text-ink-2">{megabytes(instrument.bytes)}</span>
            </button>
          </li>
        ))}
      </ul>
      <Report library={library} />
      <div className="mt-4">
        <Button look="loss" disabled={!mayEdit} onClick={() => setRemoving(true)}>
          Take off the shelf …
        </Button>
      </div>
      {removing && (
        <Dialog
          title={`Take “${library.name}” off the shelf?`}
          about={`Its ${library.instruments.length} instruments and ${megabytes(library.bytes)} of recordings are removed for everybody in the studio. Tracks that play them fall silent. This cannot be undone; the files you brought them in from stay as they are.`}
          onClose={() => setRemoving(false)}
        >
          <div className="flex justify-end gap-2">
            <Button onClick={() => setRemoving(false)}>Keep it</Button>
            <Button look="loss" onClick={() => void remove()}>
              Take it off the shelf
            </Button>
          </div>
        </Dialog>
      )}
    </>
  );
}

/** What came of taking a library in. */
function Report({ library }: { library: LibrarySummary }) {
  const { report } = library;
  if (report.recordings === 0 && report.failed.length === 0) return null;
  return (
    <>
      <GroupTitle>When it was taken in</GroupTitle>
      <p className="text-ink-2">
        {report.instruments} {report.instruments === 1 ? 'instrument' : 'instruments'}, {report.zones} zones,{' '}
        {report.recordings} recordings; {megabytes(report.bytes)} new on the disk
        {report.bytes === 0 ? ' (all were stored already)' : ''}.
      </p>
      {report.failed.map(({ name, sentence }) => (
        <Notice key={name} tone="warm">
          <strong>{name}</strong> was left out: {sentence}
        </Notice>
      ))}
      {report.converted.map(({ reason, count }) => (
        <p key={reason} className="text-xs text-ink-2">
          {count} {count === 1 ? 'recording' : 'recordings'} {reason.startsWith('from') ? 'converted ' : ''}
          {reason}
        </p>
      ))}
      {report.unsupported.length > 0 && (
        <ul className="mt-1 text-xs text-ink-2">
          {report.unsupported.map((item) => (
            <li key={item.opcode + item.reason + item.place} className="py-0.5 break-words">
              <strong>{item.opcode}</strong>: {item.reason} ({item.count} ×, first in {item.place})
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

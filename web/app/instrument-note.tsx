import { useMayEdit } from '../state/session.ts';
import { changeMark, useMark } from '../state/shelf.ts';

/** The studio's note on an instrument. */
export function InstrumentNote({ instrumentId }: { instrumentId: string }) {
  const mark = useMark(instrumentId);
  const mayEdit = useMayEdit();
  return (
    <textarea
      aria-label="Note on this instrument"
      placeholder="A note for the studio"
      disabled={!mayEdit}
      maxLength={2000}
      rows={2}
      value={mark?.note ?? ''}
      onChange={(event) =>
        changeMark(instrumentId, 'Write a note', { note: event.target.value }, `note ${instrumentId}`)
      }
      className="mt-1.5 w-full rounded-md border border-rule bg-raised px-2 py-1 placeholder:text-ink-3"
    />
  );
}

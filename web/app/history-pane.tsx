import { useState } from 'react';
import type { DocumentKind } from '#api/index.ts';
import { request } from '../state/api-client.ts';
import { useDocuments } from '../state/documents.ts';
import { useAct, useHistory } from '../state/queries.ts';
import { useMayEdit } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { dayAndTime } from '../ui/day-and-time.ts';
import { Notice } from '../ui/heading.tsx';
import { confirmLoss } from '../ui/ask.tsx';

/** Who changed what and when, newest first, and the way back to any of it. */
export function HistoryPane({ kind, id }: { kind: DocumentKind; id: string | undefined }) {
  // Every patch, mine or a colleague's, adds a line.
  const history = useHistory(
    kind,
    id,
    useDocuments((state) => state.revisions[kind]),
  );
  const mayEdit = useMayEdit();
  const [shown, setShown] = useState(30);
  const back = useAct(
    (revision: number) => request('POST', `/documents/${kind}/${id ?? ''}/back`, { revision }),
    { changes: ['history'] },
  );
  if (id === undefined) return <p className="text-ink-2">Nothing is open.</p>;
  if (history.isPending) return <p className="text-ink-3">Looking …</p>;
  if (history.isError) return <Notice tone="warm">{history.error.message}</Notice>;
  if (history.data.length === 0) return <p className="text-ink-2">Nothing has been changed yet.</p>;
  const go = async (revision: number, label: string) => {
    const later = history.data.filter((line) => line.revision > revision).length;
    const sure = await confirmLoss(
      `Back to “${label}”?`,
      `${later === 1 ? 'One later edit is' : `${later} later edits are`} taken back, whoever made them. They stay in the history, so that you can come back.`,
      'Back to here',
    );
    if (sure) back.mutate(revision);
  };
  return (
    <>
      <ol aria-label="History, newest first">
        {history.data.slice(0, shown).map((line, i) => (
          <li key={line.revision} className="group border-b border-rule-soft py-1.5">
            <div className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1 break-words">{line.label}</span>
              {i > 0 && (
                <Button
                  look="quiet"
                  className="shrink-0 py-0 text-xs"
                  disabled={!mayEdit || back.isPending}
                  onClick={() => void go(line.revision, line.label)}
                >
                  Back to here
                </Button>
              )}
            </div>
            <div className="text-xs text-ink-3">
              {line.author}, {dayAndTime(line.time)}
              {line.count > 1 && `, ${line.count} changes`}
            </div>
          </li>
        ))}
      </ol>
      {history.data.length > shown && (
        <Button look="quiet" className="mt-1" onClick={() => setShown(shown + 30)}>
          Earlier
        </Button>
      )}
    </>
  );
}

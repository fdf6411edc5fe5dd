import { useState } from 'react';
import { X } from 'lucide-react';
import { PRE_ROLL_SECONDS } from '#core/listen/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { hear, listeningPlace, useListening } from '../../sound/listening.ts';
import { useList } from '../../state/documents.ts';
import { addRemark, removeRemark } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { useListen } from './listen-state.ts';
import type { PhraseRow } from './rows.ts';

/** Remarks at moments of the phrase; one is pinned to what sounds when it is begun, and leads back there. */
export function Remarks({
  instrumentId,
  row,
  column,
}: {
  instrumentId: string;
  row: PhraseRow | undefined;
  column: number;
}) {
  const mayEdit = useMayEdit();
  const [text, setText] = useState('');
  const [at, setAt] = useState<number>();
  const own = useList('remark')
    .filter((one) => one.instrumentId === instrumentId && one.phrase === row?.id)
    .sort((a, b) => a.atSeconds - b.atSeconds);
  const order = row?.cells[column];
  const pin = () => {
    // Silence is remarked on too: then it stands at the beginning.
    const sounding = useListening.getState().sounding === order?.name;
    const place = sounding ? listeningPlace() / ENGINE_RATE - PRE_ROLL_SECONDS : 0;
    setAt(Math.max(0, Math.round(place * 10) / 10));
  };
  const goTo = (seconds: number) => {
    if (!row || !order) return;
    const { matched } = useListen.getState();
    const place = Math.max(0, Math.round((seconds + PRE_ROLL_SECONDS - 0.3) * ENGINE_RATE));
    void hear([order], 0, { matched, place });
  };
  if (!row) return null;
  return (
    <>
      <GroupTitle>Remarks in “{row.name}”</GroupTitle>
      <ul>
        {own.map((one) => (
          <li key={one.id} className="flex items-start gap-2">
            <button
              type="button"
              className="min-h-6 shrink-0 text-cool hover:underline"
              title="Hear from here"
              onClick={() => goTo(one.atSeconds)}
            >
              {clock(one.atSeconds)}
            </button>
            <span className="min-w-0 flex-1 py-0.5">{one.text}</span>
            {mayEdit && (
              <button
                type="button"
                aria-label={`Remove the remark at ${clock(one.atSeconds)}`}
                onClick={() => removeRemark(one.id)}
                className="grid size-6 shrink-0 place-items-center text-ink-3 hover:text-warm"
              >
                <X size={12} aria-hidden />
              </button>
            )}
          </li>
        ))}
      </ul>
      {mayEdit && (
        <form
          className="mt-1 flex gap-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            if (text.trim() === '') return;
            addRemark({ instrumentId, phrase: row.id, atSeconds: at ?? 0, text: text.trim() });
            setText('');
            setAt(undefined);
          }}
        >
          <input
            aria-label="A remark at this moment"
            placeholder="A remark at this moment"
            className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-raised px-1.5 placeholder:text-ink-3"
            maxLength={400}
            value={text}
            onFocus={pin}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => event.stopPropagation()}
          />
          <Button type="submit" disabled={text.trim() === ''}>
            {at === undefined ? 'Add' : `At ${clock(at)}`}
          </Button>
        </form>
      )}
    </>
  );
}

const clock = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${(Math.round(seconds * 10) / 10 - 60 * Math.floor(seconds / 60)).toFixed(1).padStart(4, '0')}`;

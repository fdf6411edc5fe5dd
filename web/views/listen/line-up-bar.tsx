import { useState } from 'react';
import { EyeOff, Footprints, Plus, Repeat, Scale, Trash2 } from 'lucide-react';
import { stopListening } from '../../sound/listening.ts';
import { useList, type Item } from '../../state/documents.ts';
import { addLineUp, removeLineUp, renameLineUp, rememberLineUp } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { beginBlind } from './blind-panel.tsx';
import type { Contender } from './contenders.ts';
import { REST_BPM, useListen, type ListenSurface } from './listen-state.ts';
import type { PhraseRow } from './rows.ts';

/** Title, the line-up that is looked at, and what can be done with it. */
export function LineUpBar({
  lineUp,
  contenders,
  rows,
}: {
  lineUp: Item<'lineUp'> | undefined;
  contenders: readonly Contender[];
  rows: readonly PhraseRow[];
}) {
  const { surface, matched, repeat, blind, phrase } = useListen();
  const show = (to: ListenSurface) => () => {
    stopListening();
    useListen.setState({ surface: surface === to ? 'line-up' : to, blind: undefined });
  };
  const none = contenders.length === 0;
  return (
    <div className="border-b border-rule px-3 py-1.5">
      <div className="flex items-center gap-2">
        <h1 className="font-serif text-xl font-semibold">Listen</h1>
        {surface === 'line-up' ? (
          <LineUpChoice lineUp={lineUp} />
        ) : (
          <Button onClick={show('line-up')}>Back to {lineUp ? `“${lineUp.name}”` : 'the line-up'}</Button>
        )}
        <div className="flex-1" />
        <Button
          pressed={surface === 'walk'}
          disabled={none}
          title="Through all techniques or all positions of a contender, one after the other"
          onClick={show('walk')}
        >
          <Footprints size={13} aria-hidden /> Walk
        </Button>
        <Button
          pressed={surface === 'reference'}
          disabled={none}
          title="Holds a contender against a recording: tone, width, decay, range of loudness"
          onClick={show('reference')}
        >
          Against a recording
        </Button>
        <Button
          pressed={surface === 'verdicts'}
          title="All verdicts of the studio, and what it still lacks"
          onClick={show('verdicts')}
        >
          Verdicts and gaps
        </Button>
      </div>
      {surface === 'line-up' && lineUp && (
        <div className="mt-1 flex items-center gap-2">
          <Button
            pressed={matched || blind !== undefined}
            disabled={blind !== undefined}
            title="Plays all contenders equally loud, by their measured loudness in the phrase (ITU-R BS.1770)"
            onClick={() => {
              stopListening();
              useListen.setState({ matched: !matched });
            }}
          >
            <Scale size={13} aria-hidden /> Loudness matched
          </Button>
          <Button
            pressed={repeat}
            title="Begins a phrase again when it has come to its end"
            onClick={() => {
              stopListening();
              useListen.setState({ repeat: !repeat });
            }}
          >
            <Repeat size={13} aria-hidden /> Over and over
          </Button>
          <Button
            pressed={blind !== undefined}
            disabled={blind === undefined && ableIn(rows, phrase) < 2}
            title="Hides the names and shuffles the order; choose by ear, then reveal"
            onClick={() => {
              stopListening();
              if (blind) useListen.setState({ blind: undefined });
              else beginBlind(rows, contenders);
            }}
          >
            <EyeOff size={13} aria-hidden /> Blind
          </Button>
          <Button
            disabled={blind !== undefined}
            title="A phrase of your own: a part of the open cue, or played in"
            onClick={show('phrase')}
          >
            <Plus size={13} aria-hidden /> Own phrase
          </Button>
          <div className="flex-1" />
          <Tempo />
        </div>
      )}
    </div>
  );
}

/** How many contenders can play the chosen phrase. */
function ableIn(rows: readonly PhraseRow[], phrase: string | undefined): number {
  const row = rows.find((one) => one.id === phrase) ?? rows[0];
  return row?.cells.filter((cell) => cell !== undefined).length ?? 0;
}

function Tempo() {
  const bpm = useListen((state) => state.bpm);
  return (
    <div className="w-44">
      <Ruler
        compact
        label="Tempo"
        value={bpm}
        low={40}
        high={208}
        rest={REST_BPM}
        step={2}
        unit="bpm"
        format={(value) => String(Math.round(value))}
        help="Tempo of the phrases; slow rises and single notes keep their seconds, own phrases follow in proportion. Phrases are rendered anew."
        onChange={(value) => {
          stopListening();
          useListen.setState({ bpm: Math.round(value) });
        }}
      />
    </div>
  );
}

function LineUpChoice({ lineUp }: { lineUp: Item<'lineUp'> | undefined }) {
  const list = [...useList('lineUp')].sort((a, b) => a.name.localeCompare(b.name));
  const mayEdit = useMayEdit();
  const [naming, setNaming] = useState(false);
  const choose = (id: string) => {
    stopListening();
    rememberLineUp(id);
    useListen.setState({ lineUpId: id, contender: undefined, blind: undefined });
  };
  return (
    <div className="flex min-w-0 items-center gap-1.5">
      {naming && lineUp ? (
        <input
          autoFocus
          aria-label="Name of the line-up"
          className="h-7 w-44 rounded-md border border-rule bg-raised px-1.5"
          maxLength={120}
          defaultValue={lineUp.name}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name !== '' && name !== lineUp.name) renameLineUp(lineUp.id, name);
            setNaming(false);
          }}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') event.currentTarget.blur();
            if (event.key === 'Escape') setNaming(false);
          }}
        />
      ) : (
        list.length > 0 && (
          <Choice
            label="Line-up"
            hideLabel
            className="max-w-52"
            value={lineUp?.id ?? ''}
            onChange={(event) => choose(event.target.value)}
            options={list.map(({ id, name }) => ({ value: id, text: name }))}
          />
        )
      )}
      {mayEdit && (
        <>
          {lineUp && !naming && (
            <Button look="quiet" className="px-1.5" onClick={() => setNaming(true)}>
              Rename
            </Button>
          )}
          <Button
            look="quiet"
            className="px-1.5"
            onClick={() => {
              choose(addLineUp(`Line-up ${list.length + 1}`));
              setNaming(true);
            }}
          >
            <Plus size={13} aria-hidden /> New
          </Button>
          {lineUp && (
            <Button
              look="quiet"
              className="px-1.5"
              aria-label="Remove the line-up"
              title="Removes the line-up with its preferences and rounds; undo brings it back"
              onClick={() => {
                stopListening();
                removeLineUp(lineUp.id);
              }}
            >
              <Trash2 size={13} aria-hidden />
            </Button>
          )}
        </>
      )}
    </div>
  );
}

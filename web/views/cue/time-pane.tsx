import { useRef, useState, type ReactNode } from 'react';
import { ArrowRight, Trash2, TrendingUp } from 'lucide-react';
import { toast } from 'sonner';
import {
  fifthsAt,
  FRAME_RATES,
  keyName,
  MOST_FIFTHS,
  readPlace,
  readTime,
  tappedBpm,
  writePlace,
  writeTime,
  type FrameRate,
  BPM,
  METRE,
} from '#core/music/index.ts';
import { goTo } from '../../sound/commands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { metreOf, tempoOf } from '../../state/cue.ts';
import { edit, useDocuments, useList, type Item } from '../../state/documents.ts';
import { chooseFrameRate, useFrameRate } from '../../state/frame-rate.ts';
import {
  addMetre,
  addTempo,
  fitTempo,
  moveChange,
  removeChange,
  setRamp,
  setSignature,
  setTempo,
  tempoFit,
  type ChangeKind,
} from '../../state/time-edits.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { numberWithin, wholeWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';

const PLACE = 'A bar and a beat, such as 12.3.';
const TAKEN = 'There is a change there already.';
const byTick = <T extends { tick: number }>(list: readonly T[]) => [...list].sort((a, b) => a.tick - b.tick);

/** Tempo and metre over the cue, change by change. */
export function TimePane({ mayEdit }: { mayEdit: boolean }) {
  const tempos = byTick(useList('tempo'));
  const metres = byTick(useList('metre'));
  const metre = useDocuments((state) => metreOf(state.records));
  const rest = usePerformance((state) => state.restTick);
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Time</h2>
      <FramesChoice />
      <GroupTitle>Tempo</GroupTitle>
      {tempos.length === 0 && <p className="text-xs text-ink-3">120 quarters a minute, as none is set.</p>}
      <ul aria-label="Changes of tempo" className="space-y-1">
        {tempos.map((tempo, i) => (
          <ChangeLine key={tempo.id} kind="tempo" change={tempo} mayEdit={mayEdit}>
            <span aria-hidden>♩=</span>
            <Typed
              label="Quarters a minute"
              value={String(Math.round(tempo.bpm * 100) / 100)}
              disabled={!mayEdit}
              width="w-14"
              parse={numberWithin(BPM.low, BPM.high)}
              onCommit={(bpm) =>
                edit('Tempo', [{ kind: 'tempo', id: tempo.id, op: 'update', fields: { bpm } }])
              }
            />
            <Button
              look="icon"
              pressed={tempo.ramp}
              disabled={!mayEdit || i === tempos.length - 1}
              aria-label={`From ${writePlace(metre, tempo.tick)} move evenly to the next tempo`}
              title={
                i === tempos.length - 1
                  ? 'It holds: there is no tempo after it to move to.'
                  : 'Moves evenly to the next tempo, or holds until there.'
              }
              onClick={() => setRamp(tempo, !tempo.ramp)}
            >
              <TrendingUp size={13} aria-hidden />
            </Button>
          </ChangeLine>
        ))}
      </ul>
      <div className="mt-1.5 flex flex-wrap gap-1">
        <Button
          className="py-0.5"
          disabled={!mayEdit}
          onClick={() => {
            if (!addTempo(Math.round(rest))) toast(TAKEN);
          }}
        >
          Tempo at the playhead
        </Button>
        <Tap mayEdit={mayEdit} />
      </div>
      <GroupTitle>Metre</GroupTitle>
      {metres.length === 0 && <p className="text-xs text-ink-3">4/4, as none is set.</p>}
      <ul aria-label="Changes of metre" className="space-y-1">
        {metres.map((change) => (
          <ChangeLine key={change.id} kind="metre" change={change} mayEdit={mayEdit}>
            <MetreField metre={change} mayEdit={mayEdit} />
          </ChangeLine>
        ))}
      </ul>
      <Button
        className="mt-1.5 py-0.5"
        disabled={!mayEdit}
        onClick={() => {
          if (!addMetre(rest)) toast(TAKEN);
        }}
      >
        Metre at the bar of the playhead
      </Button>
      <Signatures mayEdit={mayEdit} />
      <MarkerTimes mayEdit={mayEdit} />
    </>
  );
}

const FIFTHS = Array.from({ length: 2 * MOST_FIFTHS + 1 }, (_, i) => i - MOST_FIFTHS);
const signsOf = (fifths: number) =>
  fifths === 0 ? 'no signs' : `${Math.abs(fifths)} ${fifths > 0 ? '♯' : '♭'}`;

/** Key signatures: how notes are spelled in the score. */
function Signatures({ mayEdit }: { mayEdit: boolean }) {
  const signatures = byTick(useList('signature'));
  const rest = usePerformance((state) => state.restTick);
  return (
    <>
      <GroupTitle>Key</GroupTitle>
      {signatures.length === 0 && <p className="text-xs text-ink-3">No signs (C · a), as none are set.</p>}
      <ul aria-label="Key signatures" className="space-y-1">
        {signatures.map((change) => (
          <ChangeLine key={change.id} kind="signature" change={change} mayEdit={mayEdit}>
            <select
              aria-label="Key, major and minor"
              className="h-6 rounded-sm border border-rule bg-raised px-0.5"
              value={change.fifths}
              disabled={!mayEdit}
              onChange={(event) => setSignature(change.tick, Number(event.target.value))}
            >
              {FIFTHS.map((fifths) => (
                <option key={fifths} value={fifths}>
                  {`${keyName(fifths)}, ${signsOf(fifths)}`}
                </option>
              ))}
            </select>
          </ChangeLine>
        ))}
      </ul>
      <Button
        className="mt-1.5 py-0.5"
        disabled={!mayEdit}
        title="How notes are spelled from there on: in the score, and for who gets it"
        onClick={() => {
          const { records } = useDocuments.getState();
          const metre = metreOf(records);
          const at = metre.barStart(metre.toBarBeat(rest).bar);
          if (signatures.some(({ tick }) => tick === at)) toast(TAKEN);
          else setSignature(at, fifthsAt(signatures, at));
        }}
      >
        Key at the bar of the playhead
      </Button>
    </>
  );
}

/** When markers come; a time that is typed is reached by the tempo before them. */
function MarkerTimes({ mayEdit }: { mayEdit: boolean }) {
  const markers = byTick(useList('marker'));
  const metre = useDocuments((state) => metreOf(state.records));
  const tempo = useDocuments((state) => tempoOf(state.records));
  if (markers.length === 0) return null;
  return (
    <>
      <GroupTitle>Markers</GroupTitle>
      <p className="mb-1 text-xs text-ink-3">
        Type when one is to come: the tempo from the marker or change before it follows.
      </p>
      <ul aria-label="Times of markers" className="space-y-1">
        {markers.map(({ id, tick, text }) => (
          <li key={id} className="flex items-start gap-1.5 text-sm">
            <span className="w-14 shrink-0 pt-0.5 text-ink-3">{writePlace(metre, tick)}</span>
            <span className="min-w-0 flex-1 truncate pt-0.5" title={text}>
              {text}
            </span>
            <Typed
              label={`Time of ${text}`}
              value={writeTime(tempo.toSeconds(tick))}
              disabled={!mayEdit || tick === 0}
              width="w-20"
              parse={(typed) => {
                const seconds = readTime(typed);
                if (seconds === undefined) return 'A time in minutes and seconds, such as 0:41.3.';
                const fit = tempoFit(tick, seconds);
                return typeof fit === 'string' ? fit : seconds;
              }}
              onCommit={(seconds) => fitTempo(tick, seconds)}
            />
          </li>
        ))}
      </ul>
    </>
  );
}

/** Where a change stands, what it is, and a way to go there or take it out. */
function ChangeLine({
  kind,
  change,
  mayEdit,
  children,
}: {
  kind: ChangeKind;
  change: { id: string; tick: number };
  mayEdit: boolean;
  children: ReactNode;
}) {
  const metre = useDocuments((state) => metreOf(state.records));
  const place = writePlace(metre, change.tick);
  /** A cue has a tempo and a metre from its beginning on; without a key it has no signs. */
  const isKept = change.tick === 0 && kind !== 'signature';
  /** A metre and a key begin with a bar. */
  const read = (text: string) => {
    const tick = readPlace(metre, text);
    if (tick === undefined) return PLACE;
    return kind !== 'tempo' ? metre.barStart(metre.toBarBeat(tick).bar) : tick;
  };
  return (
    <li className="flex items-start gap-1.5 text-sm">
      <Typed
        label="Bar and beat"
        value={place}
        disabled={!mayEdit || isKept}
        width="w-16"
        parse={read}
        onCommit={(tick) => {
          if (!moveChange(kind, change.id, tick)) toast(TAKEN);
        }}
      />
      {children}
      <span className="flex-1" />
      <Button
        look="icon"
        aria-label={`Go to ${place}`}
        title="Go there"
        onClick={() => void goTo(change.tick)}
      >
        <ArrowRight size={13} aria-hidden />
      </Button>
      <Button
        look="icon"
        disabled={!mayEdit || isKept}
        aria-label={`Take the change at ${place} out`}
        title={
          isKept
            ? 'What holds from the beginning is changed, not taken out.'
            : 'Takes it out: what held before goes on.'
        }
        onClick={() => removeChange(kind, change)}
      >
        <Trash2 size={13} aria-hidden />
      </Button>
    </li>
  );
}

function MetreField({ metre, mayEdit }: { metre: Item<'metre'>; mayEdit: boolean }) {
  return (
    <>
      <Typed
        label="Beats of a bar"
        value={String(metre.numerator)}
        disabled={!mayEdit}
        width="w-9"
        parse={wholeWithin(1, METRE.mostBeats)}
        onCommit={(numerator) =>
          edit('Metre', [{ kind: 'metre', id: metre.id, op: 'update', fields: { numerator } }])
        }
      />
      <span aria-hidden>/</span>
      <select
        aria-label="Note that is a beat"
        className="h-6 rounded-sm border border-rule bg-raised px-0.5"
        value={metre.denominator}
        disabled={!mayEdit}
        onChange={(event) =>
          edit('Metre', [
            {
              kind: 'metre',
              id: metre.id,
              op: 'update',
              fields: { denominator: Number(event.target.value) },
            },
          ])
        }
      >
        {METRE.beats.map((beat) => (
          <option key={beat} value={beat}>
            {beat}
          </option>
        ))}
      </select>
    </>
  );
}

/** Sets the tempo that holds at the playhead by tapping it. */
function Tap({ mayEdit }: { mayEdit: boolean }) {
  const taps = useRef<number[]>([]);
  const [count, setCount] = useState(0);
  const tap = () => {
    taps.current = [...taps.current.slice(-30), performance.now()];
    setCount(taps.current.length);
    const bpm = tappedBpm(taps.current);
    if (bpm !== undefined) setTempo(usePerformance.getState().restTick, Math.round(bpm * 10) / 10);
  };
  return (
    <Button
      className="py-0.5"
      disabled={!mayEdit}
      title="Press it in time, four times or more: the tempo at the playhead follows."
      onClick={tap}
    >
      Tap it{count > 0 && count < 4 ? ` (${4 - count} more)` : ''}
    </Button>
  );
}

/** How many frames a second the time at the top is counted in. */
function FramesChoice() {
  const rate = useFrameRate((state) => state.rate);
  return (
    <Choice
      label="Frames at the top"
      value={rate ?? ''}
      options={[
        { value: '', text: 'none' },
        ...(Object.keys(FRAME_RATES) as FrameRate[])
          .sort((a, b) => FRAME_RATES[a] - FRAME_RATES[b])
          .map((value) => ({ value, text: `${value} a second` })),
      ]}
      onChange={(event) =>
        chooseFrameRate(event.target.value === '' ? undefined : (event.target.value as FrameRate))
      }
    />
  );
}

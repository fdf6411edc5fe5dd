import { useRef, useState } from 'react';
import { LoaderCircle, Mic, Play, Redo2, Repeat, Square, Undo2 } from 'lucide-react';
import { useMatch, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { changeAt, readMoment, writeFrames } from '#core/music/index.ts';
import { listOf, redo, undo, useDocuments, useItem, useList } from '../state/documents.ts';
import { useMayEdit, useSession } from '../state/session.ts';
import { useInstruments } from '../sound/instruments.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { goTo, playOrStop, recordOrStop, switchLoop } from '../sound/commands.ts';
import { playheadTick } from '../sound/playhead.ts';
import { metreOf, tempoOf } from '../state/cue.ts';
import { useFrameRate } from '../state/frame-rate.ts';
import { setMetre, setTempo } from '../state/time-edits.ts';
import { useRenderings } from '../sound/renderings-state.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/field.tsx';
import { toNumber } from '../ui/numbers.ts';
import { setText, useFrame } from '../ui/use-frame.ts';
import { AccountMenu } from './account-menu.tsx';
import { openCue } from './opening.ts';
import { useGoing } from './keys.ts';
import { MEMORY_BUDGET_BYTES } from './memory-budget.ts';
import { OutputLevel } from './output-level.tsx';
import { SaveStates } from './save-state.tsx';
import { megabytes } from '../ui/megabytes.ts';

/** Cue, transport, place, tempo, level, memory, save state, undo and who is here. */
export function TopLine() {
  const playing = usePerformance((state) => state.playing);
  const preparing = usePerformance((state) => state.preparing);
  const looping = usePerformance((state) => state.looping);
  const undoLabel = useDocuments((state) => state.undoLabel);
  const redoLabel = useDocuments((state) => state.redoLabel);
  return (
    <header className="col-span-2 flex items-center gap-3 max-[1320px]:gap-2 overflow-x-auto overflow-y-hidden border-b border-rule bg-sheet pr-3 pl-4">
      <span className="w-[52px] shrink-0 font-serif text-xl font-semibold italic max-[1100px]:hidden">
        Farlo
      </span>
      <CueChoice />
      <div className="flex shrink-0 items-center gap-1.5" role="group" aria-label="Transport">
        <Button
          onClick={() => void playOrStop()}
          title={
            preparing
              ? 'Recordings are on their way; it plays as soon as they are here. Press to give up.'
              : 'Play or stop (space bar)'
          }
          className="w-[74px]"
        >
          {preparing ? (
            <LoaderCircle size={13} aria-hidden className="animate-spin motion-reduce:animate-none" />
          ) : playing ? (
            <Square size={13} aria-hidden />
          ) : (
            <Play size={13} aria-hidden />
          )}
          {preparing ? 'Loads' : playing ? 'Stop' : 'Play'}
        </Button>
        <Button
          pressed={looping}
          onClick={() => void switchLoop()}
          title="Play the loop over and over (key /). Drag in the bar line to set it."
        >
          <Repeat size={13} aria-hidden />
          Loop
        </Button>
        <RecordButton />
      </div>
      <Place />
      <TempoAndMetre />
      <div className="flex-1" />
      <OutputLevel />
      <Memory />
      <SaveStates />
      <div className="flex shrink-0 items-center">
        <Button
          look="quiet"
          disabled={!undoLabel}
          onClick={undo}
          aria-label="Undo"
          title={undoLabel ? `Undo: ${undoLabel} (Ctrl+Z)` : 'Nothing to undo'}
          className="px-1.5"
        >
          <Undo2 size={15} aria-hidden />
        </Button>
        <Button
          look="quiet"
          disabled={!redoLabel}
          onClick={redo}
          aria-label="Redo"
          title={redoLabel ? `Redo: ${redoLabel} (Ctrl+Shift+Z)` : 'Nothing to redo'}
          className="px-1.5"
        >
          <Redo2 size={15} aria-hidden />
        </Button>
      </div>
      <AccountMenu />
    </header>
  );
}

function RecordButton() {
  const recording = usePerformance((state) => state.recording);
  const recorded = usePerformance((state) => state.recorded);
  const trackId = usePerformance((state) => state.trackId);
  const hasCue = useDocuments((state) => state.cueId !== undefined);
  const mayEdit = useMayEdit();
  return (
    <Button
      pressed={recording}
      className={recording ? 'border-warm! text-warm!' : ''}
      disabled={!mayEdit || !hasCue || trackId === undefined}
      onClick={() => void recordOrStop()}
      title="Records what hands play on the chosen track, from the playhead or over the loop (key w). How: Recording in the Cue view."
    >
      <Mic size={13} aria-hidden />
      {recording ? `${recorded} ${recorded === 1 ? 'note' : 'notes'}` : 'Record'}
    </Button>
  );
}

function CueChoice() {
  const overview = useSession((state) => state.overview);
  const cueId = useDocuments((state) => state.cueId);
  const navigate = useNavigate();
  const inCueView = useMatch('/cue/*') !== null;
  // In the Cue view the address names the cue, and the view follows it.
  const choose = (id: string) =>
    inCueView
      ? void navigate(`/cue/${id}`)
      : void openCue(id).catch((error: Error) => toast.error(error.message));
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  return (
    <div className="w-[176px] shrink-0 leading-tight max-[1100px]:w-[150px]">
      <div className="truncate text-xs text-ink-3">{template?.name ?? '…'}</div>
      <Choice
        label="Cue"
        hideLabel
        className="-ml-1 w-[176px] max-[1100px]:w-[150px] border-transparent! bg-transparent! px-0.5! py-0! font-serif font-semibold"
        value={cueId ?? ''}
        onChange={(event) => choose(event.target.value)}
        options={[
          ...(cueId === undefined ? [{ value: '', text: 'No cue' }] : []),
          ...(overview?.cues ?? []).map((cue) => ({ value: cue.id, text: cue.name })),
        ]}
      />
    </div>
  );
}

function Place() {
  const going = useGoing((state) => state.going);
  const bar = useRef<HTMLSpanElement>(null);
  const time = useRef<HTMLSpanElement>(null);
  const rate = useFrameRate((state) => state.rate);
  useFrame(() => {
    const { records } = useDocuments.getState();
    const tick = playheadTick();
    const at = metreOf(records).toBarBeat(tick);
    const seconds = Math.max(0, tempoOf(records).toSeconds(tick));
    setText(bar.current, `${at.bar}.${at.beat}`);
    setText(
      time.current,
      rate
        ? writeFrames(seconds, rate)
        : `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`,
    );
  });
  return (
    <div className="flex shrink-0 items-baseline gap-3" aria-label="Playhead">
      <button
        type="button"
        aria-label="Go to a bar or a time"
        title="Bar and beat, and time from the start of the cue. Press to type where to go (key j)."
        className="flex items-baseline gap-3 rounded-sm hover:bg-cool-tint"
        onClick={() => useGoing.setState({ going: true })}
      >
        <span ref={bar} className="w-[44px] text-right text-lg font-semibold" />
        <span
          ref={time}
          title={rate && `Hours, minutes, seconds and frames, ${rate} a second`}
          className={`${rate ? 'w-[84px]' : 'w-[50px]'} text-left text-ink-2`}
        />
      </button>
      {going && <GoTo />}
    </div>
  );
}

/** A place typed in the top line, to which the playhead goes. */
function GoTo() {
  const [text, setText] = useState('');
  const [wrong, setWrong] = useState(false);
  const close = () => useGoing.setState({ going: false });
  const go = () => {
    const { records } = useDocuments.getState();
    const named = listOf(records, 'marker').find((one) =>
      one.text.toLowerCase().startsWith(text.trim().toLowerCase()),
    );
    const tick =
      readMoment(metreOf(records), tempoOf(records), text) ?? (text.trim() ? named?.tick : undefined);
    setWrong(tick === undefined);
    if (tick === undefined) return;
    void goTo(tick);
    close();
  };
  return (
    <span className="fixed top-[46px] z-20 rounded-md border border-rule bg-raised p-2 text-sm">
      <label className="flex items-center gap-2">
        Go to
        <input
          autoFocus
          className="h-6 w-24 rounded-sm border border-rule bg-sheet px-1"
          placeholder="12.3 or 0:41.5"
          value={text}
          aria-invalid={wrong}
          onChange={(event) => setText(event.target.value)}
          onBlur={close}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') go();
            if (event.key === 'Escape') close();
          }}
        />
      </label>
      {wrong && (
        <span role="alert" className="block max-w-[200px] text-xs text-warm">
          A bar, 12, with a beat, 12.3, a time in minutes and seconds, 0:41.5, or a marker.
        </span>
      )}
    </span>
  );
}

function TempoAndMetre() {
  const mayEdit = useMayEdit();
  const rest = usePerformance((state) => state.restTick);
  const metre = changeAt(useList('metre'), rest);
  const [typed, setTyped] = useState<string>();
  const bpm = useDocuments((state) => tempoOf(state.records).bpmAt(rest));
  const commit = () => {
    const value = typed === undefined ? undefined : toNumber(typed);
    setTyped(undefined);
    if (value !== undefined) setTempo(rest, value);
  };
  const now = metre ? `${metre.numerator}/${metre.denominator}` : '4/4';
  const metres = [...new Set([now, '2/4', '3/4', '4/4', '5/4', '6/8', '7/8', '9/8', '12/8'])];
  return (
    <div className="flex shrink-0 items-center gap-2">
      <label
        className="flex items-baseline gap-0.5"
        title="Tempo here, in quarter notes a minute. Arrow keys step."
      >
        <span aria-hidden>♩=</span>
        <span className="sr-only">Tempo</span>
        <input
          className="w-[52px] rounded-sm border border-transparent bg-transparent px-0.5 font-semibold hover:border-rule focus:border-rule focus:bg-raised"
          value={typed ?? String(Math.round(bpm * 100) / 100)}
          disabled={!mayEdit}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key === 'Enter') commit();
            if (event.key === 'Escape') setTyped(undefined);
            if (event.key === 'ArrowUp') setTempo(rest, bpm + (event.shiftKey ? 0.1 : 1));
            if (event.key === 'ArrowDown') setTempo(rest, bpm - (event.shiftKey ? 0.1 : 1));
          }}
        />
      </label>
      <Choice
        label="Metre"
        hideLabel
        disabled={!mayEdit}
        value={now}
        onChange={(event) => {
          const [numerator, denominator] = event.target.value.split('/').map(Number);
          setMetre(rest, numerator, denominator);
        }}
        options={metres.map((m) => ({ value: m, text: m }))}
      />
    </div>
  );
}

function Memory() {
  const recordings = useInstruments((state) => state.heldBytes);
  const held = recordings + useRenderings((state) => state.heldBytes);
  const loading = useInstruments((state) => Object.values(state.loads).some((load) => !load.complete));
  return (
    <div
      className="w-[104px] shrink-0 text-xs"
      title="Recordings and rendered phrases held in memory by this page, against 2 GB"
    >
      <div className="flex justify-between gap-1 whitespace-nowrap text-ink-3">
        <span>{loading ? 'Loading' : 'Memory'}</span>
        <span className="text-ink" aria-live="off">
          {megabytes(held)}
        </span>
      </div>
      <div className="mt-1 h-[3px] bg-rule-soft">
        <div
          className="h-full bg-cool"
          style={{ width: `${Math.min(100, (held / MEMORY_BUDGET_BYTES) * 100)}%` }}
        />
      </div>
    </div>
  );
}

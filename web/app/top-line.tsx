import { useEffect, useRef, useState } from 'react';
import { LogOut, Moon, Play, Redo2, Repeat, Square, Sun, Undo2 } from 'lucide-react';
import { edit, redo, undo, useDocuments, useItem, useList } from '../state/documents.ts';
import { useMayEdit, useSession } from '../state/session.ts';
import { useInstruments } from '../sound/instruments.ts';
import {
  meters,
  metreOf,
  play,
  playheadTick,
  stop,
  tempoOf,
  toggleLoop,
  usePerformance,
} from '../sound/performance.ts';
import { useRenderings } from '../sound/renderings.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/field.tsx';
import { toNumber } from '../ui/ruler.tsx';
import { openCue } from './shell.tsx';
import { useTheme } from './theme-choice.ts';

/** Memory a template may take on this machine until budgets can be set. */
const MEMORY_BUDGET_BYTES = 2 * 2 ** 30;

/** Cue, transport, place, tempo, level, memory, save state, undo and who is here. */
export function TopLine() {
  const playing = usePerformance((state) => state.playing);
  const looping = usePerformance((state) => state.looping);
  const undoLabel = useDocuments((state) => state.undoLabel);
  const redoLabel = useDocuments((state) => state.redoLabel);
  const { theme, toggle } = useTheme();
  const user = useSession((state) => state.info?.user);
  const signOut = useSession((state) => state.signOut);
  return (
    <header className="col-span-2 flex items-center gap-3 overflow-hidden border-b border-rule bg-sheet pr-3 pl-4">
      <span className="w-[52px] shrink-0 font-serif text-xl font-semibold italic">Farlo</span>
      <CueChoice />
      <div className="flex shrink-0 items-center gap-1.5" role="group" aria-label="Transport">
        <Button
          onClick={() => (playing ? stop() : void play())}
          title="Play or stop (space bar)"
          className="w-[74px]"
        >
          {playing ? <Square size={13} aria-hidden /> : <Play size={13} aria-hidden />}
          {playing ? 'Stop' : 'Play'}
        </Button>
        <Button
          pressed={looping}
          onClick={toggleLoop}
          title="Play the loop over and over (key /). Drag in the bar line to set it."
        >
          <Repeat size={13} aria-hidden />
          Loop
        </Button>
      </div>
      <Place />
      <TempoAndMetre />
      <div className="flex-1" />
      <OutputLevel />
      <Memory />
      <SaveState />
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
        <Button
          look="quiet"
          onClick={toggle}
          aria-label={theme === 'light' ? 'Use the dark theme' : 'Use the light theme'}
          title="Light or dark"
          className="px-1.5"
        >
          {theme === 'light' ? <Moon size={15} aria-hidden /> : <Sun size={15} aria-hidden />}
        </Button>
        <Button
          look="quiet"
          onClick={() => void signOut()}
          aria-label={`Sign out ${user?.name ?? ''}`}
          title={`Signed in as ${user?.name ?? ''}. Sign out`}
          className="px-1.5"
        >
          <span className="rounded-sm border border-rule px-1 text-xs font-semibold">
            {initials(user?.name ?? '')}
          </span>
          <LogOut size={14} aria-hidden />
        </Button>
      </div>
    </header>
  );
}

const initials = (name: string) =>
  name
    .split(/\s+/)
    .map((word) => word[0])
    .join('')
    .slice(0, 2)
    .toUpperCase();

function CueChoice() {
  const overview = useSession((state) => state.overview);
  const cueId = useDocuments((state) => state.cueId);
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  return (
    <div className="w-[176px] shrink-0 leading-tight">
      <div className="truncate text-xs text-ink-3">{template?.name ?? '…'}</div>
      <Choice
        label="Cue"
        hideLabel
        className="-ml-1 w-[176px] border-transparent! bg-transparent! px-0.5! py-0! font-serif font-semibold"
        value={cueId ?? ''}
        onChange={(event) => void openCue(event.target.value)}
        options={(overview?.cues ?? []).map((cue) => ({ value: cue.id, text: cue.name }))}
      />
    </div>
  );
}

/** Runs a callback in every animation frame while the component is shown. */
export function useFrame(callback: () => void): void {
  const latest = useRef(callback);
  useEffect(() => {
    latest.current = callback;
  });
  useEffect(() => {
    let frame = requestAnimationFrame(function tick() {
      latest.current();
      frame = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(frame);
  }, []);
}

function Place() {
  const bar = useRef<HTMLSpanElement>(null);
  const time = useRef<HTMLSpanElement>(null);
  useFrame(() => {
    const { records } = useDocuments.getState();
    const tick = playheadTick();
    const at = metreOf(records).toBarBeat(tick);
    const seconds = Math.max(0, tempoOf(records).toSeconds(tick));
    setText(bar.current, `${at.bar}.${at.beat}`);
    setText(time.current, `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`);
  });
  return (
    <div className="flex shrink-0 items-baseline gap-3" aria-label="Playhead">
      <span ref={bar} className="w-[44px] text-right text-lg font-semibold" title="Bar and beat" />
      <span ref={time} className="w-[50px] text-ink-2" title="Time from the start of the cue" />
    </div>
  );
}

function setText(element: HTMLElement | null, text: string): void {
  if (element && element.textContent !== text) element.textContent = text;
}

/** The last change at or before the resting place. */
function changeAt<T extends { tick: number }>(list: readonly T[], tick: number): T | undefined {
  return list.filter((change) => change.tick <= tick).sort((a, b) => b.tick - a.tick)[0];
}

function TempoAndMetre() {
  const mayEdit = useMayEdit();
  const rest = usePerformance((state) => state.restTick);
  const tempo = changeAt(useList('tempo'), rest);
  const metre = changeAt(useList('metre'), rest);
  const cueId = useDocuments((state) => state.cueId);
  const [typed, setTyped] = useState<string>();
  const setTempo = (bpm: number) => {
    const value = Math.min(400, Math.max(20, bpm));
    if (tempo)
      edit('Tempo', [{ kind: 'tempo', id: tempo.id, op: 'update', fields: { bpm: value } }], 'tempo');
    else if (cueId)
      edit('Tempo', [{ kind: 'tempo', id: crypto.randomUUID(), op: 'add', fields: { tick: 0, bpm: value } }]);
  };
  const setMetre = (text: string) => {
    const [numerator, denominator] = text.split('/').map(Number);
    if (metre)
      edit('Metre', [{ kind: 'metre', id: metre.id, op: 'update', fields: { numerator, denominator } }]);
    else
      edit('Metre', [
        { kind: 'metre', id: crypto.randomUUID(), op: 'add', fields: { tick: 0, numerator, denominator } },
      ]);
  };
  const bpm = tempo?.bpm ?? 120;
  const commit = () => {
    const value = typed === undefined ? undefined : toNumber(typed);
    setTyped(undefined);
    if (value !== undefined) setTempo(value);
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
            if (event.key === 'ArrowUp') setTempo(bpm + (event.shiftKey ? 0.1 : 1));
            if (event.key === 'ArrowDown') setTempo(bpm - (event.shiftKey ? 0.1 : 1));
          }}
        />
      </label>
      <Choice
        label="Metre"
        hideLabel
        disabled={!mayEdit}
        value={now}
        onChange={(event) => setMetre(event.target.value)}
        options={metres.map((m) => ({ value: m, text: m }))}
      />
    </div>
  );
}

function OutputLevel() {
  const text = useRef<HTMLSpanElement>(null);
  const bar = useRef<HTMLDivElement>(null);
  useFrame(() => {
    const level = meters.momentary;
    setText(text.current, level > -90 ? `${level.toFixed(1).replace('-', '−')} LUFS` : '–');
    if (bar.current) bar.current.style.width = `${Math.min(100, Math.max(0, ((level + 60) / 60) * 100))}%`;
  });
  return (
    <div
      className="w-[112px] shrink-0 text-xs"
      title="Loudness of the last 0.4 seconds (ITU-R BS.1770); the red tick is −23 LUFS"
    >
      <div className="flex justify-between text-ink-3">
        <span>Output</span>
        <span ref={text} className="text-ink" />
      </div>
      <div className="relative mt-1 h-[3px] bg-rule-soft">
        <div ref={bar} className="h-full bg-ink-3" />
        <div
          className="absolute -top-[2px] h-[7px] w-px bg-warm"
          style={{ left: `${((60 - 23) / 60) * 100}%` }}
        />
      </div>
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
      <div className="flex justify-between text-ink-3">
        <span>{loading ? 'Loading' : 'Memory'}</span>
        <span className="text-ink" aria-live="off">
          {Math.round(held / 1e6)} MB
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

function SaveState() {
  const save = useDocuments((state) => state.save);
  const text = {
    saved:
      save.kind === 'saved' && save.at > 0
        ? `Saved ${new Date(save.at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false })}`
        : 'Saved',
    saving: 'Saving …',
    away: 'Kept here',
    refused: 'Not taken',
  }[save.kind];
  const help =
    save.kind === 'away'
      ? 'The server does not answer. Edits are kept on this machine and sent when it is back.'
      : save.kind === 'refused'
        ? save.sentence
        : 'Every edit is saved by itself.';
  return (
    <span
      role="status"
      title={help}
      className={`w-[76px] shrink-0 text-xs whitespace-nowrap ${save.kind === 'away' || save.kind === 'refused' ? 'font-semibold text-warm' : 'text-ink-3'}`}
    >
      {text}
    </span>
  );
}

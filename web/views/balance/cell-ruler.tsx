import { Slider } from 'radix-ui';
import type { KeyboardEvent } from 'react';
import { usePerformance } from '../../sound/performance-state.ts';
import { playheadTick } from '../../sound/playhead.ts';
import { beginGesture, endGesture, useDocuments, type Item } from '../../state/documents.ts';
import { endRide, movesOf, rideMove } from '../../state/level-moves.ts';
import { changeCell, endCellGesture, moveCell, type Cell } from '../../state/balance.ts';
import { decibels } from '../../ui/decibels.ts';
import { numberWithin } from '../../ui/numbers.ts';
import { useTyped } from '../../ui/use-typed.ts';
import { choose, useChosen, useRiding } from './balance-state.ts';

const [LOW, HIGH] = [-60, 12];
/** Levels are drawn so that the upper half of the scale is what is used: −18 dB lies in its middle. */
const share = (db: number) => Math.max(0, (db - LOW) / (HIGH - LOW)) ** 1.9 * 100;
const level = (shareOf: number) => LOW + (shareOf / 100) ** (1 / 1.9) * (HIGH - LOW);

/** One position of one section: its level on a small scale, the number beside it, and whether it is heard. */
export function CellRuler({
  cell,
  mix,
  name,
  mayEdit,
}: {
  cell: Cell;
  mix: Item<'positionMix'>;
  /** Of section and position, for those who do not see it. */
  name: string;
  mayEdit: boolean;
}) {
  const isChosen = useChosen(
    ({ trackId, positionId }) => trackId === cell.trackId && positionId === cell.positionId,
  );
  const isOff = mix.muted || mix.levelDb <= LOW;
  const moves = useDocuments((state) => movesOf(state.records, cell).length > 0);
  // While moves are recorded, a hand moves the level at the playhead, and the mix stays.
  const move = (db: number, gesture = false) => {
    if (useRiding.getState().rides && usePerformance.getState().playing)
      rideMove(cell, playheadTick(), db - mix.levelDb);
    else moveCell(cell, db, gesture);
  };
  const onKey = (event: KeyboardEvent) => {
    const size = event.shiftKey ? 0.1 : 1;
    const to: Record<string, number> = {
      ArrowRight: mix.levelDb + size,
      ArrowUp: mix.levelDb + size,
      ArrowLeft: mix.levelDb - size,
      ArrowDown: mix.levelDb - size,
      PageUp: mix.levelDb + 6,
      PageDown: mix.levelDb - 6,
      Home: LOW,
      End: HIGH,
      Backspace: 0,
    };
    if (event.key === 'm') changeCell(cell, `Mute ${name}`, { muted: !mix.muted });
    else if (event.key in to) move(to[event.key]);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const { field, wrong } = useTyped(decibels(mix.levelDb), (text) => {
    const parsed = /^\s*(?:[−-]?∞|off)\s*$/i.test(text) ? LOW : numberWithin(LOW, HIGH, 'dB')(text);
    if (typeof parsed === 'string') return parsed;
    move(parsed);
  });
  return (
    <div
      className={`relative flex h-7 items-center gap-0.5 rounded-sm px-1 ${isChosen ? 'bg-cool-tint' : ''}`}
      onFocus={() => choose(cell.trackId, cell.positionId)}
      onPointerDown={() => choose(cell.trackId, cell.positionId)}
    >
      <Slider.Root
        value={[share(mix.levelDb)]}
        min={0}
        max={100}
        step={0.05}
        disabled={!mayEdit}
        className="relative block h-6 min-w-0 flex-1 cursor-ew-resize touch-none"
        onKeyDown={mayEdit ? onKey : undefined}
        onPointerDownCapture={() => mayEdit && beginGesture(`Level of ${name}`)}
        onLostPointerCapture={() => {
          endRide();
          endCellGesture();
          endGesture();
        }}
        onValueChange={([value]) => move(Math.round(level(value) * 10) / 10, true)}
      >
        <Slider.Track className="absolute inset-x-0 top-[13px] block h-px bg-rule">
          <Slider.Range className={`absolute -top-px h-[3px] ${isOff ? 'bg-rule' : 'bg-cool'}`} />
        </Slider.Track>
        <span
          aria-hidden
          className="absolute top-[10px] h-[7px] w-px bg-ink-3"
          style={{ left: `${share(0)}%` }}
        />
        <Slider.Thumb
          aria-label={name}
          aria-valuetext={
            mix.muted
              ? `muted, ${decibels(mix.levelDb)} dB`
              : `${decibels(mix.levelDb)} dB${moves ? ', moves in this cue' : ''}`
          }
          className="flex h-6 w-3 justify-center pt-[6px]"
        >
          <svg className="pointer-events-none block" width="7" height="10" aria-hidden>
            <path
              d="M0 0H7V6L3.5 10L0 6Z"
              fill={isOff ? 'var(--ink-3)' : moves ? 'var(--warm)' : 'var(--ink)'}
            />
          </svg>
        </Slider.Thumb>
      </Slider.Root>
      <input
        aria-label={`${name}, typed`}
        className={`h-6 w-[38px] shrink-0 rounded-sm border bg-transparent px-0 text-right text-xs focus:bg-raised ${wrong === undefined ? 'border-transparent hover:border-rule focus:border-rule' : 'border-warm'} ${isOff ? 'text-ink-3' : ''} ${mix.muted ? 'line-through' : ''}`}
        disabled={!mayEdit}
        {...field}
      />
      {wrong !== undefined && (
        <span
          role="alert"
          className="absolute top-7 right-0 z-20 w-max rounded-sm border border-warm bg-raised px-1.5 py-0.5 text-xs text-warm"
        >
          {wrong}
        </span>
      )}
    </div>
  );
}

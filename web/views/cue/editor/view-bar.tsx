import { memo, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { metreOf } from '../../../state/cue.ts';
import { useDocuments } from '../../../state/documents.ts';
import { useSize } from '../../../ui/use-size.ts';
import { FIRST_TICK, keepToItself, showSpan, useEditor, zoomBy } from './editor-state.ts';

/** Room behind the last bar, so that one can go on writing. */
const BEHIND = 4 * 3840;
/** The part in view is drawn at least so wide, pixels. */
const LEAST_WIDTH = 18;

type Grip = 'whole' | 'start' | 'end';

/**
 * What of the cue is in view, as a bracketed line over all of it: drag it to go elsewhere, drag one of its ends to see more or less, press
 * beside it to turn a page.
 */
export const ViewBar = memo(function ViewBar({ end }: { end: number }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const startTick = useEditor((state) => state.startTick);
  const pixelsPerTick = useEditor((state) => state.pixelsPerTick);
  const metre = useDocuments((state) => metreOf(state.records));
  const drag = useRef<{ grip: Grip; x: number; from: number; to: number; perPixel: number } | undefined>(
    undefined,
  );
  const shown = width / pixelsPerTick;
  const last = Math.max(end + BEHIND, startTick + shown);
  const perPixel = (last - FIRST_TICK) / Math.max(1, width);
  const left = Math.min((startTick - FIRST_TICK) / perPixel, width - LEAST_WIDTH);
  const long = Math.max(LEAST_WIDTH, shown / perPixel);

  /** Goes on by ticks, as far back as the cue begins; what is in view stays as long. */
  const goBy = (ticks: number) => {
    const by = Math.max(FIRST_TICK - startTick, ticks);
    showSpan(startTick + by, startTick + shown + by, width);
  };
  const onDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    if (x < left - 4 || x > left + long + 4) {
      goBy(shown * (x < left ? -0.9 : 0.9));
      return;
    }
    event.currentTarget.setPointerCapture(event.pointerId);
    const near = Math.min(6, long / 3);
    const grip = x < left + near ? 'start' : x > left + long - near ? 'end' : 'whole';
    drag.current = { grip, x, from: startTick, to: startTick + shown, perPixel };
  };
  const onMove = (event: PointerEvent<HTMLDivElement>) => {
    const now = drag.current;
    if (!now) return;
    keepToItself(event);
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const by = (x - now.x) * now.perPixel;
    // As far back as the cue begins the whole goes, and keeps its length.
    const back = now.grip === 'whole' ? Math.max(FIRST_TICK - now.from, by) : by;
    showSpan(
      now.grip === 'end' ? now.from : now.from + back,
      now.grip === 'start' ? now.to : now.to + back,
      width,
      now.grip === 'start' ? 'end' : 'start',
    );
  };
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.1, ArrowRight: 0.1, PageUp: -0.9, PageDown: 0.9 }[event.key];
    if (by !== undefined) goBy(by * shown);
    else if (event.key === 'Home') goBy(-Infinity);
    else if (event.key === 'End') goBy(end - shown - startTick);
    else if (event.key === '+' || event.key === '-') zoomBy(event.key === '+' ? 1.5 : 1 / 1.5, width / 2);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const barOf = (tick: number) => metre.toBarBeat(Math.max(0, tick)).bar;
  return (
    <div
      ref={frame}
      role="scrollbar"
      aria-controls="part-notes"
      aria-orientation="horizontal"
      aria-label="Part of the cue in view"
      aria-valuemin={0}
      aria-valuemax={Math.round(end)}
      aria-valuenow={Math.max(0, Math.round(startTick))}
      aria-valuetext={`bar ${barOf(startTick)} to bar ${barOf(startTick + shown)}`}
      tabIndex={0}
      title="Drag to go elsewhere in the cue, its ends to see more or less; by keyboard: arrows, Page keys, Home, End, + and −."
      className="relative h-full w-full cursor-grab touch-none overflow-hidden border-t border-rule bg-ground outline-offset-[-2px]"
      onPointerDown={onDown}
      onPointerMove={onMove}
      onPointerUp={() => (drag.current = undefined)}
      onPointerCancel={() => (drag.current = undefined)}
      onKeyDown={onKey}
    >
      <div
        className="absolute inset-y-[6px] border-x-[3px] border-ink-2 before:absolute before:inset-x-0 before:top-1/2 before:h-[3px] before:-translate-y-1/2 before:bg-ink-3"
        style={{ left, width: Math.min(long, width) }}
      >
        <div className="absolute inset-y-0 -left-[6px] w-[9px] cursor-ew-resize" />
        <div className="absolute inset-y-0 -right-[6px] w-[9px] cursor-ew-resize" />
      </div>
    </div>
  );
});

/** Sees less, more, or all of the cue. */
export function ZoomButtons({ end, width }: { end: number; width: number }) {
  const small = 'grid h-full min-w-6 place-items-center text-ink-2 hover:text-ink';
  return (
    <div
      role="group"
      aria-label="Zoom"
      className="flex h-full items-center justify-end border-t border-r border-rule bg-ground text-xs"
    >
      <button
        type="button"
        className={small}
        aria-label="See more of the cue"
        title="See more of the cue (Ctrl and −, or the wheel with Ctrl)"
        onClick={() => zoomBy(1 / 1.5, width / 2)}
      >
        −
      </button>
      <button
        type="button"
        className={small}
        aria-label="See less, larger"
        title="See less, larger (Ctrl and +, or the wheel with Ctrl)"
        onClick={() => zoomBy(1.5, width / 2)}
      >
        +
      </button>
      <button
        type="button"
        className={`${small} px-1`}
        aria-label="See the whole cue"
        title="See the whole cue"
        onClick={() => showSpan(FIRST_TICK, end, width)}
      >
        all
      </button>
    </div>
  );
}

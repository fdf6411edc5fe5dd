import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { pitchName } from '#core/music/index.ts';
import { useList } from '../../../state/documents.ts';
import { useSize } from '../../../ui/use-size.ts';
import { keepToItself, ROW, showTopKey, TOP_KEYS, useEditor } from './editor-state.ts';

/** Which keys of all are in view, as a line at the right of the notes: drag it to go higher or lower. */
export function KeyBar() {
  const [frame, { height }] = useSize<HTMLDivElement>();
  const topKey = useEditor((state) => state.topKey);
  const middleC = useList('template')[0]?.middleC ?? 4;
  const drag = useRef<{ y: number; topKey: number } | undefined>(undefined);
  const rows = height / ROW;
  const whole = TOP_KEYS.high - TOP_KEYS.low + rows;
  const keysPerPixel = whole / Math.max(1, height);
  const onDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { y: event.clientY, topKey };
  };
  const onMove = (event: PointerEvent) => {
    if (!drag.current) return;
    keepToItself(event);
    showTopKey(drag.current.topKey - (event.clientY - drag.current.y) * keysPerPixel);
  };
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowDown: -1, PageUp: rows * 0.9, PageDown: -rows * 0.9 }[event.key];
    if (by === undefined) return;
    showTopKey(topKey + by);
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={frame}
      role="scrollbar"
      aria-controls="part-notes"
      aria-orientation="vertical"
      aria-label="Keys in view"
      aria-valuemin={TOP_KEYS.low}
      aria-valuemax={TOP_KEYS.high}
      aria-valuenow={Math.round(topKey)}
      aria-valuetext={`down from ${pitchName(Math.round(topKey), middleC)}`}
      tabIndex={0}
      title="Drag to go higher or lower; by keyboard: up, down and Page keys."
      className="absolute inset-y-0 right-0 w-[11px] cursor-grab touch-none bg-ground/70 outline-offset-[-2px]"
      onPointerDown={onDown}
      onPointerMove={onMove}
      onPointerUp={() => (drag.current = undefined)}
      onPointerCancel={() => (drag.current = undefined)}
      onKeyDown={onKey}
    >
      <div
        className="absolute inset-x-[3px] border-y-2 border-ink-2 before:absolute before:inset-y-0 before:left-1/2 before:w-[2px] before:-translate-x-1/2 before:bg-ink-3"
        style={{ top: (TOP_KEYS.high - topKey) / keysPerPixel, height: rows / keysPerPixel }}
      />
    </div>
  );
}

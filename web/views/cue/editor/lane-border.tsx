import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { LANE, laneHeight, setLaneHeight, useLaneHeights, type HighLane } from './lane-heights.ts';

/** The notes keep so many pixels, however high lanes are drawn. */
const NOTES_KEEP = 90;

/** The upper border of a lane: dragged, or moved by the arrow keys, it sets the lane’s height. */
export function LaneBorder({ lane, name }: { lane: HighLane; name: string }) {
  const height = useLaneHeights((heights) => laneHeight(heights, lane));
  const from = useRef<{ y: number; height: number; most: number } | undefined>(undefined);
  /** As high as it may become without taking the notes their room. */
  const mostOf = (element: Element) => {
    const notes = element.closest('[data-editor]')?.querySelector('[data-notes]')?.clientHeight ?? Infinity;
    return height + Math.max(0, notes - NOTES_KEEP);
  };
  const onMove = ({ clientY }: PointerEvent) => {
    if (!from.current) return;
    setLaneHeight(lane, Math.min(from.current.most, from.current.height + from.current.y - clientY));
  };
  const onKey = (event: KeyboardEvent<HTMLDivElement>) => {
    const by = { ArrowUp: LANE.step, ArrowDown: -LANE.step }[event.key];
    if (by === undefined && event.key !== 'Home') return;
    setLaneHeight(lane, by === undefined ? undefined : Math.min(mostOf(event.currentTarget), height + by));
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      role="separator"
      aria-orientation="horizontal"
      aria-label={`Height of the lane of ${name}`}
      aria-valuenow={height}
      aria-valuemin={LANE.least}
      aria-valuemax={LANE.most}
      tabIndex={0}
      title="Drag to make the lane higher or lower; twice pressed it is as usual again. By keyboard: up, down, Home."
      className="absolute inset-x-0 -top-[4px] z-10 h-[7px] cursor-row-resize outline-offset-0 hover:bg-cool/40 focus-visible:bg-cool/40"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { y: event.clientY, height, most: mostOf(event.currentTarget) };
      }}
      onPointerMove={onMove}
      onPointerUp={() => (from.current = undefined)}
      onPointerCancel={() => (from.current = undefined)}
      onDoubleClick={() => setLaneHeight(lane, undefined)}
      onKeyDown={onKey}
    />
  );
}

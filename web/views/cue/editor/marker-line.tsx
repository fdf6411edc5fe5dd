import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { beginGesture, endGesture, useList, type Item } from '../../../state/documents.ts';
import { useMayEdit } from '../../../state/session.ts';
import { goTo } from '../../../sound/commands.ts';
import { useSize } from '../../../ui/use-size.ts';
import { snap, tickToX, useEditor, xToTick } from './editor-state.ts';
import { moveMarker, removeMarker, renameMarker } from './marker-edits.ts';

/** Pixels before a press becomes a drag. */
const DRAG = 3;

/** Markers of the cue: a press goes there, a drag moves one, a double press renames it. */
export function MarkerLine() {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const markers = useList('marker');
  useEditor((state) => state.startTick);
  useEditor((state) => state.pixelsPerTick);
  const mayEdit = useMayEdit();
  const drag = useRef<{ marker: Item<'marker'>; x: number; moved: boolean } | undefined>(undefined);

  const onDown = (event: PointerEvent<HTMLButtonElement>, marker: Item<'marker'>) => {
    if (!mayEdit || event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { marker, x: event.clientX, moved: false };
    beginGesture('Move the marker');
  };
  const onMove = (event: PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    now.moved ||= Math.abs(event.clientX - now.x) > DRAG;
    if (now.moved) moveMarker(now.marker, snap(xToTick(tickToX(now.marker.tick) + event.clientX - now.x)));
  };
  const onUp = (event: PointerEvent, { tick }: Item<'marker'>) => {
    const now = drag.current;
    drag.current = undefined;
    if (now) endGesture(event.type !== 'pointercancel');
    if (!now?.moved && event.type === 'pointerup') void goTo(tick);
  };
  const onKey = (event: KeyboardEvent, marker: Item<'marker'>) => {
    const { gridTicks } = useEditor.getState();
    const step = { ArrowLeft: -gridTicks, ArrowRight: gridTicks }[event.key];
    if (event.key === 'Enter') void goTo(marker.tick);
    else if (!mayEdit) return;
    else if (event.key === 'F2') void renameMarker(marker);
    else if (event.key === 'Delete' || event.key === 'Backspace') removeMarker(marker);
    else if (step !== undefined) moveMarker(marker, snap(marker.tick) + step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const shown = [...markers].sort((a, b) => a.tick - b.tick);
  return (
    <div
      ref={frame}
      role="group"
      aria-label="Markers"
      className="relative h-full w-full overflow-hidden border-b border-rule-soft"
    >
      {shown.map((marker, i) => {
        const left = tickToX(marker.tick);
        // A name has the room up to the next one.
        const room = i + 1 < shown.length ? tickToX(shown[i + 1].tick) - left : width - left;
        if (left > width || left + Math.max(room, 24) < 0) return null;
        return (
          <button
            key={marker.id}
            type="button"
            title={`${marker.text}: press to go there, drag to move it, press twice to rename it; Delete removes it.`}
            className="absolute top-0 h-full touch-none truncate border-l-2 border-warm pl-1 text-left text-xs text-ink-2 hover:bg-cool-tint"
            style={{ left, maxWidth: Math.max(24, room - 2) }}
            onPointerDown={(event) => onDown(event, marker)}
            onPointerMove={onMove}
            onPointerUp={(event) => onUp(event, marker)}
            onPointerCancel={(event) => onUp(event, marker)}
            onDoubleClick={() => mayEdit && void renameMarker(marker)}
            onKeyDown={(event) => onKey(event, marker)}
          >
            {marker.text}
          </button>
        );
      })}
    </div>
  );
}

import { useEffect, useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import type { Note } from '#core/music/index.ts';
import { useTheme } from '../../../app/theme-choice.ts';
import { partOf } from '../../../state/cue.ts';
import { beginGesture, endGesture, useDocuments, type Item } from '../../../state/documents.ts';
import { useMayEdit } from '../../../state/session.ts';
import { useSize } from '../../../ui/use-size.ts';
import { keepToItself, tickToX, useEditor, wheelMoves, xToTick } from './editor-state.ts';
import { fitCanvas, themeInks } from './paint.ts';
import { selectedNotes, setVelocities } from './part-edits.ts';

/** Room above the hardest and below the softest note. */
const MARGIN = 5;
/** How near a stem counts as touched. */
const NEAR = 4;
const [SOFTEST, HARDEST] = [1, 127];
const STEP = 4;

/** How hard each note is struck, a stem at its beginning: dragging across sets those that are passed, or of them the selected. */
export function VelocityLane({ track }: { track: Item<'track'> }) {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const notes = useDocuments((state) => partOf(state.records, track.id).part.notes);
  const view = useEditor();
  const theme = useTheme((state) => state.theme);
  const mayEdit = useMayEdit();
  const { selection } = view;
  // Looked up one by one: the selected notes are few, those of a part many.
  const told = useMemo(
    () => (selection.size > 0 && notes.length > 0 ? spoken(selectedNotes()) : spoken([])),
    [notes, selection],
  );
  const last = useRef<{ x: number; velocity: number } | undefined>(undefined);
  const scale = height - 2 * MARGIN;
  const toY = (velocity: number) => MARGIN + (1 - velocity / HARDEST) * scale;

  useEffect(() => {
    const element = canvas.current;
    const context = element && fitCanvas(element, width, height);
    if (!element || !context) return;
    const inks = themeInks();
    context.fillStyle = inks.sheet;
    context.fillRect(0, 0, width, height);
    context.fillStyle = inks.ruleSoft;
    context.fillRect(0, Math.round(height / 2), width, 1);
    for (const { id, startTick, velocity } of inView(notes, width)) {
      const [x, y] = [Math.round(tickToX(startTick)), toY(velocity)];
      const chosen = view.selection.has(id);
      context.fillStyle = chosen ? inks.cool : inks.ink2;
      context.fillRect(x, y, chosen ? 3 : 1.5, height - y);
      context.fillRect(x - 2, y - 1.5, chosen ? 7 : 5.5, 3);
    }
  });
  useEffect(() => {
    const element = canvas.current;
    const onWheel = (event: WheelEvent) => wheelMoves(event, event.offsetX);
    element?.addEventListener('wheel', onWheel, { passive: false });
    return () => element?.removeEventListener('wheel', onWheel);
  }, []);
  void theme;

  const placeOf = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = 1 - (event.clientY - box.top - MARGIN) / scale;
    return { x: event.clientX - box.left, velocity: held(share * HARDEST) };
  };
  const drawTo = (place: { x: number; velocity: number }) => {
    const from = last.current ?? place;
    last.current = place;
    const [left, right] = from.x < place.x ? [from, place] : [place, from];
    const passed = inView(notes, width).filter(({ id, startTick }) => {
      const x = tickToX(startTick);
      return x >= left.x - NEAR && x <= right.x + NEAR && (selection.size === 0 || selection.has(id));
    });
    setVelocities(
      passed.map(({ id, startTick }) => {
        const share = right.x === left.x ? 1 : (tickToX(startTick) - left.x) / (right.x - left.x);
        const value = left.velocity + Math.min(1, Math.max(0, share)) * (right.velocity - left.velocity);
        return { id, velocity: held(right.x === left.x ? place.velocity : value) };
      }),
    );
  };
  const end = (keep: boolean) => {
    if (!last.current) return;
    last.current = undefined;
    endGesture(keep);
  };
  const onKey = (event: KeyboardEvent) => {
    const up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (up === undefined || !mayEdit) return;
    const by = up * (event.shiftKey ? 1 : STEP);
    setVelocities(
      selectedNotes().map(({ id, velocity }) => ({ id, velocity: held(velocity + by) })),
      'velocities',
    );
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={frame}
      className="h-full w-full overflow-hidden"
      title="How hard notes are struck. Drag across to draw it; of selected notes alone where there are some. By keyboard: up and down change the selected notes."
    >
      <canvas
        ref={canvas}
        tabIndex={0}
        role="application"
        aria-label={`Velocities of ${track.name}, ${notes.length} notes. ${told}`}
        style={{ width, height }}
        className="block cursor-crosshair touch-none"
        onKeyDown={onKey}
        onPointerDown={(event) => {
          if (!mayEdit || event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          beginGesture('Velocity');
          drawTo(placeOf(event));
        }}
        onPointerMove={(event) => {
          if (!last.current) return;
          keepToItself(event);
          drawTo(placeOf(event));
        }}
        onPointerUp={() => end(true)}
        onPointerCancel={() => end(false)}
      />
    </div>
  );
}

const held = (velocity: number) => Math.round(Math.min(HARDEST, Math.max(SOFTEST, velocity)));

/** Notes whose beginnings are in view; they come in time order. */
function inView(notes: readonly Note[], width: number): Note[] {
  const [from, to] = [xToTick(-NEAR), xToTick(width + NEAR)];
  let [low, high] = [0, notes.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (notes[middle].startTick < from) low = middle + 1;
    else high = middle;
  }
  let end = low;
  while (end < notes.length && notes[end].startTick <= to) end++;
  return notes.slice(low, end);
}

function spoken(selected: readonly Note[]): string {
  if (selected.length === 0) return 'None selected.';
  let [low, high] = [HARDEST, SOFTEST];
  for (const { velocity } of selected) [low, high] = [Math.min(low, velocity), Math.max(high, velocity)];
  return `${selected.length} selected: ${low === high ? low : `${low} to ${high}`} of 127.`;
}

import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { beginGesture, edit, endGesture, useDocuments, type Item } from '../../../state/documents.ts';
import { useVocabulary } from '../../../state/keymaps.ts';
import { useMayEdit } from '../../../state/session.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { partOf } from '../../../state/cue.ts';
import { useSize } from '../../../ui/use-size.ts';
import { snap, snapDown, tickToX, useEditor, xToTick } from './editor-state.ts';
import { markSpan } from './part-edits.ts';

const EDGE = 7;
/** How hard a note is struck by which it is told what sounds under a mark. */
const ASKED_VELOCITY = 84;

/** Articulations over the notes: drag to mark a span with the articulation the hand plays now, drag an end to move it. */
export function MarkLine({ track }: { track: Item<'track'> }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const part = useDocuments((state) => partOf(state.records, track.id).part);
  useEditor((state) => state.startTick);
  useEditor((state) => state.pixelsPerTick);
  const markId = useEditor((state) => state.markId);
  const mayEdit = useMayEdit();
  const vocabulary = useVocabulary();
  const voicing = usePerformance((state) => state.plans[track.id]?.context.voicing);
  const drag = useRef<
    { from: number; to: number } | { mark: Item<'mark'>; end: 'startTick' | 'endTick' } | undefined
  >(undefined);
  const ghost = useRef<HTMLDivElement>(null);

  const xOf = (event: PointerEvent) => event.clientX - (frame.current?.getBoundingClientRect().left ?? 0);
  const showGhost = (from: number, to: number) => {
    if (!ghost.current) return;
    ghost.current.hidden = false;
    ghost.current.style.left = `${tickToX(Math.min(from, to))}px`;
    ghost.current.style.width = `${Math.abs(tickToX(to) - tickToX(from))}px`;
  };
  const onDown = (event: PointerEvent<HTMLDivElement>) => {
    if (!mayEdit || event.target !== event.currentTarget) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const tick = snapDown(xToTick(xOf(event)));
    drag.current = { from: tick, to: tick };
  };
  const onMove = (event: PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const tick = snap(xToTick(xOf(event)));
    if ('mark' in now) {
      const { mark, end } = now;
      const { gridTicks } = useEditor.getState();
      const value =
        end === 'startTick'
          ? Math.min(tick, mark.endTick - gridTicks)
          : Math.max(tick, mark.startTick + gridTicks);
      edit('Move mark', [{ kind: 'mark', id: mark.id, op: 'update', fields: { [end]: Math.max(0, value) } }]);
    } else {
      now.to = tick;
      showGhost(now.from, now.to);
    }
  };
  const onUp = () => {
    const now = drag.current;
    drag.current = undefined;
    if (ghost.current) ghost.current.hidden = true;
    if (!now) return;
    if ('mark' in now) endGesture();
    else if (now.from !== now.to)
      markSpan(
        track.id,
        Math.min(now.from, now.to),
        Math.max(now.from, now.to),
        usePerformance.getState().articulation,
      );
    else useEditor.setState({ markId: undefined });
  };
  const onMarkDown = (event: PointerEvent<HTMLButtonElement>, mark: Item<'mark'>) => {
    useEditor.setState({ markId: mark.id, selection: new Set() });
    if (!mayEdit) return;
    const box = event.currentTarget.getBoundingClientRect();
    const end =
      event.clientX - box.left < EDGE
        ? 'startTick'
        : box.right - event.clientX < EDGE
          ? 'endTick'
          : undefined;
    if (!end) return;
    frame.current?.setPointerCapture(event.pointerId);
    beginGesture('Move mark');
    drag.current = { mark, end };
  };
  const onMarkKey = (event: KeyboardEvent, mark: Item<'mark'>) => {
    const { gridTicks } = useEditor.getState();
    const step = { ArrowLeft: -gridTicks, ArrowRight: gridTicks }[event.key];
    if (event.key === 'Delete' || event.key === 'Backspace')
      edit('Remove the mark', [{ kind: 'mark', id: mark.id, op: 'remove' }]);
    else if (step !== undefined) {
      const by = event.shiftKey ? step : Math.max(-mark.startTick, step);
      const fields = event.shiftKey
        ? { endTick: Math.max(mark.startTick + gridTicks, mark.endTick + by) }
        : { startTick: mark.startTick + by, endTick: mark.endTick + by };
      edit('Move mark', [{ kind: 'mark', id: mark.id, op: 'update', fields }], 'mark');
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={frame}
      className="relative h-[26px] w-full overflow-hidden border-b border-rule-soft"
      onPointerDown={onDown}
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerCancel={onUp}
      title="Drag to mark a span with the articulation chosen below; drag an end to move it"
    >
      <div
        ref={ghost}
        hidden
        className="pointer-events-none absolute top-1 h-5 border border-cool bg-cool-tint"
      />
      {(part.marks as readonly Item<'mark'>[]).map((mark) => {
        const left = tickToX(mark.startTick);
        const right = tickToX(mark.endTick);
        if (right < 0 || left > width) return null;
        const chosen = mark.id === markId;
        const { name } = vocabulary.term(mark.articulation);
        const standIn = voicing?.standInFor(mark.articulation, ASKED_VELOCITY);
        const instead = standIn === null ? 'nothing' : standIn && vocabulary.term(standIn).name;
        return (
          <button
            key={mark.id}
            type="button"
            aria-pressed={chosen}
            title={
              instead === undefined
                ? undefined
                : `The instrument of this track has no ${name}: ${standIn === null ? 'nothing sounds' : `${instead} stands in`}.`
            }
            onPointerDown={(event) => onMarkDown(event, mark)}
            onClick={() => useEditor.setState({ markId: mark.id, selection: new Set() })}
            onKeyDown={(event) => mayEdit && onMarkKey(event, mark)}
            className={`absolute top-px h-[24px] overflow-hidden border-b border-l-2 border-ink pl-1.5 text-left font-serif text-[15px] whitespace-nowrap italic ${chosen ? 'bg-cool-tint' : ''}`}
            // The name stands where the span is in view.
            style={{
              left,
              width: Math.max(10, right - left - 3),
              ...(left < 0 && { paddingLeft: 6 - left }),
            }}
          >
            {name}
            {instead !== undefined && (
              <span className="ml-1.5 font-sans text-xs text-straw not-italic">≈ {instead}</span>
            )}
          </button>
        );
      })}
    </div>
  );
}

import { memo, useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { singleKeysOn } from '../../../app/keys.ts';
import { beginGesture, edit, endGesture, useDocuments, useItem } from '../../../state/documents.ts';
import { useMayEdit } from '../../../state/session.ts';
import { useTheme } from '../../../app/theme-choice.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { locate } from '../../../sound/transport.ts';
import { metreOf } from '../../../state/cue.ts';
import { useSize } from '../../../ui/use-size.ts';
import { snap, tickToX, useEditor, xToTick } from './editor-state.ts';
import { addMarker } from './marker-edits.ts';
import { eachLine, fitCanvas, themeInks } from './paint.ts';

const HEIGHT = 24;

/** Bar numbers and the loop: a press puts the playhead there, a drag sets the loop. */
export const BarLine = memo(function BarLine() {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const metre = useDocuments((state) => metreOf(state.records));
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const looping = usePerformance((state) => state.looping);
  const restTick = usePerformance((state) => state.restTick);
  const view = useEditor();
  const theme = useTheme((state) => state.theme);
  const mayEdit = useMayEdit();
  const from = useRef<{ tick: number; x: number; dragged: boolean } | undefined>(undefined);

  useEffect(() => {
    const context = canvas.current && fitCanvas(canvas.current, width, HEIGHT);
    if (!canvas.current || !context) return;
    const inks = themeInks();
    context.fillStyle = inks.sheet;
    context.fillRect(0, 0, width, HEIGHT);
    if (cue && cue.loopEndTick > cue.loopStartTick) {
      const [left, right] = [tickToX(cue.loopStartTick), tickToX(cue.loopEndTick)];
      context.fillStyle = looping ? inks.cool : inks.rule;
      context.globalAlpha = looping ? 0.5 : 0.7;
      context.fillRect(left, HEIGHT - 6, right - left, 5);
      context.globalAlpha = 1;
    }
    context.font = '12px "Public Sans Variable", sans-serif';
    context.textBaseline = 'top';
    let free = -Infinity;
    eachLine(metre, width, (x, bar) => {
      if (bar === undefined) return;
      context.fillStyle = inks.rule;
      context.fillRect(Math.round(x), 10, 1, HEIGHT - 10);
      if (x < free) return;
      context.fillStyle = inks.ink2;
      context.fillText(String(bar), x + 3, 2);
      free = x + 34;
    });
  }, [width, metre, cue, looping, view, theme]);

  const tickAt = (event: PointerEvent) =>
    xToTick(event.clientX - event.currentTarget.getBoundingClientRect().left);
  const onMove = (event: PointerEvent) => {
    const start = from.current;
    if (!start || !cue || !mayEdit) return;
    start.dragged ||= Math.abs(event.clientX - start.x) > 4;
    if (!start.dragged) return;
    const [a, b] = [snap(start.tick), snap(tickAt(event))];
    edit('Set the loop', [
      {
        kind: 'cue',
        id: cue.id,
        op: 'update',
        fields: { loopStartTick: Math.min(a, b), loopEndTick: Math.max(a, b) },
      },
    ]);
  };
  const placeText = (tick: number) => {
    const at = metre.toBarBeat(tick);
    return `bar ${at.bar}, beat ${at.beat}`;
  };
  const setLoop = (fields: { loopStartTick: number; loopEndTick: number }) => {
    if (cue && mayEdit) edit('Set the loop', [{ kind: 'cue', id: cue.id, op: 'update', fields }], 'loop');
  };
  const onKey = (event: KeyboardEvent) => {
    if (!cue || event.ctrlKey || event.metaKey || event.altKey) return;
    const { gridTicks } = useEditor.getState();
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (step !== undefined && event.shiftKey) {
      const from = cue.loopEndTick > cue.loopStartTick ? cue.loopStartTick : restTick;
      const end = cue.loopEndTick > cue.loopStartTick ? cue.loopEndTick : restTick;
      setLoop({ loopStartTick: from, loopEndTick: Math.max(from, snap(end) + step * gridTicks) });
    } else if (step !== undefined) locate(Math.max(0, snap(restTick) + step * gridTicks));
    else if (event.key === 'k' && singleKeysOn()) {
      if (mayEdit) void addMarker();
    } else if (event.key === 'l' && singleKeysOn())
      setLoop({ loopStartTick: restTick, loopEndTick: Math.max(restTick + 4 * 960, cue.loopEndTick) });
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={frame}
      className="h-[24px] w-full overflow-hidden border-b border-rule"
      title="Press to put the playhead; drag to set the loop. By keyboard: arrows move the playhead, with Shift the loop’s end; l begins the loop here, k sets a marker."
      role="slider"
      tabIndex={0}
      aria-label="Playhead and loop"
      aria-valuemin={0}
      aria-valuemax={cue?.endTick ?? 0}
      aria-valuenow={restTick}
      aria-valuetext={`${placeText(restTick)}${cue && cue.loopEndTick > cue.loopStartTick ? `, loop from ${placeText(cue.loopStartTick)} to ${placeText(cue.loopEndTick)}` : ''}`}
      onKeyDown={onKey}
    >
      <canvas
        ref={canvas}
        style={{ width, height: HEIGHT }}
        className="block cursor-text touch-none"
        aria-hidden
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          from.current = { tick: tickAt(event), x: event.clientX, dragged: false };
          beginGesture('Set the loop');
        }}
        onPointerMove={onMove}
        onPointerUp={(event) => {
          endGesture();
          if (from.current && !from.current.dragged) locate(snap(tickAt(event)));
          from.current = undefined;
        }}
      />
    </div>
  );
});

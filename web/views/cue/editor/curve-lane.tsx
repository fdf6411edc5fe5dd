import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { curveValue, thinCurve, type CurvePoint } from '#core/music/index.ts';
import { useMayEdit } from '../../../state/session.ts';
import { useTheme } from '../../../app/theme-choice.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { useSize } from '../../../ui/use-size.ts';
import { snap, tickToX, useEditor, wheelMoves, xToTick } from './editor-state.ts';
import { fitCanvas, themeInks } from './paint.ts';

/** Drawn lines are thinned to points that stay within so many 127ths of the scale of the hand. */
const TOLERANCE = 1.2;

interface CurveLaneProps {
  name: string;
  /** In time order. */
  curve: readonly CurvePoint[];
  low: number;
  high: number;
  /** Where it stands before its first point, and without any. */
  rest: number;
  /** Words beside the scale, from high to low. */
  words: readonly { value: number; text: string }[];
  /** A value for those who do not see it. */
  spoken: (value: number) => string;
  /** One step of the arrow keys; Shift makes it a fifth. */
  step: number;
  onDraw: (line: readonly { tick: number; value: number }[]) => void;
  onSet: (tick: number, value: number) => void;
  onRemove: (tick: number) => void;
}

/** A value over time: drawn with the pointer, or point by point with the keyboard. */
export function CurveLane({
  name,
  curve,
  low,
  high,
  rest: resting,
  words,
  spoken,
  step: keyStep,
  onDraw,
  onSet,
  onRemove,
}: CurveLaneProps) {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const view = useEditor();
  const theme = useTheme((state) => state.theme);
  const mayEdit = useMayEdit();
  const [drawn, setDrawn] = useState<{ tick: number; value: number }[]>();
  const [focused, setFocused] = useState(false);
  const rest = usePerformance((state) => state.restTick);
  const valueAt = (line: readonly { tick: number; value: number }[], tick: number) =>
    curveValue(line as readonly CurvePoint[], tick, resting);
  const toY = (value: number) => 4 + (1 - (value - low) / (high - low)) * (height - 8);

  useEffect(() => {
    const element = canvas.current;
    const context = element && fitCanvas(element, width, height);
    if (!element || !context) return;
    const inks = themeInks();
    context.fillStyle = inks.sheet;
    context.fillRect(0, 0, width, height);
    context.fillStyle = inks.ruleSoft;
    for (const { value } of words) context.fillRect(0, Math.round(toY(value)), width, 1);
    const line = drawn
      ? [
          ...curve.filter((p) => p.tick < drawn[0].tick),
          ...drawn,
          ...curve.filter((p) => p.tick > drawn[drawn.length - 1].tick),
        ]
      : curve;
    context.beginPath();
    const at = (tick: number) => valueAt(line, tick);
    context.moveTo(0, toY(at(xToTick(0))));
    if (line.length > 0 && tickToX(line[0].tick) > 0) context.lineTo(tickToX(line[0].tick), toY(resting));
    for (const point of line) {
      const x = tickToX(point.tick);
      if (x >= 0 && x <= width) context.lineTo(x, toY(point.value));
    }
    context.lineTo(width, toY(at(xToTick(width))));
    context.strokeStyle = inks.cool;
    context.lineWidth = 1.5;
    context.stroke();
    context.lineTo(width, height);
    context.lineTo(0, height);
    context.fillStyle = inks.coolTint;
    context.globalAlpha = 0.45;
    context.fill();
    context.globalAlpha = 1;
    context.fillStyle = inks.cool;
    for (const point of curve) {
      const x = tickToX(point.tick);
      if (x >= -3 && x <= width + 3) context.fillRect(x - 2, toY(point.value) - 2, 4, 4);
    }
    context.font = 'italic 600 13px "Source Serif 4 Variable", serif';
    for (const { value, text } of words) {
      const y = Math.min(height - 4, Math.max(12, toY(value) + 4));
      // The curve runs behind the words.
      context.fillStyle = inks.sheet;
      context.globalAlpha = 0.85;
      context.fillRect(1, y - 11, context.measureText(text).width + 6, 15);
      context.globalAlpha = 1;
      context.fillStyle = inks.ink3;
      context.fillText(text, 4, y);
    }
    if (focused) {
      context.strokeStyle = inks.ink;
      context.strokeRect(tickToX(rest) - 4.5, toY(at(rest)) - 4.5, 9, 9);
    }
  });

  useEffect(() => {
    const element = canvas.current;
    const onWheel = (event: WheelEvent) => wheelMoves(event, event.offsetX);
    element?.addEventListener('wheel', onWheel, { passive: false });
    return () => element?.removeEventListener('wheel', onWheel);
  }, []);
  void view;
  void theme;

  const pointAt = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const value = low + (1 - (event.clientY - box.top - 4) / (height - 8)) * (high - low);
    return {
      tick: Math.max(0, Math.round(xToTick(event.clientX - box.left))),
      value: Math.min(high, Math.max(low, value)),
    };
  };
  const extend = (
    line: readonly { tick: number; value: number }[],
    point: { tick: number; value: number },
  ) => {
    const last = line[line.length - 1];
    const [low, high] = last.tick < point.tick ? [last.tick, point.tick] : [point.tick, last.tick];
    return [...line.filter((p) => p.tick < low || p.tick > high || p === last), point].sort(
      (a, b) => a.tick - b.tick,
    );
  };
  const last = useRef<{ tick: number; value: number } | undefined>(undefined);
  const onMove = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!drawn || !last.current) return;
    const point = pointAt(event);
    if (point.tick === last.current.tick) return;
    last.current = point;
    setDrawn(extend(drawn, point));
  };
  const onUp = () => {
    if (drawn) {
      const line = thinCurve(drawn, ((high - low) / 127) * TOLERANCE);
      onDraw(line.length === 1 ? [{ ...line[0], tick: snap(line[0].tick) }] : line);
    }
    setDrawn(undefined);
  };
  const onKey = (event: KeyboardEvent) => {
    const { gridTicks } = useEditor.getState();
    const value = valueAt(curve, rest);
    const step = event.shiftKey ? keyStep / 5 : keyStep;
    const acts: Record<string, () => void> = {
      ArrowLeft: () => usePerformance.setState({ restTick: Math.max(0, snap(rest) - gridTicks) }),
      ArrowRight: () => usePerformance.setState({ restTick: snap(rest) + gridTicks }),
      ArrowUp: () => mayEdit && onSet(rest, Math.min(high, value + step)),
      ArrowDown: () => mayEdit && onSet(rest, Math.max(low, value - step)),
      Delete: () => mayEdit && onRemove(rest),
      Backspace: () => mayEdit && onRemove(rest),
    };
    if (!(event.key in acts)) return;
    event.preventDefault();
    event.stopPropagation();
    acts[event.key]();
  };
  return (
    <div
      ref={frame}
      className="h-full w-full overflow-hidden"
      title="Drag to draw. By keyboard: left and right move along the grid, up and down set a point, Delete removes it."
    >
      <canvas
        ref={canvas}
        tabIndex={0}
        role="application"
        aria-label={`${name} curve, ${curve.length} points. At the playhead ${spoken(valueAt(curve, rest))}.`}
        style={{ width, height }}
        className="block cursor-crosshair touch-none"
        onFocus={() => setFocused(true)}
        onBlur={() => setFocused(false)}
        onKeyDown={onKey}
        onPointerDown={(event) => {
          if (!mayEdit) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          last.current = pointAt(event);
          setDrawn([last.current]);
        }}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerCancel={() => setDrawn(undefined)}
      />
    </div>
  );
}

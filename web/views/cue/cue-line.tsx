import { useMemo } from 'react';
import { metreOf } from '../../state/cue.ts';
import { useDocuments, useList } from '../../state/documents.ts';
import { locate } from '../../sound/transport.ts';
import { useSize } from '../../ui/use-size.ts';
import { barsAlong } from './bars-along.ts';
import { useEditor } from './editor/editor-state.ts';

/** Above the overviews, on their scale: bars, the passages that markers begin, and what of it the editor shows. */
export function CueLine({ end }: { end: number }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const metre = useDocuments((state) => metreOf(state.records));
  const markers = useList('marker');
  const bars = useMemo(() => barsAlong(metre, end, width), [metre, end, width]);
  const passages = [...markers].sort((a, b) => a.tick - b.tick).filter(({ tick }) => tick < end);
  const x = (tick: number) => (tick / end) * width;
  const go = (tick: number) => {
    locate(tick);
    useEditor.setState({ startTick: Math.max(0, tick - 240) });
  };
  return (
    <div className="flex border-b border-rule-soft text-xs">
      <div className="flex w-[290px] shrink-0 items-end pl-3 text-ink-3">
        {passages.length > 0 ? 'Bars and passages' : 'Bars'}
      </div>
      <div ref={frame} className="relative min-w-0 flex-1 overflow-hidden">
        <div className="relative h-[15px]" aria-hidden>
          {bars.map(({ bar, tick }) => (
            <span
              key={bar}
              className="absolute top-0 border-l border-rule pl-1 text-ink-3"
              style={{ left: x(tick) }}
            >
              {bar}
            </span>
          ))}
        </div>
        {passages.length > 0 && (
          <div role="group" aria-label="Passages" className="relative h-[18px]">
            {passages.map(({ id, text, tick }, i) => {
              const next = passages.at(i + 1)?.tick ?? end;
              const { bar } = metre.toBarBeat(tick);
              return (
                <button
                  key={id}
                  type="button"
                  title={`${text}, from bar ${bar} on: press to go there`}
                  className="absolute inset-y-0 truncate border-l-2 border-warm pl-1 text-left text-ink-2 hover:bg-cool-tint hover:text-ink"
                  style={{ left: x(tick), width: Math.max(6, x(next) - x(tick) - 1) }}
                  onClick={() => go(tick)}
                >
                  {text}
                </button>
              );
            })}
          </div>
        )}
        <InView end={end} width={width} />
      </div>
    </div>
  );
}

/** What the editor shows, bracketed. */
function InView({ end, width }: { end: number; width: number }) {
  const startTick = useEditor((state) => state.startTick);
  const shown = useEditor((state) => state.width / state.pixelsPerTick);
  const left = Math.max(0, startTick / end) * width;
  const right = Math.min(1, (startTick + shown) / end) * width;
  if (shown === 0 || right <= left) return null;
  return (
    <div
      className="pointer-events-none absolute bottom-0 h-[5px] border-x-2 border-b-2 border-cool"
      style={{ left, width: right - left }}
      aria-hidden
    />
  );
}

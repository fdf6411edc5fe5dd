import { useRef, type PointerEvent } from 'react';
import type { ReferenceInfo } from '#api/index.ts';
import { LONGEST_PASSAGE_SECONDS } from '#core/listen/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { Passage } from '../../state/references.ts';
import { Ruler } from '../../ui/ruler.tsx';

const HEIGHT = 56;
const SHORTEST_SECONDS = 0.5;

/** The shape of a recording; drag over it to choose a passage, or set its ends on rulers. */
export function PassageChoice({
  reference,
  passage,
  onChange,
}: {
  reference: ReferenceInfo;
  passage: Passage;
  onChange: (passage: Passage) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const anchor = useRef<number>(undefined);
  const seconds = reference.frames / ENGINE_RATE;
  const at = (event: PointerEvent) => {
    const frame = box.current?.getBoundingClientRect();
    if (!frame) return 0;
    return Math.max(0, Math.min(seconds, ((event.clientX - frame.left) / frame.width) * seconds));
  };
  const set = (from: number, to: number) => {
    const round = (value: number) => Math.round(value * 10) / 10;
    const start = Math.max(0, Math.min(from, seconds - SHORTEST_SECONDS));
    const end = Math.min(
      seconds,
      Math.max(start + SHORTEST_SECONDS, Math.min(to, start + LONGEST_PASSAGE_SECONDS)),
    );
    onChange({ from: round(start), to: Math.min(seconds, round(end)) });
  };
  const { outline } = reference;
  const most = Math.max(0.001, ...outline);
  const path = outline
    .map((value, i) => {
      const half = (value / most) * (HEIGHT / 2 - 2);
      return `M${i + 0.5} ${HEIGHT / 2 - half}V${HEIGHT / 2 + half}`;
    })
    .join('');
  return (
    <div>
      <div
        ref={box}
        className="relative cursor-crosshair touch-none border border-rule bg-raised"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          anchor.current = at(event);
        }}
        onPointerMove={(event) => {
          if (anchor.current === undefined || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
          const now = at(event);
          set(Math.min(anchor.current, now), Math.max(anchor.current, now));
        }}
        onPointerUp={() => (anchor.current = undefined)}
        onPointerCancel={() => (anchor.current = undefined)}
      >
        <svg
          viewBox={`0 0 ${Math.max(1, outline.length)} ${HEIGHT}`}
          preserveAspectRatio="none"
          className="block w-full"
          height={HEIGHT}
          aria-hidden
        >
          <path d={path} stroke="var(--ink-3)" />
        </svg>
        <div
          className="pointer-events-none absolute inset-y-0 border-x-2 border-cool bg-cool/15"
          style={{
            left: `${(passage.from / seconds) * 100}%`,
            width: `${((passage.to - passage.from) / seconds) * 100}%`,
          }}
        />
      </div>
      <div className="mt-1 grid grid-cols-2 gap-6">
        <Ruler
          label="Passage from"
          unit="s"
          value={passage.from}
          low={0}
          high={Math.max(0.1, Math.round((seconds - SHORTEST_SECONDS) * 10) / 10)}
          rest={0}
          step={1}
          help="Where the passage that is compared begins. Choose one of one kind: a chord, a line, its tail."
          onChange={(from) => set(from, Math.max(passage.to, from + SHORTEST_SECONDS))}
        />
        <Ruler
          label="to"
          unit="s"
          value={passage.to}
          low={0.5}
          high={Math.max(0.6, Math.round(seconds * 10) / 10)}
          rest={Math.min(seconds, passage.from + 10)}
          step={1}
          help={`Where it ends, ${LONGEST_PASSAGE_SECONDS} seconds after its beginning at most.`}
          onChange={(to) => set(Math.min(passage.from, to - SHORTEST_SECONDS), to)}
        />
      </div>
    </div>
  );
}

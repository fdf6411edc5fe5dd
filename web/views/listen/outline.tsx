import { useRef } from 'react';
import { useFrame } from '../../ui/use-frame.ts';
import { listeningPlace } from '../../sound/listening.ts';
import { ENGINE_RATE } from '#core/units/index.ts';

const HEIGHT = 16;

/** Shape of a phrase over time; a line shows where it has come to while it sounds. */
export function Outline({
  outline,
  seconds,
  sounding,
}: {
  outline: readonly number[];
  seconds: number;
  sounding: boolean;
}) {
  const most = Math.max(0.001, ...outline);
  const width = 3 * outline.length;
  const path = outline
    .map((value, i) => {
      const half = Math.max(0.5, Math.sqrt(value / most) * (HEIGHT / 2 - 0.5));
      return `M${3 * i + 1.5} ${HEIGHT / 2 - half}V${HEIGHT / 2 + half}`;
    })
    .join('');
  return (
    <span className="relative block h-4 min-w-0 flex-1">
      <svg
        viewBox={`0 0 ${width} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="block h-4 w-full"
        aria-hidden
      >
        <path d={path} stroke={sounding ? 'var(--cool)' : 'var(--ink-3)'} strokeWidth={1.6} />
      </svg>
      {sounding && <Place seconds={seconds} />}
    </span>
  );
}

function Place({ seconds }: { seconds: number }) {
  const line = useRef<HTMLSpanElement>(null);
  useFrame(() => {
    const share = (listeningPlace() / ENGINE_RATE / seconds) % 1;
    if (line.current) line.current.style.left = `${Math.max(0, share * 100)}%`;
  });
  return <span ref={line} className="absolute -top-1 -bottom-1 w-[2px] bg-warm" />;
}

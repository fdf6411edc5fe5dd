import { Slider } from 'radix-ui';
import type { KeyboardEvent } from 'react';
import { levelsAt, useBalance } from '../../sound/balance.ts';
import { linkedWith, setLevels } from '../../state/balance.ts';
import { beginGesture, endGesture, useDocuments } from '../../state/documents.ts';
import { signed } from './figures.ts';

/** Near to far for one section: moves all its positions along the way that was learned from them. */
export function DistanceRuler({
  trackId,
  name,
  mayEdit,
}: {
  trackId: string;
  name: string;
  mayEdit: boolean;
}) {
  const figures = useBalance((state) => state.sections[trackId]?.figures);
  if (!figures?.reach) return <span className="px-1 text-xs text-ink-3">–</span>;
  const { place, reach, depthDb } = figures;
  // Off the path it stands where its depth would be.
  const guess = ((depthDb ?? reach[0]) - reach[0]) / (reach[1] - reach[0] || 1);
  const at = Math.round((place ?? Math.min(1, Math.max(0, guess))) * 100);
  const go = (value: number) => {
    const to = Math.min(100, Math.max(0, value)) / 100;
    for (const id of linkedWith(useDocuments.getState().records, trackId))
      void levelsAt(id, to).then(
        (levels) => levels && setLevels(id, levels, `Distance of ${name}`, `distance ${trackId}`),
      );
  };
  const onKey = (event: KeyboardEvent) => {
    const size = event.shiftKey ? 1 : 5;
    const to: Record<string, number> = {
      ArrowRight: at + size,
      ArrowUp: at + size,
      ArrowLeft: at - size,
      ArrowDown: at - size,
      Home: 0,
      End: 100,
    };
    if (!(event.key in to)) return;
    event.preventDefault();
    event.stopPropagation();
    go(to[event.key]);
  };
  return (
    <Slider.Root
      value={[at]}
      min={0}
      max={100}
      step={1}
      disabled={!mayEdit}
      title={
        place === undefined
          ? 'Its levels have left the way from near to far; moving this brings them back to it.'
          : `From ${signed(reach[0])} dB (near) to ${signed(reach[1])} dB (far) of direct sound against the room.`
      }
      className="relative mx-1 block h-6 cursor-ew-resize touch-none"
      onKeyDown={mayEdit ? onKey : undefined}
      onPointerDownCapture={() => mayEdit && beginGesture(`Distance of ${name}`)}
      onLostPointerCapture={() => setTimeout(endGesture, 60)}
      onValueChange={([value]) => go(value)}
    >
      <Slider.Track className="absolute inset-x-0 top-[12px] block h-px bg-rule">
        <span aria-hidden className="absolute -top-[3px] left-0 h-[7px] w-px bg-ink-3" />
        <span aria-hidden className="absolute -top-[3px] right-0 h-[7px] w-px bg-ink-3" />
      </Slider.Track>
      <Slider.Thumb
        aria-label={`Distance of ${name}`}
        aria-valuetext={`${at} of 100${place === undefined ? ', off the path' : ''}`}
        className="flex h-6 w-3 items-center justify-center"
      >
        <svg className="pointer-events-none block" width="9" height="9" aria-hidden>
          <path
            d="M4.5 0L9 4.5L4.5 9L0 4.5Z"
            fill={place === undefined ? 'none' : 'var(--ink)'}
            stroke={place === undefined ? 'var(--straw)' : 'var(--ink)'}
          />
        </svg>
      </Slider.Thumb>
    </Slider.Root>
  );
}

import { useId, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';

interface RulerProps {
  label: string;
  value: number;
  low: number;
  high: number;
  /** Where Backspace returns to; drawn as a notch. */
  rest: number;
  /** One arrow step; Shift makes it a tenth. */
  step: number;
  unit?: string;
  format?: (value: number) => string;
  parse?: (text: string) => number | undefined;
  /** What it does to the sound and what it costs, in one line. */
  help: string;
  /** Called while dragging and at every step. */
  onChange: (value: number) => void;
  /** Called when a gesture begins and ends, so that it becomes one step of undo. */
  onGesture?: (phase: 'begin' | 'end') => void;
  /** 0…1, drawn as a thin level above the scale. */
  level?: number;
  disabled?: boolean;
  compact?: boolean;
}

/** A value on a horizontal scale: drag the marker, type the number, or step with the arrow keys. */
export function Ruler(props: RulerProps) {
  const {
    label,
    value,
    low,
    high,
    rest,
    step,
    unit = '',
    help,
    onChange,
    onGesture,
    level,
    disabled,
    compact,
  } = props;
  const format = props.format ?? ((v: number) => `${Math.round(v * 10) / 10}`.replace('-', '−'));
  const parse = props.parse ?? ((text: string) => toNumber(text));
  const helpId = useId();
  const track = useRef<HTMLDivElement>(null);
  const [typed, setTyped] = useState<string>();
  const hold = (v: number) => Math.min(high, Math.max(low, v));
  const share = (v: number) => ((hold(v) - low) / (high - low)) * 100;

  const fromPointer = (event: PointerEvent) => {
    const box = track.current?.getBoundingClientRect();
    if (!box) return;
    const raw = low + ((event.clientX - box.left) / box.width) * (high - low);
    onChange(hold(Math.round(raw / (step / 10)) * (step / 10)));
  };
  const onKey = (event: KeyboardEvent) => {
    const size = event.shiftKey ? step / 10 : step;
    const to: Record<string, number> = {
      ArrowRight: value + size,
      ArrowUp: value + size,
      ArrowLeft: value - size,
      ArrowDown: value - size,
      Home: low,
      End: high,
      Backspace: rest,
      PageUp: value + step * 5,
      PageDown: value - step * 5,
    };
    if (!(event.key in to)) return;
    event.preventDefault();
    event.stopPropagation();
    onChange(hold(Math.round(to[event.key] * 1000) / 1000));
  };
  const commit = () => {
    const parsed = typed === undefined ? undefined : parse(typed);
    setTyped(undefined);
    if (parsed !== undefined) onChange(hold(parsed));
  };

  return (
    <div className={compact ? '' : 'pb-0.5'} title={help}>
      <div className="flex items-baseline justify-between gap-2">
        <span className="text-ink">{label}</span>
        <span className="flex items-baseline">
          <input
            aria-label={`${label}, typed`}
            className={`h-6 ${compact ? 'w-11' : 'w-14'} rounded-sm border border-transparent bg-transparent px-0.5 text-right font-semibold hover:border-rule focus:border-rule focus:bg-raised`}
            value={typed ?? format(value)}
            disabled={disabled}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={commit}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === 'Enter') commit();
              if (event.key === 'Escape') setTyped(undefined);
            }}
          />
          {unit && <span className="ml-0.5 text-ink-2">{unit}</span>}
        </span>
      </div>
      <div
        ref={track}
        role="slider"
        tabIndex={disabled ? -1 : 0}
        aria-label={label}
        aria-valuemin={low}
        aria-valuemax={high}
        aria-valuenow={Math.round(value * 1000) / 1000}
        aria-valuetext={`${format(value)} ${unit}`.trim()}
        aria-describedby={helpId}
        aria-disabled={disabled}
        className="relative h-6 cursor-ew-resize touch-none"
        onKeyDown={disabled ? undefined : onKey}
        onPointerDown={(event) => {
          if (disabled) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          onGesture?.('begin');
          fromPointer(event);
        }}
        onPointerMove={(event) =>
          event.currentTarget.hasPointerCapture(event.pointerId) && fromPointer(event)
        }
        onPointerUp={() => onGesture?.('end')}
        onPointerCancel={() => onGesture?.('end')}
      >
        {level !== undefined && (
          <div className="absolute top-[5px] right-0 left-0 h-[2px] bg-rule-soft">
            <div className="h-full bg-ink-3" style={{ width: `${Math.min(1, Math.max(0, level)) * 100}%` }} />
          </div>
        )}
        <div className="absolute top-[14px] right-0 left-0 h-px bg-ink-3" />
        {Array.from({ length: 9 }, (_, i) => (
          <div
            key={i}
            className={`absolute w-px bg-rule ${i % 4 === 0 ? 'top-[9px] h-[6px]' : 'top-[11px] h-[4px]'}`}
            style={{ left: `${(i / 8) * 100}%` }}
          />
        ))}
        <div className="absolute top-[13px] left-0 h-[3px] bg-cool" style={{ width: `${share(value)}%` }} />
        <svg
          className="absolute top-[16px] -ml-[3px]"
          width="6"
          height="4"
          style={{ left: `${share(rest)}%` }}
          aria-hidden
        >
          <path d="M3 0L6 4H0Z" fill="var(--ink-3)" />
        </svg>
        <svg
          className="absolute top-[5px] -ml-[4px]"
          width="8"
          height="11"
          style={{ left: `${share(value)}%` }}
          aria-hidden
        >
          <path d="M0 0H8V7L4 11L0 7Z" fill="var(--ink)" />
        </svg>
      </div>
      <span id={helpId} className="sr-only">
        {help}
      </span>
    </div>
  );
}

/** A number as people type it, with a comma or a long minus. */
export function toNumber(text: string): number | undefined {
  const value = Number(
    text
      .replace(',', '.')
      .replace('−', '-')
      .replace(/[^\d.+-]/g, ''),
  );
  return text.trim() !== '' && Number.isFinite(value) ? value : undefined;
}

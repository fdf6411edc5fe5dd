import { Slider } from 'radix-ui';
import { useId, useState, type KeyboardEvent } from 'react';

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
  const [typed, setTyped] = useState<string>();
  const hold = (v: number) => Math.min(high, Math.max(low, v));
  const share = (v: number) => ((hold(v) - low) / (high - low)) * 100;

  const onKey = (event: KeyboardEvent) => {
    // The steps of the hand are a tenth of those of the keys, which the slider itself cannot tell apart.
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
            className={`h-6 ${format(value).length > 5 ? 'w-16' : compact ? 'w-12' : 'w-14'} rounded-sm border border-transparent bg-transparent px-0.5 text-right font-semibold hover:border-rule focus:border-rule focus:bg-raised`}
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
      <Slider.Root
        value={[hold(value)]}
        min={low}
        max={high}
        step={step / 10}
        disabled={disabled}
        className="relative -mx-2 block h-6 cursor-ew-resize touch-none"
        onKeyDown={disabled ? undefined : onKey}
        onPointerDownCapture={disabled ? undefined : () => onGesture?.('begin')}
        onLostPointerCapture={() => onGesture?.('end')}
        onValueChange={([v]) => onChange(hold(Math.round(v * 1000) / 1000))}
      >
        {/* The marker, 24 pixels wide to be hit, keeps within the box by half of that; the scale is inset alike. */}
        <span className="pointer-events-none absolute inset-x-3 inset-y-0" aria-hidden>
          {level !== undefined && (
            <span className="absolute top-[5px] right-0 left-0 h-[2px] bg-rule-soft">
              <span
                className="block h-full bg-ink-3"
                style={{ width: `${Math.min(1, Math.max(0, level)) * 100}%` }}
              />
            </span>
          )}
          {Array.from({ length: 9 }, (_, i) => (
            <span
              key={i}
              className={`absolute w-px bg-rule ${i % 4 === 0 ? 'top-[9px] h-[6px]' : 'top-[11px] h-[4px]'}`}
              style={{ left: `${(i / 8) * 100}%` }}
            />
          ))}
          <svg
            className="absolute top-[16px] -ml-[3px]"
            width="6"
            height="4"
            style={{ left: `${share(rest)}%` }}
          >
            <path d="M3 0L6 4H0Z" fill="var(--ink-3)" />
          </svg>
        </span>
        <Slider.Track className="absolute inset-x-3 top-[14px] block h-px bg-ink-3">
          <Slider.Range className="absolute -top-px h-[3px] bg-cool" />
        </Slider.Track>
        <Slider.Thumb
          aria-disabled={disabled}
          aria-label={label}
          aria-valuetext={`${format(value)} ${unit}`.trim()}
          aria-describedby={helpId}
          className="flex h-6 w-6 justify-center pt-[5px]"
        >
          <svg className="pointer-events-none block" width="8" height="11" aria-hidden>
            <path d="M0 0H8V7L4 11L0 7Z" fill="var(--ink)" />
          </svg>
        </Slider.Thumb>
      </Slider.Root>
      <span id={helpId} className="sr-only">
        {help}
      </span>
    </div>
  );
}

/** A number as people type it, with a comma or a long minus, with or without its unit; undefined when there is none in it. */
export function toNumber(text: string): number | undefined {
  const value = Number(
    text
      .replace(',', '.')
      .replace('−', '-')
      .replace(/[^\d.+-]/g, ''),
  );
  return /\d/.test(text) && Number.isFinite(value) ? value : undefined;
}

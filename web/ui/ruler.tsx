import { Slider } from 'radix-ui';
import { useId, type KeyboardEvent } from 'react';
import { toNumber } from './numbers.ts';
import { useTyped } from './use-typed.ts';

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
  /** What was typed as a value, or a sentence why it is none. */
  parse?: (text: string) => number | string;
  /** What it does to the sound and what it costs, in one line. */
  help: string;
  /** Called while dragging and at every step. */
  onChange: (value: number) => void;
  /** Called when a gesture begins and ends, so that it becomes one step of undo. */
  onGesture?: (phase: 'begin' | 'end') => void;
  /** 0…1, drawn as a thin level above the scale. */
  level?: number;
  /** Nothing was chosen yet: the marker stands hollow at `value`, and nothing is filled. */
  unset?: boolean;
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
    unset,
    disabled,
    compact,
  } = props;
  const format = props.format ?? ((v: number) => `${Math.round(v * 10) / 10}`.replace('-', '−'));
  const helpId = useId();
  const hold = (v: number) => Math.min(high, Math.max(low, v));
  const share = (v: number) => ((hold(v) - low) / (high - low)) * 100;

  const parse =
    props.parse ??
    ((text: string) => {
      // What is written for the bottom, such as a level of nothing, can be typed as well.
      if (text.trim() === format(low) || (format(low) === '−∞' && /^(off|-?∞)$/i.test(text.trim())))
        return low;
      return toNumber(text) ?? `A number from ${format(low)} to ${format(high)}${unit && ` ${unit}`}.`;
    });
  const { field, wrong, reset } = useTyped(format(value), (text) => {
    const parsed = parse(text);
    if (typeof parsed === 'string') return parsed;
    onChange(hold(parsed));
  });
  const move = (to: number) => {
    reset();
    onChange(hold(Math.round(to * 1000) / 1000));
  };

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
    move(to[event.key]);
  };
  return (
    <div className={compact ? '' : 'pb-0.5'} title={help}>
      <div className="relative flex items-baseline justify-between gap-2">
        <span className="text-ink">{label}</span>
        <span className="flex items-baseline">
          <input
            aria-label={`${label}, typed`}
            className={`h-6 ${format(value).length > 5 ? 'w-16' : compact ? 'w-12' : 'w-14'} rounded-sm border bg-transparent px-0.5 text-right font-semibold focus:bg-raised ${wrong === undefined ? 'border-transparent hover:border-rule focus:border-rule' : 'border-warm'}`}
            disabled={disabled}
            {...field}
          />
          {unit && <span className="ml-0.5 text-ink-2">{unit}</span>}
        </span>
        {wrong !== undefined && (
          <span
            role="alert"
            className="absolute inset-x-0 top-6 z-20 rounded-sm border border-warm bg-raised px-1.5 py-0.5 text-xs text-warm"
          >
            {wrong}
          </span>
        )}
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
        onValueChange={([v]) => move(v)}
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
          <Slider.Range className={`absolute -top-px h-[3px] ${unset ? '' : 'bg-cool'}`} />
        </Slider.Track>
        <Slider.Thumb
          aria-disabled={disabled}
          aria-label={label}
          aria-valuetext={unset ? 'not set' : `${format(value)} ${unit}`.trim()}
          aria-describedby={helpId}
          className="flex h-6 w-6 justify-center pt-[5px]"
        >
          <svg className="pointer-events-none block" width="8" height="11" aria-hidden>
            {unset ? (
              <path
                d="M.5 .5H7.5V6.8L4 10.3L.5 6.8Z"
                fill="var(--sheet)"
                stroke="var(--ink-3)"
                strokeDasharray="1.5 1.5"
              />
            ) : (
              <path d="M0 0H8V7L4 11L0 7Z" fill="var(--ink)" />
            )}
          </svg>
        </Slider.Thumb>
      </Slider.Root>
      <span id={helpId} className="sr-only">
        {help}
      </span>
    </div>
  );
}

import { wholeWithin } from './numbers.ts';
import { Typed } from './typed.tsx';

/** Lowest and highest of a range of whole numbers, each typed; one that passes the other takes it along. */
export function TypedRange({
  labels,
  low,
  high,
  least,
  disabled,
  onCommit,
}: {
  /** What the lower and the higher value are called. */
  labels: readonly [lowest: string, highest: string];
  low: number;
  high: number;
  /** Least value of either; the most is 127. */
  least: 0 | 1;
  disabled: boolean;
  onCommit: (low: number, high: number) => void;
}) {
  const parse = wholeWithin(least, 127);
  return (
    <>
      <Typed
        label={labels[0]}
        width="w-10"
        value={String(low)}
        parse={parse}
        disabled={disabled}
        onCommit={(value) => onCommit(value, Math.max(high, value))}
      />
      <span className="pt-1 text-ink-2">to</span>
      <Typed
        label={labels[1]}
        width="w-10"
        value={String(high)}
        parse={parse}
        disabled={disabled}
        onCommit={(value) => onCommit(Math.min(low, value), value)}
      />
    </>
  );
}

import { useState } from 'react';

/** A short value that is typed: taken over by Enter or when left, put back by Escape. What makes no sense is told by `invalid`. */
export function Typed({
  label,
  value,
  parse,
  onCommit,
  disabled,
  width = 'w-12',
}: {
  label: string;
  value: string;
  /** The value meant, or a sentence why it is none. */
  parse: (text: string) => number | string;
  onCommit: (value: number) => void;
  disabled?: boolean;
  width?: string;
}) {
  const [typed, setTyped] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const commit = () => {
    if (typed === undefined || typed === value) {
      setTyped(undefined);
      setWrong(undefined);
      return;
    }
    const parsed = parse(typed);
    if (typeof parsed === 'string') {
      setWrong(parsed);
      return;
    }
    setTyped(undefined);
    setWrong(undefined);
    onCommit(parsed);
  };
  return (
    <span className="inline-flex flex-col">
      <input
        aria-label={label}
        aria-invalid={wrong !== undefined}
        className={`h-6 ${width} rounded-sm border bg-raised px-1 font-semibold ${wrong === undefined ? 'border-rule' : 'border-warm'}`}
        value={typed ?? value}
        disabled={disabled}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') commit();
          if (event.key === 'Escape') {
            setTyped(undefined);
            setWrong(undefined);
          }
        }}
      />
      {wrong !== undefined && (
        <span role="alert" className="max-w-[220px] text-xs text-warm">
          {wrong}
        </span>
      )}
    </span>
  );
}

/** Reads a whole number within bounds. @param shift what is shown is this much higher than what is meant */
export function wholeWithin(low: number, high: number, shift = 0): (text: string) => number | string {
  return (text) => {
    const value = Number(text.trim());
    return text.trim() !== '' && Number.isInteger(value) && value >= low + shift && value <= high + shift
      ? value - shift
      : `A whole number from ${low + shift} to ${high + shift}.`;
  };
}

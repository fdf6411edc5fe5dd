import type { SelectHTMLAttributes } from 'react';

/** A native choice with a label that may be shown or only told. */
export function Choice({
  label,
  hideLabel,
  options,
  className = '',
  ...rest
}: SelectHTMLAttributes<HTMLSelectElement> & {
  label: string;
  hideLabel?: boolean;
  options: readonly { value: string; text: string }[];
}) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span aria-hidden={hideLabel} className={hideLabel ? 'sr-only' : 'text-ink'}>
        {label}
      </span>
      <select
        aria-label={label}
        className={`min-h-6 max-w-full min-w-0 rounded-md border border-rule bg-raised px-1.5 py-0.5 text-sm text-ink ${className}`}
        {...rest}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.text}
          </option>
        ))}
      </select>
    </label>
  );
}

import { useTyped } from './use-typed.ts';

/** A short value that is typed: taken over by Enter or when left, put back by Escape. What makes no sense is told below it. */
export function Typed<T extends number | readonly string[] = number>({
  label,
  value,
  parse,
  onCommit,
  disabled,
  width = 'w-12',
  title,
}: {
  label: string;
  value: string;
  /** The value meant, or a sentence why it is none. */
  parse: (text: string) => T | string;
  onCommit: (value: T) => void;
  disabled?: boolean;
  width?: string;
  title?: string;
}) {
  const { field, wrong } = useTyped(value, (text) => {
    const parsed = parse(text);
    if (typeof parsed === 'string') return parsed;
    onCommit(parsed);
  });
  return (
    <span className="inline-flex flex-col">
      <input
        aria-label={label}
        className={`h-6 ${width} rounded-sm border bg-raised px-1 font-semibold ${wrong === undefined ? 'border-rule' : 'border-warm'}`}
        disabled={disabled}
        title={title}
        {...field}
      />
      {wrong !== undefined && (
        <span role="alert" className="max-w-[220px] text-xs text-warm">
          {wrong}
        </span>
      )}
    </span>
  );
}

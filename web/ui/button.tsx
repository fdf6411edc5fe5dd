import type { ButtonHTMLAttributes } from 'react';

type Look = 'plain' | 'main' | 'quiet' | 'loss';

const LOOKS: Record<Look, string> = {
  plain: 'border border-rule bg-raised text-ink hover:border-ink-3',
  main: 'border border-cool bg-cool text-on-cool hover:opacity-90',
  quiet: 'border border-transparent text-ink-2 hover:text-ink hover:bg-rule-soft',
  loss: 'border border-rule bg-raised text-warm hover:border-warm',
};

/** A push button; `pressed` makes it a toggle that says so to assistive technology. */
export function Button({
  look = 'plain',
  pressed,
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; pressed?: boolean }) {
  const state = pressed ? 'border border-cool bg-cool-tint text-ink' : LOOKS[look];
  return (
    <button
      type="button"
      aria-pressed={pressed}
      className={`inline-flex min-h-6 items-center justify-center gap-1.5 rounded-md px-2.5 py-1 text-sm whitespace-nowrap disabled:opacity-50 ${state} ${className}`}
      {...rest}
    />
  );
}

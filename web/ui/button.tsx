import { Toggle, Tooltip } from 'radix-ui';
import type { ButtonHTMLAttributes } from 'react';

/** `icon` is a sign alone: it needs an `aria-label`, and a `title` that says what it does. */
type Look = 'plain' | 'main' | 'quiet' | 'loss' | 'icon';

const LOOKS: Record<Look, string> = {
  plain: 'border border-rule bg-raised text-ink hover:border-ink-3',
  main: 'border border-cool bg-cool text-on-cool hover:opacity-90',
  quiet: 'border border-transparent text-ink-2 hover:text-ink hover:bg-rule-soft',
  icon: 'text-ink-3 hover:text-ink',
  loss: 'border border-rule bg-raised text-warm hover:border-warm',
};

/**
 * A push button; `pressed` makes it a toggle that says so to assistive technology. A `title` is shown to those who
 * point at it and to those who come by the keyboard.
 */
export function Button({
  look = 'plain',
  pressed,
  className = '',
  title,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; pressed?: boolean }) {
  const shape = look === 'icon' ? 'size-6' : 'min-h-6 gap-1.5 px-2.5 py-1';
  const state = pressed ? 'border border-cool bg-cool-tint text-ink' : LOOKS[look];
  const given = {
    type: 'button' as const,
    className: `inline-flex items-center justify-center rounded-md text-sm whitespace-nowrap disabled:opacity-50 ${shape} ${state} ${className}`,
    ...rest,
  };
  const button = pressed === undefined ? <button {...given} /> : <Toggle.Root pressed={pressed} {...given} />;
  if (!title) return button;
  // A disabled button gets no pointer: only the browser's own hint is shown for it.
  if (rest.disabled) return <span title={title}>{button}</span>;
  return (
    <Tooltip.Provider delayDuration={500}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>{button}</Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="z-30 max-w-[320px] rounded-md border border-rule bg-raised px-2.5 py-1.5 text-xs text-ink"
          >
            {title}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

import { DropdownMenu as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { Check } from 'lucide-react';

/** What a menu offers; `loss` marks what cannot be had again so easily. */
export interface MenuItem {
  text: string;
  /** Key that does the same, for people who learn it. */
  keys?: string;
  disabled?: boolean;
  loss?: boolean;
  /** Something that is on or off, and stays so. */
  checked?: boolean;
  onSelect: () => void;
}

/** A menu that opens from a control. Groups are parted by a line. */
export function Menu({
  label,
  trigger,
  groups,
  className = '',
  head,
}: {
  label: string;
  trigger: ReactNode;
  groups: readonly (readonly MenuItem[])[];
  className?: string;
  /** Shown above the items. */
  head?: ReactNode;
}) {
  return (
    <Radix.Root modal={false}>
      <Radix.Trigger
        aria-label={label}
        title={label}
        className={`inline-flex min-h-6 items-center justify-center gap-1 rounded-md px-1.5 text-ink-2 hover:text-ink data-[state=open]:bg-cool-tint ${className}`}
      >
        {trigger}
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          align="end"
          sideOffset={4}
          collisionPadding={8}
          className="z-30 max-h-[80vh] min-w-[190px] overflow-auto rounded-md border border-rule bg-raised py-1"
        >
          {head && <div className="border-b border-rule-soft px-3 pt-1 pb-2">{head}</div>}
          {groups
            .filter((group) => group.length > 0)
            .map((group, i) => (
              <Radix.Group key={i} className={i > 0 ? 'mt-1 border-t border-rule-soft pt-1' : ''}>
                {group.map((item) => (
                  <Offered key={item.text} {...item} />
                ))}
              </Radix.Group>
            ))}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

function Offered({ text, keys, disabled, loss, checked, onSelect }: MenuItem) {
  const look = `flex min-h-7 cursor-pointer items-center justify-between gap-6 px-3 outline-none data-[disabled]:cursor-default data-[disabled]:opacity-50 data-[highlighted]:bg-cool-tint ${loss ? 'text-warm' : ''}`;
  if (checked !== undefined)
    return (
      <Radix.CheckboxItem checked={checked} disabled={disabled} onSelect={onSelect} className={look}>
        {text}
        <Check size={14} aria-hidden className={checked ? '' : 'invisible'} />
      </Radix.CheckboxItem>
    );
  return (
    <Radix.Item disabled={disabled} onSelect={onSelect} className={look}>
      {text}
      {keys && <span className="text-xs text-ink-3">{keys}</span>}
    </Radix.Item>
  );
}

import { Dialog as Radix } from 'radix-ui';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';

/** A dialog, for imports and for confirming loss only. */
export function Dialog({
  title,
  about,
  wide = false,
  narrow = false,
  onClose,
  children,
}: {
  title: string;
  about: string;
  /** For tables. */
  wide?: boolean;
  /** For a question. */
  narrow?: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Radix.Root open onOpenChange={(open) => !open && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 bg-black/30" />
        <Radix.Content
          className={`fixed top-1/2 left-1/2 max-h-[92vh] ${wide ? 'w-[940px]' : narrow ? 'w-[440px]' : 'w-[620px]'} max-w-[96vw] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-rule bg-sheet p-6`}
        >
          <Radix.Title className="font-serif text-xl font-semibold">{title}</Radix.Title>
          <Radix.Description className="mt-1 mb-4 text-ink-2">{about}</Radix.Description>
          {children}
          <Radix.Close
            aria-label="Close"
            className="absolute top-3 right-3 grid size-7 place-items-center text-ink-2 hover:text-ink"
          >
            <X size={16} />
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
